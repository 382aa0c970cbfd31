"""What a client is told of faces, zones and marks."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from retouch.edit.values import Point
from studio.portraits.api.edit_schemas import Strict


class ZoneOut(Schema):
    """A zone's name and words; ``together`` stands for several zones, a ``region`` is drawn from the mesh."""

    name: str
    title: str
    kind: Literal["face", "skin", "feature", "rest", "over", "together", "region"]


class FaceOut(Schema):
    """A face. ``anchor`` is the place that names the person for good in masks, passes and operations;
    ``box`` is x, y, width, height; ``irises`` x, y, radius of the right and left eye.

    ``outlines`` of eyes, brows, lips and the face as the mesh has them. All in pixels of the
    original; angles in degrees; ``uncertainty`` of the scale is relative. ``doubts`` says in words what
    isn't sure.
    """

    number: int
    title: str
    anchor: Point
    box: list[float]
    by_hand: bool
    score: float
    yaw: float
    pitch: float
    roll: float
    px_per_mm: float
    uncertainty: float
    pupils_mm: float
    plausible: bool
    scale_source: Literal["iris", "pupils", "hand"]
    irises: list[list[float]]
    outlines: list[list[Point]]
    doubts: list[str]


class PlaceOut(Schema):
    """A zone of a face: its extent, and how many touches of which strength (0..1) lie in it. ``outlines``: polygons
    to draw it by, in pixels of the original.
    """

    zone: str
    face: int
    rect: list[int]
    touches: int
    strength: float
    outlines: list[list[list[float]]]


class MarkOut(Schema):
    """A mark; ``touch_id`` names the touch of the user's decision, ``cleared`` that it is healed."""

    id: str
    face: int
    zone: str
    x: float
    y: float
    radius: float
    reach: float
    kind: Literal["red", "dark", "light", "raised"]
    contrast: float
    blood: float
    confidence: float
    proposal: Literal["clear", "keep", "ask"]
    decision: Literal["clear", "keep", "ask"]
    touch_id: str | None
    cleared: bool


class AnalysisOut(Schema):
    """What is known of a portrait's faces, and how far the looking has come.

    ``key`` names the analysis by its content; empty while there is none.
    """

    key: str = ""
    state: Literal["waiting", "working", "done", "failed"]
    share: float
    doing: str
    faces: list[FaceOut] = []
    places: list[PlaceOut] = []
    marks: list[MarkOut] = []
    missed: list[list[float]] = []
    seen: list[str] = []


class RedEyeOut(Schema):
    """A pupil that the flash made glow, and the dab that takes it in, in pixels of the original."""

    face: int
    side: Literal["right", "left"]
    x: float
    y: float
    radius_px: float


class ReflectionOut(Schema):
    """A reflection on a lens, its outline and a place well within it; ``burnt``: nothing is seen through it."""

    face: int
    side: Literal["right", "left"]
    burnt: bool
    path: list[tuple[float, float]]
    place: tuple[float, float]


class LaidOverOut(Schema):
    """Another portrait laid over this one: its content and size, pins (x, y, u, v) from this one's pixels to
    its own, and the same as plain maps (2 rows of 3): ``there`` from this one, ``back`` to it."""

    name: str
    picture: str
    width: int
    height: int
    pins: list[tuple[float, float, float, float]]
    there: list[tuple[float, float, float]]
    back: list[tuple[float, float, float]]


class GlassesOut(Schema):
    """Which faces wear glasses or braces, by their numbers, and the reflections on the lenses."""

    faces: list[int]
    braces: list[int]
    reflections: list[ReflectionOut]


class PullOut(Schema):
    """A number that a hold changes: by ``per_mm`` for each mm in the direction ``way``."""

    number: str
    title: str
    unit: str
    pair: str
    way: tuple[float, float]
    per_mm: float


class HoldOut(Schema):
    """A place of a face that one can take hold of, in pixels of the original, and what pulling it does."""

    title: str
    side: Literal["", "right", "left"]
    at: tuple[float, float]
    pulls: list[PullOut]


class PassMovedOut(Schema):
    """What one pass moved: where, which numbers, the largest shift; ``of_head`` in per cent of the face's
    height. mm and per cent are none where no face is known.
    """

    pass_id: str
    name: str
    where: str
    what: list[str]
    most_px: float
    most_mm: float | None
    of_head: float | None


class PassReadingOut(Schema):
    """A number that a pass tells of itself, before and with it.

    ``limit`` is its ceiling, or its floor if it is a ``least``; ``beyond``: the pass takes it past that.
    ``of``: the settings beside which it stands; ``usual``: the range that it has as a rule.
    """

    name: str
    title: str
    meaning: str
    before: float
    after: float
    limit: float | None
    least: bool
    unit: str
    beyond: bool
    of: list[str]
    usual: tuple[float, float] | None


class PassReadOut(Schema):
    """What a pass tells of itself: numbers, and sentences about where it stands."""

    readings: list[PassReadingOut]
    notes: list[str]


class ReadingOut(Schema):
    """A zone's fine texture in per cent of the original's, and its median CIEDE2000."""

    zone: str
    texture: float
    change: float


class FindingOut(Schema):
    """One reading of the natural check. ``side``: whether the limit is a ceiling or a floor; a limit below 0: it is
    told always; ``told``: there is no limit. ``eases``: taking a pass back can help. ``place`` is x0, y0, x1, y1 in pixels of the original.
    """

    name: str
    title: str
    meaning: str
    zone: str
    value: float
    limit: float
    unit: str
    side: Literal["most", "least", "told"]
    face: int | None
    place: list[int] | None
    words: str
    amber: bool
    eases: bool


class AtStepOut(Schema):
    """A reading as it was at a step of the history; no value where it told nothing then."""

    step: int
    label: str
    value: float | None
    limit: float
    amber: bool


class SpotOut(Schema):
    """A place to look at in both pictures, in pixels of the framed picture."""

    x: int
    y: int
    width: int
    height: int


class SweepIn(Strict):
    """Names of the zones that have been shown, with their face: ``0-forehead``."""

    seen: Annotated[list[Annotated[str, Field(max_length=60)]], Field(max_length=500)]


class SeenMarkOut(Schema):
    """A mark on the person's other pictures of the session: on how many of them it is seen, what was decided there."""

    id: str
    seen_on: int
    of: int
    decision: Literal["", "keep", "clear"]


class SessionPersonOut(Schema):
    """Another picture of the session: whether the same person is on it, and what the user said (null: nothing)."""

    id: str
    name: str
    same: bool
    said: bool | None


class WhoIn(Strict):
    """Whether another picture shows the same person; null: as the program finds."""

    portrait: Annotated[str, Field(max_length=32)]
    same: bool | None

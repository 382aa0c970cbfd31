"""What the API of routines and runs takes and gives."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import Field

from retouch.edit.routine import MOST_DELIVERIES, PresetName
from studio.portraits.api.edit_schemas import Strict
from studio.portraits.api.schemas import DeliveryIn, DeliveryOut, PortraitOut

_Id = Annotated[str, Field(max_length=64)]
Percent = Annotated[float, Field(ge=0, le=100)]
PresetNames = Annotated[list[PresetName], Field(max_length=MOST_DELIVERIES)]
Numbers = Annotated[list[Annotated[int, Field(ge=0, le=100_000)]], Field(max_length=10_000)]


class RoutineOut(Schema):
    """A routine to choose; ``own`` ones can be changed. ``routine`` is its file."""

    name: str
    own: bool
    title: str
    meaning: str
    stage: str
    glasses: bool
    spots_from: float | None
    revision: int
    steps: list[str]
    deliveries: list[str]
    routine: dict[str, Any]


class LearnIn(Strict):
    """What a routine is made of: passes of a portrait (none given: all that act).

    ``alone``: passes for the largest face only. Without ``keep`` it is only told what it would hold.
    """

    title: Annotated[str, Field(max_length=200)]
    note: Annotated[str, Field(max_length=1000)] = ""
    ids: Annotated[list[_Id], Field(max_length=500)] | None = None
    alone: Annotated[list[_Id], Field(max_length=500)] = []
    spots_from: Percent | None = None
    deliveries: PresetNames = []
    keep: bool = True


class LearnedOut(Schema):
    """The routine, which of its passes are fitted to each face, and in words what isn't in it."""

    name: str
    title: str
    steps: list[str]
    fitted: list[str]
    left_out: list[str]


class ChangeRoutineIn(Strict):
    """What isn't given stays."""

    title: Annotated[str, Field(max_length=200)] | None = None
    note: Annotated[str, Field(max_length=1000)] | None = None
    spots_from: Percent | None = None
    no_spots: bool = False
    deliveries: PresetNames | None = None


class TakenRoutineOut(Schema):
    """A routine from a file, and in words what of it can't be used."""

    routine: RoutineOut
    left_out: list[str]


class ForeseenOut(Schema):
    """What a step will do on a face: it acts, or why it is left out."""

    title: str
    acts: bool
    why: str


class RunIn(Strict):
    """A run of a routine over portraits, in their order."""

    portraits: Annotated[list[_Id], Field(min_length=1, max_length=10_000)]
    routine: _Id
    strength: Percent = 100.0
    spots_from: Percent | None = None
    title: Annotated[str, Field(max_length=120)] = ""


class RunOut(Schema):
    """Where a run stands; ``seconds_left`` is None where that isn't known. ``deliveries``: the presets that
    its routine names."""

    id: str
    title: str
    state: Literal["going", "paused", "done", "cancelled"]
    strength: float
    created_at: datetime
    waiting: int
    working: int
    done: int
    failed: int
    cancelled: int
    accepted: int
    seconds_left: float | None
    deliveries: list[str]


class ItemOut(Schema):
    """One portrait of a run: what became of it, with readings, and what the user said about it. ``share`` 0..1 is
    done of one under way, ``doing`` what is being done; none where its worker can't tell."""

    number: int
    portrait: PortraitOut
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    share: float | None
    doing: str
    message: str
    note: str
    faces: int
    asked: int
    healed: int
    texture: float | None
    colour: float | None
    beyond: list[str]
    review: Literal["open", "accepted", "undone"]
    can_ease: bool


class ItemsOut(Schema):
    """A page of a run's items; ``count`` in all."""

    count: int
    items: list[ItemOut]


class ChosenIn(Strict):
    """Some items by their numbers; none given: all that are open."""

    numbers: Numbers | None = None


class AcceptIn(ChosenIn):
    accepted: bool = True


class EaseIn(ChosenIn):
    strength: Percent


class EasedOut(Schema):
    """How many were eased, and how many had nothing to ease."""

    eased: int
    left: int


class DeliverRunIn(ChosenIn):
    wish: DeliveryIn


class DeliveriesOut(Schema):
    """Deliveries that were begun together; ``batch`` names them."""

    batch: str
    deliveries: list[DeliveryOut]

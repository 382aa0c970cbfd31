"""An edit: plain immutable data that says everything that was done to a portrait."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

VERSION = 1

Value = float | bool | str
Point = tuple[float, float]


@dataclass(frozen=True)
class Touch:
    """One thing done by hand.

    Parameters
    ----------
    id : str
        Unique within the edit.
    path : tuple of (x, y)
        One point for a dab, more for a stroke; pixels of the original, centres at +0.5.
    values : mapping
        What the kind of pass declares for its touches (``radius_px``, ``softness``, …).
        Not to be modified.
    source : (int, int), optional
        Offset in pixels from the place to its source. None: not chosen yet.
    spare : tuple of outlines
        Closed outlines that the touch takes nothing from.
    enabled : bool
        A touch that is off changes nothing and is kept.
    """

    id: str
    path: tuple[Point, ...]
    values: Mapping[str, Value] = field(default_factory=dict)
    source: tuple[int, int] | None = None
    spare: tuple[tuple[Point, ...], ...] = ()
    enabled: bool = True


@dataclass(frozen=True)
class MaskStroke:
    """A stroke that shows (``reveal``) or hides the pass where it goes.

    ``radius_px`` is the brush's radius; ``softness`` and ``flow`` are per cent. Each dab brings
    what is there nearer to fully shown or hidden by its flow, so strokes build up.
    """

    path: tuple[Point, ...]
    radius_px: float
    softness: float = 50.0
    flow: float = 100.0
    reveal: bool = False


@dataclass(frozen=True)
class Mask:
    """Where a pass acts: everywhere, or inside a closed outline; then painted on.

    ``feather_px`` is the width over which the edge of the outline fades, half to each side.
    ``invert`` turns the outline over; the ``strokes`` come after it, in order.
    """

    kind: Literal["everything", "outline"] = "everything"
    points: tuple[Point, ...] = ()
    feather_px: float = 0.0
    invert: bool = False
    strokes: tuple[MaskStroke, ...] = ()


EVERYTHING = Mask()


@dataclass(frozen=True)
class Pass:
    """One correction: ``kind`` names an entry of the registry, ``strength`` is 0..100 per cent."""

    id: str
    kind: str
    name: str = ""
    settings: Mapping[str, Value] = field(default_factory=dict)
    mask: Mask = EVERYTHING
    strength: float = 100.0
    blend: str = "normal"
    enabled: bool = True
    touches: tuple[Touch, ...] = ()


@dataclass(frozen=True)
class Edit:
    """All passes of a portrait, the lowest first."""

    passes: tuple[Pass, ...] = ()
    version: int = VERSION

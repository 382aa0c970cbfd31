"""An edit: plain immutable data that says everything that was done to a portrait."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from retouch.edit.mask import EVERYTHING, Mask, Point

VERSION = 1

Value = float | bool | str


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
        Closed outlines that the touch takes nothing from: neither pixels nor, for a heal, tone.
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
class Pass:
    """One correction: ``kind`` names an entry of the registry, ``strength`` is 0..100 per cent.

    It acts when it is ``enabled`` and its stage isn't switched off (``stage_on``).
    """

    id: str
    kind: str
    name: str = ""
    settings: Mapping[str, Value] = field(default_factory=dict)
    mask: Mask = EVERYTHING
    strength: float = 100.0
    blend: str = "normal"
    enabled: bool = True
    stage_on: bool = True
    touches: tuple[Touch, ...] = ()

    @property
    def on(self) -> bool:
        """Whether it is switched on, itself and with its stage."""
        return self.enabled and self.stage_on


@dataclass(frozen=True)
class Edit:
    """All passes of a portrait, the lowest first."""

    passes: tuple[Pass, ...] = ()
    version: int = VERSION

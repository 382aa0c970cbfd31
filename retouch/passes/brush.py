"""What touches of a brush with a source have in common, whatever they do there."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from retouch import heal
from retouch.edit.model import Touch
from retouch.edit.values import Point
from retouch.errors import EditError
from retouch.geometry import Rect
from retouch.heal import Candidate, Footprint
from retouch.passes.banded import banded
from retouch.passes.ways import Avoid, Reader, Values


@lru_cache(maxsize=8192)
def footprint(path: tuple[Point, ...], radius: float) -> Footprint:
    """The place a brush covered; remembered, because every view asks for it."""
    return Footprint(path, radius)


def footprint_of(touch: Touch) -> Footprint:
    """The place a touch with a ``radius_px`` covered."""
    return footprint(touch.path, float(touch.values["radius_px"]))


def source_of(touch: Touch) -> tuple[int, int]:
    """The offset in pixels from a touch to its source; `EditError` where none is chosen."""
    if touch.source is None:
        raise EditError(f"Touch {touch.id!r} has no source yet.")
    return touch.source


def offsets(found: list[Candidate]) -> list[tuple[int, int]]:
    """Offsets of proposed sources, in their order."""
    return [(c.dx, c.dy) for c in found]


def proposing(
    place: Callable[[Touch], Footprint],
) -> Callable[[Reader, Touch, Values, Rect, int, Avoid | None], list[tuple[int, int]]]:
    """What proposes sources (`Touches.propose`) for touches that copy, by the place of each."""

    def propose(
        read: Reader, touch: Touch, settings: Values, bounds: Rect, most: int, avoid: Avoid | None
    ) -> list[tuple[int, int]]:
        read = banded(read, settings, bounds)
        return offsets(heal.propose(read, place(touch), bounds, most, avoid))

    return propose

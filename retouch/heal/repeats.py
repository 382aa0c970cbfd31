"""Copied places that show: the same distinctive texture twice, near each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.heal.footprint import Footprint

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]

# Forms between these blurs (in brush radii) are what an eye recognises again: smaller than the
# brush, larger than grain.
_FINE, _BROAD = 0.08, 0.45
# Two places are the same when their forms correlate above this; skin and cloth beside each other
# stay below a third (measured on the demo portraits).
_ALIKE = 0.75
# … and it shows when the forms stand out this much from those of the surroundings.
_STANDS_OUT = 1.35
_PEAK = 4.5
# Touches from within this part of a radius were taken from the same place.
_TOGETHER = 1.0
# Places judged: not below this radius, where nothing can be recognised.
_LEAST_RADIUS = 4.0


@dataclass(frozen=True)
class Copied:
    """A touch as far as repeats are concerned: its name, place, and offset to its source."""

    id: str
    place: Footprint
    source: tuple[int, int]


@dataclass(frozen=True)
class Repeat:
    """A touch that visibly repeats another place (``source``); ``likeness`` is 0..1."""

    id: str
    rect: Rect
    source: Rect
    likeness: float


def find_repeats(read: Reader, touches: Sequence[Copied], bounds: Rect) -> list[Repeat]:
    """Touches whose place visibly repeats its source, or an earlier touch that was taken from the
    same place, the most alike first.

    Parameters
    ----------
    read : callable
        Gives the finished pixels of a rectangle within ``bounds``, (h, w, 3) float32.
    """
    found = []
    for n, touch in enumerate(touches):
        others = (o for e in touches[:n] if (o := _same_origin(touch, e)) is not None)
        tried = (_judged(read, touch, offset, bounds) for offset in (touch.source, *others))
        found.extend([r for r in tried if r is not None][:1])
    return sorted(found, key=lambda r: -r.likeness)


def _same_origin(touch: Copied, earlier: Copied) -> tuple[int, int] | None:
    """The offset from a touch to an earlier one, if both were taken from about the same place."""
    a, b = touch.place.bounds, earlier.place.bounds
    dx, dy = (b.x0 + b.x1 - a.x0 - a.x1) // 2, (b.y0 + b.y1 - a.y0 - a.y1) // 2
    apart = np.hypot(
        dx + earlier.source[0] - touch.source[0], dy + earlier.source[1] - touch.source[1]
    )
    if apart > _TOGETHER * touch.place.radius:
        return None
    # Copies of the same pixels are as far apart as their sources say, to the pixel.
    return touch.source[0] - earlier.source[0], touch.source[1] - earlier.source[1]


def _judged(read: Reader, touch: Copied, offset: tuple[int, int], bounds: Rect) -> Repeat | None:
    radius = touch.place.radius
    here = touch.place.bounds.clip(bounds)
    there = here.shift(*offset)
    if radius < _LEAST_RADIUS or here.empty or there.clip(bounds) != there:
        return None
    around = here.grow(int(np.ceil(2 * radius))).clip(bounds)
    surroundings = _forms(read(around), radius)
    top, left = here.y0 - around.y0, here.x0 - around.x0
    own = surroundings[top : top + here.height, left : left + here.width]
    wide = there.grow(int(np.ceil(radius))).clip(bounds)
    top, left = there.y0 - wide.y0, there.x0 - wide.x0
    other = _forms(read(wide), radius)[top : top + there.height, left : left + there.width]
    inside = touch.place.cover(here, 0.0) > 0.5
    likeness = _correlation(own[inside], other[inside])
    if likeness < _ALIKE:
        return None
    outside = np.ones(surroundings.shape, np.bool_)
    outside[here.y0 - around.y0 :, here.x0 - around.x0 :][: here.height, : here.width] = False
    usual = 1.4826 * float(np.median(np.abs(surroundings[outside]))) if outside.any() else 0.0
    strength = float(np.sqrt(np.square(own[inside]).mean()))
    peak = float(np.abs(own[inside]).max())
    if strength < _STANDS_OUT * usual and peak < _PEAK * usual:
        return None
    return Repeat(touch.id, here, there, likeness)


def _forms(area: Array, radius: float) -> Array:
    """The grey picture between two blurs, (h, w)."""
    grey = cv2.cvtColor(np.ascontiguousarray(area), cv2.COLOR_RGB2GRAY)
    fine = cv2.GaussianBlur(grey, (0, 0), max(_FINE * radius, 0.6))
    return np.asarray(fine - cv2.GaussianBlur(grey, (0, 0), max(_BROAD * radius, 1.5)), np.float32)


def _correlation(a: Array, b: Array) -> float:
    """Normalised correlation, -1..1; 0 where nothing varies."""
    a, b = a - a.mean(), b - b.mean()
    norm = float(np.sqrt(np.square(a).sum() * np.square(b).sum()))
    return float((a * b).sum()) / norm if norm > 1e-12 else 0.0

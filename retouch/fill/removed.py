"""What is to go from a place mustn't come back from beside it: a bracket from the next bracket."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.fill.width import usual_half

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Colours are counted in so many steps per channel, and shared with the neighbouring steps (sigma):
# those of the rim more widely, for a lip goes on with other lights and shades.
_STEPS = 16
_SHARED, _RIM_SHARED = 0.8, 1.4
# A colour is one of those that go when it makes up this part of the hole and is all but absent
# from the rim; a lip or a collar that continues into the hole is on the rim, too.
_IN_HOLE, _ON_RIM = 0.01, 0.003
# The rim in pixels: this wide at least, and so wide for each pixel of the hole's depth.
_LEAST_RIM, _RIM_PER_DEPTH = 5.0, 0.6
# Pixels between places of such colours that go along, around each, and the least size of one.
_GAP, _AROUND, _LEAST = 5, 2, 6
# What makes up this part of the rim somewhere goes on into the hole there, such as dark hair behind the
# end of a dark bar: counted within so many widths of the hole, and these pixels.
_HERE, _NEAR_WIDTHS, _NEAR = 0.25, 2.0, 10
# At least this part of what could be drawn from is left.
_LEFT = 0.3


def like_removed(area: Array, hole: Mask, allowed: Mask) -> Mask:
    """Places beside a hole that look like what is removed from it and like nothing on its rim.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1, with what is to be removed still in it.
    hole, allowed : ndarray (h, w) bool
        What is replaced, and what may be drawn from.

    Returns
    -------
    ndarray (h, w) bool
        A part of ``allowed``; empty when too little would be left without it.
    """
    none = np.zeros_like(hole)
    if not hole.any():
        return none
    depth = float(cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5).max())
    away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 5)
    rim = allowed & (away > 1) & (away <= max(_LEAST_RIM, _RIM_PER_DEPTH * depth))
    if not rim.any():
        return none
    colour = _steps_of(area)
    going = (_share(colour[hole], _SHARED) > _IN_HOLE) & (
        _share(colour[rim], _RIM_SHARED) < _ON_RIM
    )
    if not going.any():
        return none
    found = (going[colour] & allowed).astype(np.uint8)
    found = cv2.morphologyEx(found, cv2.MORPH_CLOSE, np.ones((_GAP, _GAP), np.uint8))
    count, parts, stats, _ = cv2.connectedComponentsWithStats(found, connectivity=8)
    large = np.zeros(count, np.bool_)
    large[1:] = stats[1:, cv2.CC_STAT_AREA] >= _LEAST
    half = usual_half(hole)
    side = 2 * round(_NEAR_WIDTHS * half + _NEAR) + 1
    close = rim & (away <= max(_LEAST_RIM, _RIM_PER_DEPTH * half))
    seen, beside = (
        cv2.boxFilter(m.astype(np.float32), -1, (side, side), borderType=cv2.BORDER_CONSTANT)
        for m in (close & (found > 0), close)
    )
    goes_on = close & (found > 0) & (seen > _HERE * beside)
    large[np.bincount(parts[goes_on], minlength=count) >= _LEAST] = False
    around = np.ones((2 * _AROUND + 1,) * 2, np.uint8)
    out = np.asarray(cv2.dilate(large[parts].astype(np.uint8), around) > 0) & allowed
    return out if np.count_nonzero(allowed & ~out) >= _LEFT * np.count_nonzero(allowed) else none


@compiled
def _steps_of(area: Array) -> NDArray[np.int32]:
    """The number of each pixel's colour among the steps."""
    h, w = area.shape[:2]
    out = np.empty((h, w), np.int32)
    for y in range(h):
        for x in range(w):
            number = 0
            for k in range(3):
                step = int(area[y, x, k] * np.float32(_STEPS))
                number = number * _STEPS + min(max(step, 0), _STEPS - 1)
            out[y, x] = number
    return out


def _share(colours: NDArray[np.int32], shared: float) -> NDArray[np.float64]:
    """The part that each colour has, with its neighbours', in all."""
    counts = np.bincount(colours, minlength=_STEPS**3).reshape((_STEPS,) * 3).astype(np.float64)
    for axis in range(3):
        lines = np.ascontiguousarray(np.moveaxis(counts, axis, 0).reshape(_STEPS, -1))
        lines = cv2.GaussianBlur(lines, (1, 9), sigmaX=shared, sigmaY=shared)
        counts = np.moveaxis(lines.reshape(_STEPS, _STEPS, _STEPS), 0, axis)
    return np.asarray(counts.ravel() / max(len(colours), 1))

"""CIELAB of working values and back (CIE 15:2018; sRGB primaries and D65 of IEC 61966-2-1)."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.transfer import to_linear
from retouch.compiled import compiled

_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
# The white that the matrix gives for R = G = B = 1, so that neutral greys have a* = b* = 0.
_WHITE = _TO_XYZ.sum(1)
_EPSILON = (6 / 29) ** 3
# Up to this part of the pixels only those that move are converted.
MOST_PICKED = 0.35
# Where most move is told by every so manieth row.
_SOME_ROWS = 8


def to_lab(working: Working) -> Lab:
    """CIELAB of working values, (..., 3) of two or more dimensions; beyond 0..1 they are clipped."""
    flat = np.ascontiguousarray(working, np.float32).reshape(-1, working.shape[-2], 3)
    return np.asarray(cv2.cvtColor(flat, cv2.COLOR_RGB2LAB).reshape(working.shape))


def from_lab(lab: Lab) -> Working:
    """Working values 0..1 of CIELAB (h, w, 3); what sRGB can't hold is clipped."""
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(lab), cv2.COLOR_LAB2RGB), np.float32)


def shifted(image: Working, before: Lab, after: Lab, held: bool = False) -> Working:
    """Working values moved as their CIELAB moved, each (h, w, 3); what didn't move stays to the bit.

    What is added is the difference of two conversions, in which what is lost on the way there and back cancels.
    ``held``: what moves stays within 0..1.
    """
    own, was, now = (np.ascontiguousarray(a, np.float32) for a in (image, before, after))
    h, w, _ = own.shape
    if _most_move(was, now):
        return _added(own, from_lab(now), from_lab(was), held)
    places = moving(now - was)
    if len(places) > MOST_PICKED * h * w:
        return _added(own, from_lab(now), from_lab(was), held)
    out = own.copy()
    if len(places):
        here, there = (from_lab(lab.reshape(-1, 3)[places][None]) for lab in (now, was))
        picked = out.reshape(-1, 3)
        picked[places] = _added(picked[places][None], here, there, held)[0]
    return out


def _most_move(was: Lab, now: Lab) -> bool:
    """Whether most pixels clearly move, by some rows of them: then the others needn't be looked for."""
    some = np.s_[::_SOME_ROWS]
    change = now[some] - was[some]
    return len(moving(change)) > 2 * MOST_PICKED * change.shape[0] * change.shape[1]


@compiled
def moving(change: Lab) -> NDArray[np.int64]:
    """Where a change (h, w, 3) is not nothing: places (n,) in the picture, row by row."""
    h, w, _ = change.shape
    places = np.empty(h * w, np.int64)
    n = 0
    for i in range(h):
        for j in range(w):
            if change[i, j, 0] != 0 or change[i, j, 1] != 0 or change[i, j, 2] != 0:
                places[n] = i * w + j
                n += 1
    return places[:n]


@compiled
def _added(image: Working, after: Working, before: Working, held: bool) -> Working:
    count = image.size
    out = np.empty(image.shape, np.float32)
    values, now, was, made = image.ravel(), after.ravel(), before.ravel(), out.ravel()
    zero, one = np.float32(0), np.float32(1)
    for n in range(count):
        by = now[n] - was[n]
        value = values[n] + by
        if held:
            value = min(max(value, zero), one)
        # What doesn't move stays to the bit, also where sums are regrouped.
        made[n] = values[n] if by == zero else value
    return out


def lab_of_pixels(pixels: NDArray[np.uint8]) -> Lab:
    """CIELAB of 8-bit sRGB pixels (h, w, 3)."""
    return to_lab(np.asarray(pixels, np.float32) / np.float32(255))


def from_srgb(encoded: NDArray[Any]) -> NDArray[np.float64]:
    """Lab of encoded sRGB values in double precision, for measuring.

    Parameters
    ----------
    encoded : ndarray (..., 3)
        0..1.

    Returns
    -------
    ndarray (..., 3)
        L* 0..100, a*, b*.
    """
    light = to_linear(np.asarray(encoded, np.float64))  # type: ignore[arg-type]
    xyz = light @ _TO_XYZ.T / _WHITE
    f = np.where(xyz > _EPSILON, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack(
        [116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1
    )

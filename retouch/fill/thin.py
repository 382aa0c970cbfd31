"""Thin lines replaced by what lies on both their sides: loose strands, threads, wires."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]
Line = NDArray[np.float64]

# Points along the line lie so many pixels apart at most.
_STEP = 0.5
# Each side is the mean of samples between so many pixels beside the line and so many more.
_BESIDE, _DEEP, _SAMPLES = 0.5, 2.0, 3
# What crosses a side is told by the points within so many half widths along the line: it lies further
# from their median than so many times their usual distance from it, and than this (encoded).
_ALONG, _FAR, _LEAST = 5.0, 3.0, 0.006
# At its ends the change fades over so many half widths at least.
_TIPS = 1.0
# What lies on its sides is told within so many pixels beyond the width of the line.
BEYOND = 4.0


def replaced(area: Array, line: Line, half: float, feather: float = 0.7) -> tuple[Array, Array]:
    """A picture with a thin line gone, and where it was.

    Across the line goes the straight way from one side to the other; what crosses a side is left out
    by the Hampel filter (F. R. Hampel, *The influence curve and its role in robust estimation*, 1974);
    grain is that of the calmer side, as far away as the line is wide.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1.
    line : ndarray (n, 2)
        x, y of its middle, pixel centres at +0.5.
    half : float
        Half its width, pixels.
    feather : float
        Over so many pixels beyond that the change fades, at its sides and at its ends.

    Returns
    -------
    (ndarray (h, w, 3), ndarray (h, w)) of float32
        The picture; how far it is changed, 0..1.
    """
    points = _evenly(line)
    way = np.gradient(points, axis=0) if len(points) > 1 else np.array([[1.0, 0.0]])
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    normal = np.stack([-way[:, 1], way[:, 0]], 1)
    area = np.ascontiguousarray(area, np.float32)
    sides = []
    for sign in (-1.0, 1.0):
        samples = [
            _sampled(area, points + sign * d * normal)
            for d in np.linspace(half + _BESIDE, half + _BESIDE + _DEEP, _SAMPLES)
        ]
        values = np.mean(samples, axis=0, dtype=np.float64)
        reach = max(3, round(_ALONG * half / _STEP))
        sides.append(_without_crossings(np.ascontiguousarray(values, np.float64), reach))
    left, right = sides
    rough = [np.abs(np.diff(side, axis=0)).mean() for side in sides]
    grain = -1.0 if rough[0] <= rough[1] else 1.0
    out, cover = area.copy(), np.zeros(area.shape[:2], np.float32)
    _laid(area, points, normal, left, right, half, feather, grain, out, cover)
    return out, cover


def _evenly(line: Line) -> Line:
    steps = np.hypot(*np.diff(line, axis=0).T) if len(line) > 1 else np.zeros(0)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    count = max(1, round(along[-1] / _STEP)) + 1
    at = np.linspace(0.0, along[-1], count)
    points = np.stack([np.interp(at, along, line[:, c]) for c in (0, 1)], 1)
    # Corners of the path are none of the strand.
    wide = min(9, len(points) // 2 * 2 - 1)
    if wide >= 3:
        ends = np.pad(points, ((wide // 2,) * 2, (0, 0)), mode="reflect", reflect_type="odd")
        points = np.lib.stride_tricks.sliding_window_view(ends, wide, axis=0).mean(-1)
    return points


@compiled
def _at(area: Array, x: float, y: float, c: int) -> float:
    """A value between pixels, linear."""
    h, w = area.shape[:2]
    x = min(max(x - 0.5, 0.0), w - 1.001)
    y = min(max(y - 0.5, 0.0), h - 1.001)
    j, k = int(y), int(x)
    fy, fx = y - j, x - k
    above = area[j, k, c] * (1 - fx) + area[j, k + 1, c] * fx
    below = area[j + 1, k, c] * (1 - fx) + area[j + 1, k + 1, c] * fx
    return above * (1 - fy) + below * fy


@compiled
def _sampled(area: Array, at: Line) -> NDArray[np.float64]:
    out = np.empty((len(at), 3))
    for i in range(len(at)):
        for c in range(3):
            out[i, c] = _at(area, at[i, 0], at[i, 1], c)
    return out


@compiled
def _without_crossings(values: NDArray[np.float64], reach: int) -> NDArray[np.float64]:
    out = values.copy()
    n = len(values)
    for i in range(n):
        a, b = max(i - reach, 0), min(i + reach + 1, n)
        for c in range(3):
            middle = np.median(values[a:b, c])
            usual = 1.4826 * np.median(np.abs(values[a:b, c] - middle))
            if abs(values[i, c] - middle) > max(_FAR * usual, _LEAST):
                out[i] = np.array([np.median(values[a:b, k]) for k in range(3)])
                break
    return out


@compiled
def _laid(
    area: Array, points: Line, normal: Line, left: NDArray[np.float64],
    right: NDArray[np.float64], half: float, feather: float, grain: float, out: Array, cover: Array,
) -> None:  # fmt: skip
    h, w = cover.shape
    away = np.full((h, w), np.float32(1e9))
    nearest = np.zeros((h, w), np.int64)
    most = int(half + feather + 2)
    for i in range(len(points)):
        j, k = int(points[i, 1]), int(points[i, 0])
        for y in range(max(j - most, 0), min(j + most + 1, h)):
            for x in range(max(k - most, 0), min(k + most + 1, w)):
                d = (x + 0.5 - points[i, 0]) ** 2 + (y + 0.5 - points[i, 1]) ** 2
                if d < away[y, x]:
                    away[y, x], nearest[y, x] = d, i
    last = len(points) - 1
    tips = max(_TIPS * half, feather, 0.5)
    for y in range(h):
        for x in range(w):
            d = np.sqrt(away[y, x])
            if d > half + feather:
                continue
            i = nearest[y, x]
            side = (x + 0.5 - points[i, 0]) * normal[i, 0] + (y + 0.5 - points[i, 1]) * normal[i, 1]
            share = min(max((side + half) / (2 * half), 0.0), 1.0)
            strength = min(1.0, (half + feather - d) / feather)
            along = min(i, last - i) * _STEP
            strength *= min(1.0, (along + 0.5) / tips)
            cover[y, x] = strength
            # Grain of the calmer side: that place without what it is along the line.
            gx = x + 0.5 + grain * (2 * half + _BESIDE) * normal[i, 0]
            gy = y + 0.5 + grain * (2 * half + _BESIDE) * normal[i, 1]
            for c in range(3):
                ground = left[i, c] * (1 - share) + right[i, c] * share
                beside = left[i, c] if grain < 0 else right[i, c]
                fine = _at(area, np.floor(gx) + 0.5, np.floor(gy) + 0.5, c) - beside
                # What crosses the side isn't grain.
                fine = min(max(fine, -0.02), 0.02)
                value = ground + fine
                out[y, x, c] = area[y, x, c] + strength * (value - area[y, x, c])

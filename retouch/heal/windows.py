"""Means and maxima over a square window, of many planes at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]


@compiled
def mirrored(at: int, size: int) -> int:
    """The place inside that a place outside of a line mirrors to (the end counted twice)."""
    while at < 0 or at >= size:
        at = -1 - at if at < 0 else 2 * size - 1 - at
    return at


@compiled
def box_mean(planes: Array, size: int) -> Array:
    """Mean of each plane over a square of ``size`` (odd) cells, mirrored at the border.

    ``planes`` is (rows, cols, depth).
    """
    rows, cols, depth = planes.shape
    reach = size // 2
    lines = planes.reshape(rows, cols * depth)
    out = np.empty((rows, cols * depth), np.float32)
    padded = np.empty((cols + 2 * reach) * depth, np.float32)
    middle = padded[reach * depth : (reach + cols) * depth]
    scale = np.float32(1 / (size * size))
    for i in range(rows):
        middle[:] = 0
        for r in range(-reach, reach + 1):
            line = lines[mirrored(i + r, rows)]
            for j in range(cols * depth):
                middle[j] += line[j]
        for r in range(1, reach + 1):
            left, right = mirrored(-r, cols) * depth, mirrored(cols - 1 + r, cols) * depth
            for k in range(depth):
                padded[(reach - r) * depth + k] = middle[left + k]
                padded[(reach + cols - 1 + r) * depth + k] = middle[right + k]
        row = out[i]
        row[:] = 0
        for r in range(size):
            part = padded[r * depth : (r + cols) * depth]
            for j in range(cols * depth):
                row[j] += part[j]
        for j in range(cols * depth):
            row[j] *= scale
    return out.reshape(rows, cols, depth)


@compiled
def disc_max(plane: Array, radius: float) -> Array:
    """Maximum over a disc of ``radius`` cells; nothing counts beyond the border."""
    rows, cols = plane.shape
    reach = int(radius)
    out = np.full((rows, cols), -np.inf, np.float32)
    high = np.full(cols + 2 * reach, -np.inf, np.float32)
    for i in range(rows):
        row = out[i]
        for dy in range(max(-reach, -i), min(reach, rows - 1 - i) + 1):
            high[reach : reach + cols] = plane[i + dy]
            half = int(np.sqrt(radius * radius - dy * dy))
            for shift in range(reach - half, reach + half + 1):
                part = high[shift : shift + cols]
                for j in range(cols):
                    row[j] = max(row[j], part[j])
    return out

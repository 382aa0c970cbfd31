"""Distances to a closed outline of many corners, for all pixels of a grid."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

_Line = NDArray[np.float64]

# Pixels so near to a piece of an outline are measured to it first.
_NEAR = 1.5


@compiled
def signed_on_grid(xs: _Line, ys: _Line, path: _Line) -> _Line:
    """Distance to an outline, negative inside (even-odd rule).

    Pixels beside a piece of the outline are measured to it, all others to the pieces that are
    nearest to their neighbours, in two sweeps there and back (after P.-E. Danielsson, *Euclidean
    Distance Mapping*, 1980). What lies between doubled pieces, where an outline runs in to a hole and
    back, is inside: those aren't measured to.

    Parameters
    ----------
    xs, ys : ndarray (w,), (h,)
        Columns and rows of the pixels, one apart.
    path : ndarray (n, 2)
        The corners.

    Returns
    -------
    ndarray (h, w)
    """
    h, w, n = len(ys), len(xs), len(path)
    single = _single(path)
    best = np.full((h, w), np.inf)
    piece = np.full((h, w), -1, np.int64)
    flips = np.zeros((h, w + 1), np.uint8)
    for k in range(n):
        p, q = path[k], path[(k + 1) % n]
        if single[k]:
            top = max(int(np.floor(min(p[1], q[1]) - _NEAR - ys[0])), 0)
            end = min(int(np.ceil(max(p[1], q[1]) + _NEAR - ys[0])) + 1, h)
            left = max(int(np.floor(min(p[0], q[0]) - _NEAR - xs[0])), 0)
            right = min(int(np.ceil(max(p[0], q[0]) + _NEAR - xs[0])) + 1, w)
            for i in range(top, end):
                for j in range(left, right):
                    d = _squared(xs[j], ys[i], p, q)
                    if d < best[i, j]:
                        best[i, j], piece[i, j] = d, k
        low, high = min(p[1], q[1]), max(p[1], q[1])
        for i in range(max(int(np.floor(low - ys[0])), 0), min(int(np.ceil(high - ys[0])) + 1, h)):
            y = ys[i]
            if (p[1] > y) != (q[1] > y):
                x = p[0] + (y - p[1]) * (q[0] - p[0]) / (q[1] - p[1])
                # All pixels to the right of a crossing change sides.
                flips[i, min(max(int(np.floor(x - xs[0])) + 1, 0), w)] ^= 1
    if (piece < 0).all():
        # The grid lies apart from the outline: its border is measured to all of it.
        for i in range(h):
            for j in range(0, w, 1 if i == 0 or i == h - 1 else max(w - 1, 1)):
                for k in range(n):
                    d = _squared(xs[j], ys[i], path[k], path[(k + 1) % n])
                    if single[k] and d < best[i, j]:
                        best[i, j], piece[i, j] = d, k
    for _ in range(2):
        for sweep in range(2):
            step = 1 if sweep == 0 else -1
            for row in range(h):
                i = row if step == 1 else h - 1 - row
                for col in range(w):
                    j = col if step == 1 else w - 1 - col
                    for side in range(4):
                        a = i - step if side < 3 else i
                        b = j - 1 + side if side < 3 else j - step
                        if a < 0 or b < 0 or a >= h or b >= w or piece[a, b] < 0:
                            continue
                        k = piece[a, b]
                        if k == piece[i, j]:
                            continue
                        d = _squared(xs[j], ys[i], path[k], path[(k + 1) % n])
                        if d < best[i, j]:
                            best[i, j], piece[i, j] = d, k
    for i in range(h):
        inside = False
        for j in range(w):
            if flips[i, j]:
                inside = not inside
            away = np.sqrt(best[i, j])
            best[i, j] = -away if inside else away
    return best


@compiled
def _single(path: _Line) -> NDArray[np.bool_]:
    """Which pieces don't run back along another."""
    n = len(path)
    single = np.ones(n, np.bool_)
    sums = np.empty(n)
    for k in range(n):
        sums[k] = path[k, 0] + path[(k + 1) % n, 0]
    order = np.argsort(sums)
    for first in range(n):
        k = order[first]
        # Both ways along a piece have the same middle, to the bit.
        for second in range(first + 1, n):
            m = order[second]
            if sums[m] != sums[k]:
                break
            after, beyond = (k + 1) % n, (m + 1) % n
            if (
                path[k, 0] == path[beyond, 0]
                and path[k, 1] == path[beyond, 1]
                and path[after, 0] == path[m, 0]
                and path[after, 1] == path[m, 1]
            ):
                single[k] = single[m] = False
    return single


@compiled
def _squared(x: float, y: float, p: _Line, q: _Line) -> float:
    """Squared distance to a straight piece."""
    vx, vy = q[0] - p[0], q[1] - p[1]
    norm = vx * vx + vy * vy
    t = 0.0
    if norm > 0:
        t = min(max(((x - p[0]) * vx + (y - p[1]) * vy) / norm, 0.0), 1.0)
    return float((x - p[0] - t * vx) ** 2 + (y - p[1] - t * vy) ** 2)

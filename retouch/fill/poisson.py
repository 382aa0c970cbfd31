"""Gradients from copied pixels, joined to the known ones without a seam.

After P. Perez, M. Gangnet, A. Blake, *Poisson Image Editing*, SIGGRAPH 2003, solved by
successive over-relaxation from a start that is already near.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]


@compiled
def membrane(values: Array, hole: Mask, rounds: int, pull: float = 1.9) -> Array:
    """Values of the hole that continue those around it as smoothly as can be (Laplace).

    Parameters
    ----------
    values : ndarray (h, w, depth)
        Known outside of ``hole``; a first guess inside.
    rounds : int
        Sweeps over the hole.
    pull : float
        Over-relaxation, 1..2.
    """
    return guided(values, np.zeros_like(values), hole, rounds, pull)


@compiled
def guided(values: Array, laplacian: Array, hole: Mask, rounds: int, pull: float) -> Array:
    """Values of the hole whose discrete Laplacian is the given one (negative: a peak).

    At the border of the picture the missing neighbour counts as equal (Neumann).
    """
    h, w, depth = values.shape
    out = values.copy()
    count = 0
    for y in range(h):
        for x in range(w):
            count += hole[y, x]
    ys, xs = np.empty(count, np.int64), np.empty(count, np.int64)
    # Red-black order, so that neighbours don't wait for each other.
    n = 0
    for colour in range(2):
        for y in range(h):
            for x in range(w):
                if hole[y, x] and (y + x) % 2 == colour:
                    ys[n], xs[n] = y, x
                    n += 1
    factor = np.float32(pull)
    for _ in range(rounds):
        for i in range(count):
            y, x = ys[i], xs[i]
            up, down = out[max(y - 1, 0), x], out[min(y + 1, h - 1), x]
            left, right = out[y, max(x - 1, 0)], out[y, min(x + 1, w - 1)]
            here, wanted = out[y, x], laplacian[y, x]
            for k in range(depth):
                mean = np.float32(0.25) * (up[k] + down[k] + left[k] + right[k] - wanted[k])
                here[k] += factor * (mean - here[k])
    return out


@compiled
def copied_laplacian(image: Array, hole: Mask, field: NDArray[np.int32]) -> Array:
    """Divergence of the gradients that the sources of each pair of neighbours suggest.

    Between two neighbours the gradient is the mean of what the source of either says; a known
    pixel beside the hole has no source of its own, then the other's counts alone.
    """
    h, w, depth = image.shape
    out = np.zeros((h, w, depth), np.float32)
    for y in range(h):
        for x in range(w):
            if not hole[y, x]:
                continue
            sy, sx = field[y, x, 0], field[y, x, 1]
            for side in range(4):
                ny = y + (1 if side == 0 else -1 if side == 1 else 0)
                nx = x + (1 if side == 2 else -1 if side == 3 else 0)
                if ny < 0 or nx < 0 or ny >= h or nx >= w:
                    continue
                ty, tx = sy + ny - y, sx + nx - x
                for k in range(depth):
                    step = image[ty, tx, k] - image[sy, sx, k]
                    if hole[ny, nx]:
                        oy, ox = field[ny, nx, 0], field[ny, nx, 1]
                        back = image[oy, ox, k] - image[oy + y - ny, ox + x - nx, k]
                        step = np.float32(0.5) * (step + back)
                    out[y, x, k] += step
    return out

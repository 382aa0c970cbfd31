"""Places moved by handles: moving least squares."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import PARTS, at_once, edges
from retouch.warp.steps import Points

# What is left of sums whose terms cancel each other.
_ROUNDING = 1e-12


def deformed(places: Points, handles: Points, goals: Points, near: float) -> Points:
    """Where places go when handles go to their goals, turned and scaled with those nearby.

    Similarity deformation of S. Schaefer, T. McPhail and J. Warren, *Image Deformation Using Moving
    Least Squares*, SIGGRAPH 2006, section 2.2, with weights of the distance's fourth power.

    Parameters
    ----------
    places : ndarray (n, 2)
    handles, goals : ndarray (m, 2)
    near : float
        Handles aren't told apart nearer than this, so that nothing has a spike.
    """
    out = np.empty((len(places), 2))
    flat = np.ascontiguousarray(places, np.float64)
    # Each coordinate in a row of its own: they are read side by side.
    ends = np.ascontiguousarray(np.concatenate([handles.T, goals.T]), np.float64)

    def part(rows: tuple[int, int]) -> None:
        _deform(flat[rows[0] : rows[1]], ends, near * near, out[rows[0] : rows[1]])

    at_once(part, edges(0, len(flat), 2 * PARTS if len(flat) > 2000 else 1))
    return out


@compiled
def _deform(
    places: NDArray[np.float64], ends: NDArray[np.float64], near: float, out: NDArray[np.float64]
) -> None:
    """``ends``: x and y of the handles, then of their goals. All sums are taken around the place itself, so
    that one round over the handles is enough."""
    hx, hy, gx, gy = ends[0], ends[1], ends[2], ends[3]
    for n in range(len(places)):
        x, y = places[n, 0], places[n, 1]
        total, ax, ay, bx, by = 0.0, 0.0, 0.0, 0.0, 0.0
        size, real, turn = 0.0, 0.0, 0.0
        for m in range(len(hx)):
            px, py, qx, qy = hx[m] - x, hy[m] - y, gx[m] - x, gy[m] - y
            far = px * px + py * py
            w = 1.0 / ((far + near) * (far + near))
            total += w
            ax += w * px
            ay += w * py
            bx += w * qx
            by += w * qy
            size += w * far
            real += w * (px * qx + py * qy)
            turn += w * (px * qy - py * qx)
        ax, ay, bx, by = ax / total, ay / total, bx / total, by / total
        # A single handle, or all in one place, have no size of their own.
        least = _ROUNDING * size
        size -= total * (ax * ax + ay * ay)
        real -= total * (ax * bx + ay * by)
        turn -= total * (ax * by - ay * bx)
        c, s = (real / size, turn / size) if size > least else (1.0, 0.0)
        out[n, 0] = x + bx - c * ax + s * ay
        out[n, 1] = y + by - s * ax - c * ay

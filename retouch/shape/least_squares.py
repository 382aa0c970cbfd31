"""Places moved by handles: moving least squares."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import PARTS, at_once, edges
from retouch.warp.steps import Points


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
    flat, a, b = (np.ascontiguousarray(v, np.float64) for v in (places, handles, goals))

    def part(rows: tuple[int, int]) -> None:
        _deform(flat[rows[0] : rows[1]], a, b, near * near, out[rows[0] : rows[1]])

    at_once(part, edges(0, len(flat), 2 * PARTS if len(flat) > 2000 else 1))
    return out


@compiled
def _deform(
    places: NDArray[np.float64], handles: NDArray[np.float64], goals: NDArray[np.float64],
    near: float, out: NDArray[np.float64],
) -> None:  # fmt: skip
    count = len(handles)
    weights = np.empty(count)
    for n in range(len(places)):
        x, y = places[n, 0], places[n, 1]
        total, ax, ay, bx, by = 0.0, 0.0, 0.0, 0.0, 0.0
        for m in range(count):
            dx, dy = handles[m, 0] - x, handles[m, 1] - y
            d = dx * dx + dy * dy + near
            w = 1.0 / (d * d)
            weights[m] = w
            total += w
            ax += w * handles[m, 0]
            ay += w * handles[m, 1]
            bx += w * goals[m, 0]
            by += w * goals[m, 1]
        ax, ay, bx, by = ax / total, ay / total, bx / total, by / total
        size, real, turn = 0.0, 0.0, 0.0
        for m in range(count):
            w = weights[m]
            px, py = handles[m, 0] - ax, handles[m, 1] - ay
            qx, qy = goals[m, 0] - bx, goals[m, 1] - by
            size += w * (px * px + py * py)
            real += w * (px * qx + py * qy)
            turn += w * (px * qy - py * qx)
        c, s = (real / size, turn / size) if size > 0 else (1.0, 0.0)
        out[n, 0] = bx + c * (x - ax) - s * (y - ay)
        out[n, 1] = by + s * (x - ax) + c * (y - ay)

"""A step that is a field of displacements."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.warp.steps import Matrix, Points

# A place is where it belongs to within this (pixels), or after so many steps of Newton's method.
_NEAR, _MOST_STEPS = 1e-3, 40


@dataclass(frozen=True, eq=False)
class Field:
    """Displacements at nodes, evenly between them; beyond the nodes nothing moves.

    Parameters
    ----------
    x, y : float
        Where the first node lies, in continuous coordinates.
    step : float
        Pixels between two nodes.
    shifts : ndarray (rows, columns, 2) float64
        From each node's place after the step to where it comes from. The border is 0, so that
        nothing jumps.
    """

    x: float
    y: float
    step: float
    shifts: NDArray[np.float64]

    @cached_property
    def key(self) -> str:
        """Fingerprint of all that it does."""
        digest = hashlib.blake2b(repr((self.x, self.y, self.step)).encode(), digest_size=12)
        digest.update(repr(self.shifts.shape).encode() + self.shifts.tobytes())
        return digest.hexdigest()

    @property
    def matrix(self) -> Matrix | None:
        """None: it isn't projective."""
        return None

    @cached_property
    def most(self) -> float:
        """The largest displacement, in pixels."""
        return float(np.hypot(self.shifts[..., 0], self.shifts[..., 1]).max(initial=0.0))

    @property
    def rect(self) -> Rect:
        """Where it moves something."""
        rows, columns = self.shifts.shape[:2]
        right, down = self.x + (columns - 1) * self.step, self.y + (rows - 1) * self.step
        return Rect(*(int(np.floor(v)) for v in (self.x, self.y, right + 1, down + 1)))

    @cached_property
    def places(self) -> Points:
        """The nodes' places after the step, (rows, columns, 2)."""
        rows, columns = self.shifts.shape[:2]
        xs, ys = self.x + self.step * np.arange(columns), self.y + self.step * np.arange(rows)
        return np.stack(np.meshgrid(xs, ys), -1)

    def scaled(self, share: float | NDArray[np.float64]) -> Field:
        """The same with a part of every displacement; ``share`` one number, or one for each node."""
        part = np.asarray(share, np.float64)
        return Field(
            self.x, self.y, self.step, self.shifts * (part[..., None] if part.ndim else part)
        )

    def back(self, points: Points) -> Points:
        """Where places (n, 2) after the step come from."""
        out = np.array(points, np.float64)
        _move(out, self.shifts, self.x, self.y, self.step)
        return out

    def forth(self, points: Points) -> Points:
        """Where places (n, 2) before the step go to, by Newton's method."""
        out = np.array(points, np.float64)
        _return(out, self.shifts, self.x, self.y, self.step)
        return out


@compiled
def _move(
    points: NDArray[np.float64], shifts: NDArray[np.float64], x0: float, y0: float, step: float
) -> None:
    rows, columns = shifts.shape[:2]
    for n in range(len(points)):
        u, v = (points[n, 0] - x0) / step, (points[n, 1] - y0) / step
        if u < 0 or v < 0 or u > columns - 1 or v > rows - 1:
            continue
        j, i = min(int(u), columns - 2), min(int(v), rows - 2)
        fx, fy = u - j, v - i
        for k in range(2):
            a = shifts[i, j, k] + (shifts[i, j + 1, k] - shifts[i, j, k]) * fx
            b = shifts[i + 1, j, k] + (shifts[i + 1, j + 1, k] - shifts[i + 1, j, k]) * fx
            points[n, k] += a + (b - a) * fy


@compiled
def _return(
    points: NDArray[np.float64], shifts: NDArray[np.float64], x0: float, y0: float, step: float
) -> None:
    rows, columns = shifts.shape[:2]
    for n in range(len(points)):
        goal_x, goal_y = points[n, 0], points[n, 1]
        x, y = goal_x, goal_y
        share = 1.0
        before = 1e30
        last_x, last_y = x, y
        for _ in range(_MOST_STEPS):
            u, v = (x - x0) / step, (y - y0) / step
            dx, dy = 0.0, 0.0
            xx, xy, yx, yy = 1.0, 0.0, 0.0, 1.0
            if u >= 0 and v >= 0 and u <= columns - 1 and v <= rows - 1:
                j, i = min(int(u), columns - 2), min(int(v), rows - 2)
                fx, fy = u - j, v - i
                p, q = shifts[i, j], shifts[i, j + 1]
                r, s = shifts[i + 1, j], shifts[i + 1, j + 1]
                dx = (p[0] * (1 - fx) + q[0] * fx) * (1 - fy) + (r[0] * (1 - fx) + s[0] * fx) * fy
                dy = (p[1] * (1 - fx) + q[1] * fx) * (1 - fy) + (r[1] * (1 - fx) + s[1] * fx) * fy
                xx += ((q[0] - p[0]) * (1 - fy) + (s[0] - r[0]) * fy) / step
                yx += ((q[1] - p[1]) * (1 - fy) + (s[1] - r[1]) * fy) / step
                xy += ((r[0] - p[0]) * (1 - fx) + (s[0] - q[0]) * fx) / step
                yy += ((r[1] - p[1]) * (1 - fx) + (s[1] - q[1]) * fx) / step
            ex, ey = x + dx - goal_x, y + dy - goal_y
            off = ex * ex + ey * ey
            if off < _NEAR * _NEAR:
                break
            if off > before:
                # It went too far: half the way back.
                share *= 0.5
                x, y = last_x + (x - last_x) * 0.5, last_y + (y - last_y) * 0.5
                if share < 1e-3:
                    break
                continue
            before, share = off, 1.0
            last_x, last_y = x, y
            det = xx * yy - xy * yx
            if abs(det) < 1e-3:
                break
            x -= (yy * ex - xy * ey) / det
            y -= (xx * ey - yx * ex) / det
        points[n, 0], points[n, 1] = x, y

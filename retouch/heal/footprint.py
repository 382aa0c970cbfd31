"""The place a brush covered: a dab or a stroke of one radius."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Array = NDArray[np.float32]

# Points closer to the simplified line than this part of the radius don't change the shape visibly.
_SIMPLIFY = 0.04


@dataclass(frozen=True)
class Footprint:
    """A dab (one point) or stroke (several) of a round brush.

    Parameters
    ----------
    points : tuple of (x, y)
        Path of the brush centre, pixels of the original, pixel centres at +0.5.
    radius : float
        Brush radius in pixels, above 0.
    """

    points: tuple[tuple[float, float], ...]
    radius: float

    @property
    def path(self) -> NDArray[np.float64]:
        """The path without superfluous points, shape (n, 2)."""
        pts = np.asarray(self.points, np.float64)
        if len(pts) < 3:
            return pts
        origin = pts.min(0)
        thin = cv2.approxPolyDP(
            (pts - origin).astype(np.float32)[:, None], _SIMPLIFY * self.radius, closed=False
        )
        return np.asarray(thin[:, 0], np.float64) + origin

    @property
    def bounds(self) -> Rect:
        """Rectangle of all pixels the brush can touch."""
        pts = np.asarray(self.points, np.float64)
        (x0, y0), (x1, y1) = pts.min(0) - self.radius, pts.max(0) + self.radius
        return Rect(math.floor(x0), math.floor(y0), math.ceil(x1) + 1, math.ceil(y1) + 1)

    def nodes(self, spacing: float, most: int) -> NDArray[np.float64]:
        """Points along the path at even distances, shape (n, 2); a dab has one.

        ``spacing`` is in pixels; no more than ``most`` nodes are returned, spread evenly.
        """
        path = self.path
        steps = np.hypot(*np.diff(path, axis=0).T) if len(path) > 1 else np.zeros(0)
        length = float(steps.sum())
        count = min(most, 1 + round(length / spacing))
        if count < 2:
            return np.asarray([path.mean(0) if length else path[0]])
        along = np.concatenate([[0.0], np.cumsum(steps)])
        at = np.linspace(0.0, length, count)
        return np.stack([np.interp(at, along, path[:, 0]), np.interp(at, along, path[:, 1])], 1)

    def distance(self, x: Array, y: Array) -> Array:
        """Distance in pixels from places to the path.

        Parameters
        ----------
        x, y : ndarray
            Coordinates, broadcast against each other (for a grid: shapes (1, w) and (h, 1)).
        """
        path = self.path.astype(np.float32)
        if len(path) == 1:
            return np.hypot(x - path[0, 0], y - path[0, 1])
        best: Array | None = None
        for (ax, ay), (bx, by) in itertools.pairwise(path):
            vx, vy = bx - ax, by - ay
            norm = vx * vx + vy * vy
            t = np.clip(((x - ax) * vx + (y - ay) * vy) / norm, 0, 1) if norm else np.float32(0)
            d = (x - ax - t * vx) ** 2 + (y - ay - t * vy) ** 2
            best = d if best is None else np.minimum(best, d)
        assert best is not None
        return np.sqrt(best)

    def coverage(self, distance: Array, softness: float) -> Array:
        """How strongly each place is covered, 0..1.

        Full inside, falling to nothing at the radius by a smooth step. ``softness`` 0..1 is the
        part of the radius the fall takes; a hard edge is still one pixel wide (antialiased).
        """
        width = max(1.0, softness * self.radius)
        t = np.clip((self.radius + 0.5 - distance) / width, 0, 1)
        return np.asarray(t * t * (3 - 2 * t), np.float32)

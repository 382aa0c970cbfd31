"""The place a brush covered: a dab or a stroke of one radius."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.steps import smooth_step

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

    @cached_property
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

    @cached_property
    def bounds(self) -> Rect:
        """Rectangle of all pixels the brush can touch."""
        xs, ys = [x for x, _ in self.points], [y for _, y in self.points]
        r = self.radius
        return Rect(
            math.floor(min(xs) - r),
            math.floor(min(ys) - r),
            math.ceil(max(xs) + r) + 1,
            math.ceil(max(ys) + r) + 1,
        )

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
        path = self.path
        if x.shape[0] == 1 and y.shape[-1] == 1 and x.ndim == y.ndim == 2:
            return _distances(x[0], y[:, 0], path)
        wide, high = np.broadcast_arrays(x, y)
        flat = _distance(np.ravel(wide), np.ravel(high), path)
        return np.asarray(flat.reshape(wide.shape), np.float32)

    def beyond(self, rect: Rect, across: float = 0.0, down: float = 0.0) -> Array:
        """How far each pixel's middle lies outside of the place, (h, w) float32 in pixels.

        Negative inside; the place is taken as moved by ``across`` and ``down`` pixels.
        """
        x = (np.arange(rect.x0, rect.x1, dtype=np.float32) + np.float32(0.5 - across))[None]
        y = (np.arange(rect.y0, rect.y1, dtype=np.float32) + np.float32(0.5 - down))[:, None]
        return np.asarray(self.distance(x, y) - np.float32(self.radius), np.float32)

    def cover(self, rect: Rect, softness: float) -> Array:
        """`coverage` of every pixel of a rectangle, shape (h, w)."""
        width = max(1.0, softness * self.radius)
        size = (rect.height, rect.width)
        return _cover(rect.x0 + 0.5, rect.y0 + 0.5, *size, self.path, self.radius, width)

    def coverage(self, distance: Array, softness: float) -> Array:
        """How strongly each place is covered, 0..1.

        Full inside, falling to nothing at the radius by a smooth step. ``softness`` 0..1 is the
        part of the radius the fall takes; a hard edge is still one pixel wide (antialiased).
        """
        width = max(1.0, softness * self.radius)
        fall = smooth_step((self.radius + 0.5 - distance) / width)
        return np.asarray(fall, np.float32)


@compiled
def _away(x: float, y: float, path: NDArray[np.float64]) -> float:
    """Distance from a place to a path of one or more points."""
    best = (x - path[0, 0]) ** 2 + (y - path[0, 1]) ** 2
    for i in range(len(path) - 1):
        ax, ay = path[i, 0], path[i, 1]
        vx, vy = path[i + 1, 0] - ax, path[i + 1, 1] - ay
        norm = vx * vx + vy * vy
        t = 0.0
        if norm > 0:
            t = min(max(((x - ax) * vx + (y - ay) * vy) / norm, 0.0), 1.0)
        best = min(best, (x - ax - t * vx) ** 2 + (y - ay - t * vy) ** 2)
    return float(np.sqrt(best))


@compiled
def _cover(
    x0: float, y0: float, h: int, w: int, path: NDArray[np.float64], radius: float, width: float
) -> Array:
    xs = np.empty(w, np.float32)
    ys = np.empty(h, np.float32)
    for j in range(w):
        xs[j] = x0 + j
    for i in range(h):
        ys[i] = y0 + i
    out = _distances(xs, ys, path)
    edge, scale = np.float32(radius + 0.5), np.float32(1 / width)
    for i in range(h):
        row = out[i]
        for j in range(w):
            t = min(max((edge - row[j]) * scale, np.float32(0)), np.float32(1))
            row[j] = t * t * (np.float32(3) - np.float32(2) * t)
    return out


@compiled
def _distances(x: Array, y: Array, path: NDArray[np.float64]) -> Array:
    out = np.empty((len(y), len(x)), np.float32)
    for i in range(len(y)):
        row = out[i]
        if len(path) == 1:
            cx, dy = np.float32(path[0, 0]), y[i] - np.float32(path[0, 1])
            for j in range(len(x)):
                row[j] = np.sqrt((x[j] - cx) * (x[j] - cx) + dy * dy)
        else:
            for j in range(len(x)):
                row[j] = _away(x[j], y[i], path)
    return out


@compiled
def _distance(x: Array, y: Array, path: NDArray[np.float64]) -> Array:
    out = np.empty(len(x), np.float32)
    for i in range(len(x)):
        out[i] = _away(x[i], y[i], path)
    return out

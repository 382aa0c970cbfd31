"""The place inside a closed outline, judged as a brush's footprint is."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal.coarse import blur
from retouch.heal.far import signed_on_grid
from retouch.heal.footprint import Footprint
from retouch.steps import smooth_step

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]

# Outlines are drawn this many times larger and averaged down, for smooth edges.
_FINER = 4
# Above this many pixels across a plain mask is drawn: its steps are then far below what shows.
_LARGE = 1500
# An edge across an outline is strong from this step of the softened colour (length, encoded).
_EDGE_BLUR, _EDGE_STEP = 2.0, 0.11
# The step is taken between stretches of this part of the outline, and of so many pixels at most.
_EDGE_PART, _EDGE_MOST = 0.06, 24
# An outline counts as one round place while its area is at most this many times the largest
# disc inside; longer ones are judged in parts, like strokes.
_ROUND = 2.2
# More pixels times corners than this are measured by way of their neighbours.
_MANY = 4_000_000


@dataclass(frozen=True)
class Outline(Footprint):
    """A closed outline; ``points`` are its corners, ``radius`` that of the largest disc inside.

    Made by `outline`. `distance` continues what a brush's means: ``radius`` on the outline, less
    inside, more outside.
    """

    feather: float = 0.0

    @cached_property
    def path(self) -> NDArray[np.float64]:
        """The corners, shape (n, 2)."""
        return np.asarray(self.points, np.float64)

    @cached_property
    def bounds(self) -> Rect:
        """Rectangle of all pixels inside."""
        low, high = self.path.min(0), self.path.max(0)
        return Rect(
            math.floor(low[0]), math.floor(low[1]), math.ceil(high[0]) + 1, math.ceil(high[1]) + 1
        )

    def nodes(self, spacing: float, most: int) -> NDArray[np.float64]:
        """Places inside at about even distances: one for a round outline, more for a long one."""
        middle = self._inside_points(self.radius * 0.5)
        if len(middle) == 0:
            return self.path.mean(0)[None]
        area = abs(float(cv2.contourArea(self.path.astype(np.float32))))
        if area <= _ROUND * math.pi * self.radius**2:
            return middle.mean(0)[None]
        step = max(spacing, math.sqrt(area / most))
        # Farthest points one after the other: an even cover of any shape.
        chosen = [middle[0]]
        away = np.hypot(*(middle - middle[0]).T)
        while len(chosen) < most:
            far = int(away.argmax())
            if away[far] < step:
                break
            chosen.append(middle[far])
            away = np.minimum(away, np.hypot(*(middle - middle[far]).T))
        return np.asarray(chosen)

    def _inside_points(self, step: float) -> NDArray[np.float64]:
        b = self.bounds
        x, y = np.meshgrid(
            np.arange(b.x0 + step / 2, b.x1, step), np.arange(b.y0 + step / 2, b.y1, step)
        )
        places = np.stack([x.ravel(), y.ravel()], 1)
        inside = _signed(places[:, 0], places[:, 1], self.path) < 0
        return places[inside]

    def distance(self, x: Array, y: Array) -> Array:
        """``radius`` on the outline, less inside, more outside; see `Footprint.distance`."""
        xs, ys = np.asarray(x, np.float64), np.asarray(y, np.float64)
        wide, high = np.broadcast_arrays(xs, ys)
        if len(self.path) * wide.size > _MANY and xs.shape[:1] == (1,) and ys.shape[1:] == (1,):
            signed = self._on_grid(xs[0], ys[:, 0])
        else:
            signed = _signed(np.ravel(wide), np.ravel(high), self.path).reshape(wide.shape)
        return np.asarray(self.radius + signed, np.float32)

    def _on_grid(self, xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.float64]:
        """Signed distances on a grid whose columns and rows lie alike far apart, or nearly so."""
        steps = [float(a[1] - a[0]) if len(a) > 1 else 1.0 for a in (xs, ys)]
        step = np.array(steps)
        signed = signed_on_grid(xs / steps[0], ys / steps[1], self.path / step)
        return np.asarray(signed * step.mean(), np.float64)

    def cover(self, rect: Rect, softness: float = 0.0) -> Array:
        """How strongly each pixel of a rectangle is covered; the edge fades over ``feather`` px.

        The fade lies inside of the outline, so that nothing outside of it changes.
        """
        wide = rect.grow(2)
        finer = _FINER if max(wide.width, wide.height) <= _LARGE else 1
        canvas = np.zeros((wide.height * finer, wide.width * finer), np.uint8)
        corners = (self.path - (wide.x0, wide.y0)) * finer - 0.5
        cv2.fillPoly(canvas, [np.round(corners).astype(np.int32)], 255)
        small = cv2.resize(canvas, (wide.width, wide.height), interpolation=cv2.INTER_AREA)
        cover = small.astype(np.float32) / 255
        if self.feather > 1:
            deep = cv2.distanceTransform(
                (small > 127).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE
            )
            cover *= smooth_step(deep / np.float32(min(self.feather, self.radius)))
        return np.ascontiguousarray(cover[2:-2, 2:-2])


def crosses_edge(read: Reader, place: Outline, bounds: Rect) -> bool:
    """Whether an outline lies on a strong edge, where blending would draw in its colour.

    The softened picture is followed along the outline and looked through for steps.

    ``read`` gives the pixels of a rectangle within ``bounds``, (h, w, 3) float32.
    """
    rect = place.bounds.grow(6).clip(bounds)
    if rect.empty:
        return False
    area = blur(np.ascontiguousarray(read(rect)), _EDGE_BLUR)
    closed = np.concatenate([place.path, place.path[:1]])
    lengths = np.hypot(*np.diff(closed, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(lengths)])
    at = np.arange(0, along[-1], max(1.0, along[-1] / 2000))
    x = np.interp(at, along, closed[:, 0]) - rect.x0
    y = np.interp(at, along, closed[:, 1]) - rect.y0
    inside = (x >= 0) & (y >= 0) & (x < rect.width) & (y < rect.height)
    if np.count_nonzero(inside) < 8:
        return False
    x, y = x[inside], y[inside]
    values = area[y.astype(int), x.astype(int)]
    # Means of the stretches before and after each place: a step stays, a spot or a pore doesn't.
    n = int(np.clip(_EDGE_PART * len(values), 2, _EDGE_MOST))
    around = np.concatenate([values[-n:], values, values[: n + 1]])
    sums = np.concatenate([np.zeros((1, 3)), np.cumsum(around, 0, dtype=np.float64)])
    here = np.arange(len(values)) + n
    before, after = sums[here] - sums[here - n], sums[here + n + 1] - sums[here + 1]
    return bool((np.linalg.norm(after - before, axis=1) / n).max() > _EDGE_STEP)


def outline(points: tuple[tuple[float, float], ...], feather: float = 0.0) -> Outline:
    """The outline through ``points`` (three or more); its edge fades over ``feather`` pixels."""
    path = np.asarray(points, np.float64)
    low, high = path.min(0), path.max(0)
    extent = high - low
    # The largest disc inside, measured on a picture of moderate size.
    scale = min(1.0, 400 / max(float(extent.max()), 1.0))
    size = np.maximum(np.ceil(extent * scale).astype(int) + 3, 3)
    canvas = np.zeros((size[1], size[0]), np.uint8)
    cv2.fillPoly(canvas, [np.round((path - low) * scale + 1).astype(np.int32)], 1)
    deep = float(cv2.distanceTransform(canvas, cv2.DIST_L2, 5).max()) / scale
    return Outline(points, max(deep, 1.0), feather)


@compiled
def _signed(
    x: NDArray[np.float64], y: NDArray[np.float64], path: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Distance to a closed outline, negative inside (even-odd rule)."""
    out = np.empty(len(x))
    n = len(path)
    for i in range(len(x)):
        best, inside = np.inf, False
        px, py = path[n - 1, 0], path[n - 1, 1]
        for k in range(n):
            qx, qy = path[k, 0], path[k, 1]
            vx, vy = qx - px, qy - py
            norm = vx * vx + vy * vy
            t = 0.0
            if norm > 0:
                t = min(max(((x[i] - px) * vx + (y[i] - py) * vy) / norm, 0.0), 1.0)
            best = min(best, (x[i] - px - t * vx) ** 2 + (y[i] - py - t * vy) ** 2)
            if (py > y[i]) != (qy > y[i]) and x[i] < px + (y[i] - py) * vx / vy:
                inside = not inside
            px, py = qx, qy
        out[i] = -np.sqrt(best) if inside else np.sqrt(best)
    return out

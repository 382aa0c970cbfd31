"""The tone a healed place should have, worked out from the skin around it.

Three things make it up: a smooth surface fitted to the ring around the touch; a correction that
joins it to the pixels just outside without a seam (a membrane, after P. Perez, M. Gangnet,
A. Blake, *Poisson Image Editing*, SIGGRAPH 2003, here with a kernel that dies away inwards, so
that a red halo at the rim doesn't colour the middle); and structures that reach in from outside
(a lip, the tail of a brow), which are left as they are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal.coarse import Grid, blur
from retouch.heal.footprint import Footprint
from retouch.heal.surface import Surface, dab_field, fit

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Outlines = Sequence[Sequence[tuple[float, float]]]

# How far the ring reaches, in brush radii.
RING = 2.4
# Trust at the rim of the touch (where a halo may linger), full from RIM_FULL radii outside it.
_RIM_TRUST = 0.15
_RIM_FULL = 0.3
# The correction at the rim takes pixels up to this many radii and dies away over this part.
_JOIN = 1.25
_JOIN_DECAY = 0.35
# A structure deviates by this many residual scales, and by at least this much (encoded values).
_STRUCTURE_SCALES = 4.0
_STRUCTURE_LEAST = 0.03
# Fewer cells than this are a hair's end or grain.
_STRUCTURE_CELLS = 4
# A structure that comes this close to the middle of the brush is what the hand points at.
_CORE = 0.4
_MOST_NODES = 48
# Fewer cells of ring than this can't carry a curved surface.
_FEW = 40
# Cells next to what is spared hold some of its colour, once softened: this wide a square.
_MIXED = 5
# Cells that have to be left when parts of the ring are spared.
_LEFT = 12


@dataclass(frozen=True)
class Surround:
    """The coarse picture around a touch and what the ring says about it.

    All arrays lie on ``grid``: ``colour`` (rows, cols, 3), ``distance`` to the brush's path in
    pixels, ``hole`` where the brush covers, ``trust`` in each ring cell, ``spared`` cells around
    that are of another kind than the place (a lip beside skin) and say nothing about its tone.
    """

    grid: Grid
    footprint: Footprint
    colour: Array
    distance: Array
    hole: Mask
    trust: Array
    nodes: NDArray[np.float64]
    spared: Mask

    @property
    def influence(self) -> Array:
        """Weight of each node at each cell, shape (nodes, rows, cols), summing to 1."""
        if len(self.nodes) == 1:
            return np.ones((1, *self.distance.shape), np.float32)
        reach = 0.9 * self.footprint.radius
        d2 = np.stack([(self.grid.x - x) ** 2 + (self.grid.y - y) ** 2 for x, y in self.nodes])
        w = np.exp(-(d2 - d2.min(0)) / reach**2)
        return np.asarray(w / w.sum(0), np.float32)


@dataclass(frozen=True)
class Field:
    """A smooth field over the grid: ``values``, robust ``weights`` of the ring, fit ``scale``."""

    values: Array
    weights: Array
    scale: float


def ring_rect(footprint: Footprint, bounds: Rect) -> Rect:
    """The pixels a heal reads around its target."""
    return footprint.bounds.grow(int(np.ceil((RING - 1) * footprint.radius)) + 3).clip(bounds)


def look_around(area: Array, rect: Rect, footprint: Footprint, spare: Outlines = ()) -> Surround:
    """Reduce the pixels of ``rect`` and lay out ring and hole.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded values 0..1 of ``rect``.
    spare : sequence of outlines
        Closed outlines, each a sequence of (x, y) in pixels of the original: what lies in them
        and outside of the brush isn't asked for tone, as long as enough is left beside it.
    """
    grid = Grid.over(rect, footprint.radius)
    distance = footprint.distance(grid.x, grid.y)
    hole, trust = _ring(distance, footprint.radius, 0.5 * max(grid.step_x, grid.step_y))
    spared = np.zeros_like(hole)
    if spare:
        inside = grid.inside(spare).astype(np.uint8)
        spared = (cv2.dilate(inside, np.ones((_MIXED, _MIXED), np.uint8)) > 0) & ~hole
    if spared.any():
        if np.count_nonzero((trust > 0) & ~spared) >= _LEFT:
            trust[spared] = 0
        else:
            spared[:] = False
    nodes = footprint.nodes(footprint.radius, _MOST_NODES)
    return Surround(
        grid, footprint, blur(grid.reduce(area), 0.8), distance, hole, trust, nodes, spared
    )


@compiled
def _ring(distance: Array, radius: float, slack: float) -> tuple[Mask, Array]:
    """Where the brush covers, and how far each cell around it can be trusted."""
    rows, cols = distance.shape
    hole = np.empty((rows, cols), np.bool_)
    trust = np.zeros((rows, cols), np.float32)
    for i in range(rows):
        for j in range(cols):
            d = distance[i, j]
            hole[i, j] = d <= radius + slack
            if not hole[i, j] and d <= RING * radius:
                trust[i, j] = min(max((d / radius - 1) / _RIM_FULL, _RIM_TRUST), 1.0)
    return hole, trust


def smooth_field(around: Surround, values: Array, degree: int) -> Field:
    """Fit ``values`` (rows, cols, 3) over the ring and carry the fit into the hole."""
    grid, radius = around.grid, around.footprint.radius
    if len(around.nodes) == 1 and np.count_nonzero(around.trust) >= _FEW:
        cx, cy = around.nodes[0]
        values_there, trusted, scale = dab_field(
            grid.x[0], grid.y[:, 0], values, around.trust, cx, cy, radius, degree
        )
        return Field(values_there, trusted, scale)
    gx = np.broadcast_to(grid.x, around.hole.shape)
    gy = np.broadcast_to(grid.y, around.hole.shape)
    surfaces: list[Surface] = []
    weights = np.zeros(around.hole.shape, np.float32)
    ring = around.trust > 0
    for nx, ny in around.nodes:
        use, wanted = _near_ring(around, ring, gx, gy, (nx, ny), degree)
        trust = np.maximum(around.trust[use], 1e-3)
        surface = fit(gx[use], gy[use], values[use], trust, (nx, ny), radius, wanted)
        surfaces.append(surface)
        weights[use] = np.maximum(weights[use], surface.weights)
    if len(surfaces) == 1:
        field = surfaces[0].at(gx, gy)
    else:
        share = around.influence
        field = np.zeros_like(values)
        for s, part in zip(surfaces, share, strict=True):
            field += part[..., None] * s.at(gx, gy)
    scale = float(np.median([s.scale for s in surfaces]))
    return Field(field, weights, scale)


def _near_ring(
    around: Surround, ring: Mask, gx: Array, gy: Array, node: tuple[float, float], degree: int
) -> tuple[Mask, int]:
    """The part of the ring that a node of a stroke sees, and the degree it can bear."""
    reach = RING * around.footprint.radius
    d2 = (gx - node[0]) ** 2 + (gy - node[1]) ** 2
    use = ring & (d2 < reach * reach)
    if np.count_nonzero(use) >= _FEW:
        return use, degree
    if not ring.any():
        return (~around.hole if (~around.hole).any() else np.ones_like(around.hole)), 1
    # Deep inside a large painted area: the nearest of the ring, as a plane.
    nearest = np.sort(d2[ring])[: _FEW + 20]
    return ring & (d2 <= nearest[-1]), 1


def structures(around: Surround, field: Field) -> Mask:
    """Cells of things that reach into the brush from outside but aren't what it points at.

    A lip's edge or a brow continues outside of the brush with the same colour; a blemish doesn't.
    A structure that passes the middle of the brush is meant by the hand and isn't kept.
    """
    return _structures(
        around.colour,
        field.values,
        around.hole,
        around.distance,
        around.footprint.radius,
        max(_STRUCTURE_SCALES * field.scale, _STRUCTURE_LEAST),
    )


@compiled
def _structures(
    colour: Array, smooth: Array, hole: Mask, distance: Array, radius: float, least: float
) -> Mask:
    rows, cols, depth = colour.shape
    kept = np.zeros((rows, cols), np.bool_)
    deviation = np.empty((rows, cols, depth), np.float32)
    magnitude = np.empty((rows, cols), np.float32)
    seeds = np.zeros((rows, cols), np.bool_)
    count = 0
    for i in range(rows):
        for j in range(cols):
            square = np.float32(0)
            for k in range(depth):
                deviation[i, j, k] = colour[i, j, k] - smooth[i, j, k]
                square += deviation[i, j, k] ** 2
            magnitude[i, j] = np.sqrt(square)
            if magnitude[i, j] > least and not hole[i, j] and distance[i, j] < 1.8 * radius:
                seeds[i, j] = True
                count += 1
    if count < _STRUCTURE_CELLS:
        return kept
    seen = np.zeros((rows, cols), np.bool_)
    cells = np.empty((rows * cols, 2), np.int64)
    part = np.empty((rows * cols, 2), np.int64)
    mean = np.empty(depth, np.float64)
    for i in range(rows):
        for j in range(cols):
            if not seeds[i, j] or seen[i, j]:
                continue
            size = _flood(seeds, seen, i, j, cells)
            close = 0
            mean[:] = 0
            for n in range(size):
                y, x = cells[n]
                if distance[y, x] < 1.5 * radius:
                    close += 1
                    for k in range(depth):
                        mean[k] += deviation[y, x, k]
            if size < _STRUCTURE_CELLS or close == 0:
                continue
            mean /= close
            open_to = _alike(deviation, magnitude, hole, mean)
            for n in range(size):
                open_to[cells[n, 0], cells[n, 1]] = True
            visited = np.zeros((rows, cols), np.bool_)
            for n in range(size):
                if visited[cells[n, 0], cells[n, 1]]:
                    continue
                grown = _flood(open_to, visited, cells[n, 0], cells[n, 1], part)
                nearest = np.inf
                for m in range(grown):
                    y, x = part[m]
                    if hole[y, x]:
                        nearest = min(nearest, distance[y, x])
                if nearest < np.inf and nearest >= _CORE * radius:
                    for m in range(grown):
                        kept[part[m, 0], part[m, 1]] = True
    return kept


@compiled
def _alike(deviation: Array, magnitude: Array, hole: Mask, mean: NDArray[np.float64]) -> Mask:
    """Covered cells that deviate in the same direction as ``mean``, and about as strongly."""
    rows, cols, depth = deviation.shape
    size = np.sqrt((mean * mean).sum()) + 1e-9
    out = np.zeros((rows, cols), np.bool_)
    for i in range(rows):
        for j in range(cols):
            if not hole[i, j]:
                continue
            along = 0.0
            for k in range(depth):
                along += deviation[i, j, k] * mean[k]
            along /= size * size
            across = np.sqrt(max(magnitude[i, j] ** 2 - (along * size) ** 2, 0.0)) / size
            out[i, j] = along > 0.45 and across < 0.5 * max(along, 0.7)
    return out


@compiled
def _flood(open_to: Mask, seen: Mask, i: int, j: int, cells: NDArray[np.int64]) -> int:
    """Collect the cells joined to one, by sides or corners; returns how many."""
    rows, cols = open_to.shape
    cells[0, 0], cells[0, 1] = i, j
    seen[i, j] = True
    count, at = 1, 0
    while at < count:
        y, x = cells[at]
        at += 1
        for v in range(max(y - 1, 0), min(y + 2, rows)):
            for u in range(max(x - 1, 0), min(x + 2, cols)):
                if open_to[v, u] and not seen[v, u]:
                    seen[v, u] = True
                    cells[count, 0], cells[count, 1] = v, u
                    count += 1
    return count


def join(around: Surround, values: Array, field: Field, kept: Mask) -> Array:
    """The field, corrected so that it meets ``values`` at the rim of the hole without a seam."""
    radius = around.footprint.radius
    rim = ~around.hole & (around.distance < _JOIN * radius) & ~kept & ~around.spared
    if not rim.any() or not around.hole.any():
        return field.values
    return _joined(values, field.values, rim, around.hole, around.distance, radius)


@compiled
def _joined(
    values: Array, smooth: Array, rim: Mask, hole: Mask, distance: Array, radius: float
) -> Array:
    rows, cols, depth = values.shape
    out = smooth.copy()
    count = 0
    for i in range(rows):
        for j in range(cols):
            count += rim[i, j]
    ri, rj = np.empty(count, np.float32), np.empty(count, np.float32)
    edge = np.empty((depth, count), np.float32)
    kernel = np.empty(count, np.float32)
    n = 0
    for i in range(rows):
        for j in range(cols):
            if rim[i, j]:
                ri[n], rj[n] = i, j
                for k in range(depth):
                    edge[k, n] = values[i, j, k] - smooth[i, j, k]
                    out[i, j, k] = values[i, j, k]
                n += 1
    for i in range(rows):
        for j in range(cols):
            if not hole[i, j]:
                continue
            y, x, total = np.float32(i), np.float32(j), np.float32(0)
            for m in range(count):
                square = (ri[m] - y) * (ri[m] - y) + (rj[m] - x) * (rj[m] - x) + np.float32(0.5)
                kernel[m] = np.float32(1) / (square * np.sqrt(square))
            for m in range(count):
                total += kernel[m]
            depth_in = max(radius - distance[i, j], 0.0) / (_JOIN_DECAY * radius)
            fade = np.exp(-depth_in) / total
            for k in range(depth):
                correction, line = np.float32(0), edge[k]
                for m in range(count):
                    correction += kernel[m] * line[m]
                out[i, j, k] += fade * correction
    return out

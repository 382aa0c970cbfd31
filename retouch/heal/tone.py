"""The tone a healed place should have, worked out from the skin around it.

Three things make it up: a smooth surface fitted to the ring around the touch; a correction that
joins it to the pixels just outside without a seam (a membrane, after P. Perez, M. Gangnet,
A. Blake, *Poisson Image Editing*, SIGGRAPH 2003, here with a kernel that dies away inwards, so
that a red halo at the rim doesn't colour the middle); and structures that reach in from outside
(a lip, the tail of a brow), which are left as they are.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.heal.coarse import Grid, blur
from retouch.heal.footprint import Footprint
from retouch.heal.surface import Surface, fit

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

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


@dataclass(frozen=True)
class Surround:
    """The coarse picture around a touch and what the ring says about it.

    All arrays lie on ``grid``: ``colour`` (rows, cols, 3), ``distance`` to the brush's path in
    pixels, ``hole`` where the brush covers, ``trust`` in each ring cell.
    """

    grid: Grid
    footprint: Footprint
    colour: Array
    distance: Array
    hole: Mask
    trust: Array
    nodes: NDArray[np.float64]

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


def look_around(area: Array, rect: Rect, footprint: Footprint) -> Surround:
    """Reduce the pixels of ``rect`` and lay out ring and hole.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded values 0..1 of ``rect``.
    """
    grid = Grid.over(rect, footprint.radius)
    distance = footprint.distance(grid.x, grid.y)
    radius = footprint.radius
    hole = distance <= radius + 0.5 * max(grid.step_x, grid.step_y)
    trust = np.clip((distance / radius - 1) / _RIM_FULL, _RIM_TRUST, 1)
    trust = np.where(hole | (distance > RING * radius), 0, trust).astype(np.float32)
    nodes = footprint.nodes(radius, _MOST_NODES)
    return Surround(grid, footprint, blur(grid.reduce(area), 0.8), distance, hole, trust, nodes)


def smooth_field(around: Surround, values: Array, degree: int) -> Field:
    """Fit ``values`` (rows, cols, 3) over the ring and carry the fit into the hole."""
    grid, radius = around.grid, around.footprint.radius
    gx = np.broadcast_to(grid.x, around.hole.shape)
    gy = np.broadcast_to(grid.y, around.hole.shape)
    surfaces: list[Surface] = []
    weights = np.zeros(around.hole.shape, np.float32)
    ring = around.trust > 0
    for nx, ny in around.nodes:
        use, wanted = ring, degree
        if len(around.nodes) > 1 or np.count_nonzero(ring) < _FEW:
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


def _alike(deviation: Array, magnitude: Array, sample: Mask) -> Mask:
    """Cells that deviate in the same direction as ``sample``, and about as strongly."""
    mean = deviation[sample].mean(0)
    size = float(np.linalg.norm(mean)) + 1e-9
    along = deviation @ (mean / size**2)
    across = np.sqrt(np.maximum(magnitude**2 - (along * size) ** 2, 0)) / size
    return np.asarray((along > 0.45) & (across < 0.5 * np.maximum(along, 0.7)))


def structures(around: Surround, field: Field) -> Mask:
    """Cells of things that reach into the brush from outside but aren't what it points at.

    A lip's edge or a brow continues outside of the brush with the same colour; a blemish doesn't.
    A structure that passes the middle of the brush is meant by the hand and isn't kept.
    """
    radius = around.footprint.radius
    kept = np.zeros_like(around.hole)
    deviation = around.colour - field.values
    magnitude = np.sqrt(np.einsum("ijk,ijk->ij", deviation, deviation))
    strong = magnitude > max(_STRUCTURE_SCALES * field.scale, _STRUCTURE_LEAST)
    seeds = strong & ~around.hole & (around.distance < 1.8 * radius)
    if np.count_nonzero(seeds) < _STRUCTURE_CELLS:
        return kept
    _, labels, stats, _ = cv2.connectedComponentsWithStats(seeds.astype(np.uint8), connectivity=8)
    large = np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] >= _STRUCTURE_CELLS) + 1
    for label in large:
        seed = labels == label
        close = seed & (around.distance < 1.5 * radius)
        if not close.any():
            continue
        inside = around.hole & _alike(deviation, magnitude, close)
        _, parts = cv2.connectedComponents((inside | seed).astype(np.uint8), connectivity=8)
        for part in np.unique(parts[seed]):
            grown = (parts == part) & around.hole
            if grown.any() and around.distance[grown].min() >= _CORE * radius:
                kept |= parts == part
    return kept


def join(around: Surround, values: Array, field: Field, kept: Mask) -> Array:
    """The field, corrected so that it meets ``values`` at the rim of the hole without a seam."""
    radius = around.footprint.radius
    rim = ~around.hole & (around.distance < _JOIN * radius) & ~kept
    if not rim.any() or not around.hole.any():
        return field.values
    grid = around.grid
    cx = np.broadcast_to(grid.x, rim.shape)
    cy = np.broadcast_to(grid.y, rim.shape)
    edge = values[rim] - field.values[rim]
    rx, ry = cx[rim] / grid.step_x, cy[rim] / grid.step_y
    hx, hy = cx[around.hole] / grid.step_x, cy[around.hole] / grid.step_y
    out = field.values.copy()
    correction = np.empty((len(hx), edge.shape[1]), np.float32)
    for start in range(0, len(hx), 4096):
        part = slice(start, start + 4096)
        d2 = (hx[part, None] - rx) ** 2 + (hy[part, None] - ry) ** 2 + 0.5
        kernel = 1 / (d2 * np.sqrt(d2))
        correction[part] = (kernel @ edge) / kernel.sum(1, keepdims=True)
    depth = np.maximum(radius - around.distance[around.hole], 0) / (_JOIN_DECAY * radius)
    out[around.hole] += correction * np.exp(-depth)[:, None]
    out[rim] = values[rim]
    return out

"""Strokes painted on masks, in tiles that are kept, so that a new stroke costs only itself.

A stroke with the share s of its target t (1 shows, 0 hides) makes the mask m into m + s (t - m).
Any number of strokes in a row so make m into a m + b: a tile keeps a and b, and doesn't depend on
what the strokes were painted on.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.colour.likeness import edge_tolerance, nearness
from retouch.compiled import compiled
from retouch.edit.mask import MaskStroke
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.copying import coverage
from retouch.picture import Pyramid

Array = NDArray[np.float32]

TILE = 256
# Colours under an edge-aware stroke are sampled at so many places at most.
_SAMPLES = 24


@dataclass(frozen=True)
class Tile:
    """What a row of strokes makes of a mask over a tile: ``kept * mask + laid``."""

    kept: Array
    laid: Array

    @property
    def nbytes(self) -> int:
        return self.kept.nbytes + self.laid.nbytes


@lru_cache(maxsize=4096)
def brush_of(stroke: MaskStroke, level: int) -> Footprint:
    """The stroke's footprint in pixels of a level."""
    scale = 1.0 / (1 << level)
    return Footprint(
        tuple((x * scale, y * scale) for x, y in stroke.path), stroke.radius_px * scale
    )


def share(stroke: MaskStroke, rect: Rect, level: int, pyramid: Pyramid) -> Array:
    """How far the stroke takes the mask to its target, (h, w) 0..1, over ``rect`` of a level."""
    out = coverage(brush_of(stroke, level), rect, stroke.softness / 100, stroke.flow / 100)
    if stroke.edges > 0:
        like = nearness(
            to_lab(pyramid.crop(rect, level)),
            _colours(stroke, pyramid),
            edge_tolerance(stroke.edges / 100),
        )
        out = out * like
    return np.asarray(out, np.float32)


def _colours(stroke: MaskStroke, pyramid: Pyramid) -> Array:
    """CIELAB of the original under the stroke's path, (n, 3)."""
    bounds = pyramid.picture.bounds
    out = []
    for x, y in stroke.path[:: max(1, len(stroke.path) // _SAMPLES)]:
        spot = Rect(int(x) - 2, int(y) - 2, int(x) + 3, int(y) + 3).clip(bounds)
        if not spot.empty:
            out.append(to_lab(pyramid.crop(spot, 0)).reshape(-1, 3).mean(0))
    return np.asarray(out, np.float32).reshape(-1, 3)


def laid_on(
    before: Tile | None, stroke: MaskStroke, rect: Rect, level: int, pyramid: Pyramid
) -> Tile:
    """The tile over ``rect`` with one more stroke."""
    part = share(stroke, rect, level, pyramid)
    if before is None:
        return Tile(1 - part, part if stroke.reveal else np.zeros_like(part))
    return Tile(*_row_of(before.kept, before.laid, part, np.float32(stroke.reveal)))


@compiled
def _row_of(kept: Array, laid: Array, part: Array, target: np.float32) -> tuple[Array, Array]:
    """The row of strokes with one more that takes ``part`` of the mask to ``target``."""
    h, w = part.shape
    kept_now, laid_now = np.empty((h, w), np.float32), np.empty((h, w), np.float32)
    for i in range(h):
        for j in range(w):
            rest = np.float32(1) - part[i, j]
            kept_now[i, j] = kept[i, j] * rest
            laid_now[i, j] = laid[i, j] * rest + target * part[i, j]
    return kept_now, laid_now


@compiled
def lay_into(mask: Array, kept: Array, laid: Array, top: int, left: int) -> None:
    """Apply a tile, from its row ``top`` and column ``left`` on, to a part of a mask in place."""
    h, w = mask.shape
    for i in range(h):
        row = mask[i]
        first, second = kept[top + i, left : left + w], laid[top + i, left : left + w]
        for j in range(len(row)):
            row[j] = row[j] * first[j] + second[j]

"""A picture with a hole at ever half the size, with how rough each place is."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import at_once

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# The coarsest picture is the first in which the hole is at most this deep, in pixels.
_SHALLOW = 4.0
LEAST_SIDE = 24
MOST_LEVELS = 9
# What may not be drawn from counts so much beside what may, in one pixel of a coarser level.
_REFUSED = 1e-3
# Window of the texture's strength in pixels, and its weight beside colour.
_TEXTURE_SIZE = 15
_TEXTURE_WEIGHT = 5.0


@dataclass(frozen=True)
class Level:
    """The picture at one size.

    ``image`` (h, w, 5) float32: colour, encoded 0..1, and how rough it is across and down; ``hole`` and
    ``allowed`` (h, w) bool: what is to be filled, and what may be drawn from.
    """

    image: Array
    hole: Mask
    allowed: Mask


def levels_of(area: Array, hole: Mask, allowed: Mask) -> list[Level]:
    """The picture at ever half the size, the finest first.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1.
    hole, allowed : ndarray (h, w) bool
        What is to be filled, and what may be drawn from.
    """
    out = [Level(np.concatenate([area, _texture(area, hole)], 2), hole, allowed)]
    while len(out) < MOST_LEVELS:
        last = out[-1]
        deep = cv2.distanceTransform(last.hole.astype(np.uint8), cv2.DIST_L2, 5).max()
        if deep <= _SHALLOW or min(last.hole.shape) < 2 * LEAST_SIDE:
            break
        out.append(Level(*_halved(last.image, last.hole, last.allowed)))
    return out


@compiled
def _halved(image: Array, hole: Mask, allowed: Mask) -> tuple[Array, Mask, Mask]:
    """The level of half the size; an odd last row or column counts twice.

    Its pixels are means of their known parts alone, where they can of what may be drawn from: a spot that
    may not doesn't take its whole neighbourhood along on coarse levels. A hole is what has none.
    """
    h, w, depth = image.shape
    rows, cols = (h + 1) // 2, (w + 1) // 2
    out = np.empty((rows, cols, depth), np.float32)
    gone, free = np.empty((rows, cols), np.bool_), np.empty((rows, cols), np.bool_)
    for y in range(rows):
        for x in range(cols):
            known = may = 0
            total = np.float32(0)
            out[y, x] = 0
            for n in range(4):
                v, u = min(2 * y + n // 2, h - 1), min(2 * x + n % 2, w - 1)
                if hole[v, u]:
                    continue
                known += 1
                may += allowed[v, u]
                part = np.float32(1) if allowed[v, u] else np.float32(_REFUSED)
                total += part
                for k in range(depth):
                    out[y, x, k] += part * image[v, u, k]
            if known:
                for k in range(depth):
                    out[y, x, k] /= total
            gone[y, x] = known < 2
            free[y, x] = known == 4 and may >= 2
    return out, gone, free


def _texture(area: Array, hole: Mask) -> Array:
    """How rough each place is across and down, (h, w, 2); in the hole as around it.

    Without it the smoothest patches would match everything best (A. Newson et al., *Video
    Inpainting of Complex Scenes*, SIAM Journal on Imaging Sciences 2014).
    """
    grey = cv2.cvtColor(np.ascontiguousarray(area, np.float32), cv2.COLOR_RGB2GRAY)
    known = (cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0).astype(np.float32)
    size = (_TEXTURE_SIZE, _TEXTURE_SIZE)
    part = cv2.boxFilter(known, -1, size, borderType=cv2.BORDER_REFLECT)

    def rough(way: tuple[int, int]) -> Array:
        step = np.abs(cv2.filter2D(grey, -1, _step(*way), borderType=cv2.BORDER_REFLECT)) * known
        mean = cv2.boxFilter(step, -1, size, borderType=cv2.BORDER_REFLECT)
        return np.asarray(_TEXTURE_WEIGHT * mean / np.maximum(part, np.float32(1e-3)))

    out = np.stack(at_once(rough, ((1, 0), (0, 1))), 2)
    # Deep inside nothing is known within the window: a wider one reaches the rim from anywhere.
    unknown = part < 0.05
    if unknown.any():
        deep = float(cv2.distanceTransform(unknown.astype(np.uint8), cv2.DIST_L2, 5).max())
        wide = (4 * int(deep) + 2 * _TEXTURE_SIZE + 1,) * 2
        weight = np.where(unknown, np.float32(0), part)
        sums = cv2.boxFilter(out * weight[..., None], -1, wide, borderType=cv2.BORDER_REFLECT)
        share = cv2.boxFilter(weight, -1, wide, borderType=cv2.BORDER_REFLECT)
        out[unknown] = (sums / np.maximum(share, np.float32(1e-6))[..., None])[unknown]
    return out


def _step(dx: int, dy: int) -> Array:
    kernel = np.zeros((3, 3), np.float32)
    kernel[1, 1], kernel[1 + dy, 1 + dx] = -1, 1
    return kernel

"""New fine texture where skin has lost it, like the texture around it."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.smooth import reach_of, soft

Array = NDArray[np.float32]

# The strength of texture is measured over this many sigmas of the fine band, and compared with
# that over so many.
_NEAR, _AROUND = 4.0, 30.0
# Above this level fine texture is averaged away.
_HIGHEST = 2


@compiled
def _noise(x0: int, y0: int, h: int, w: int, seed: int) -> Array:
    """White noise, mean 0 and standard deviation 1, fixed to places of the picture.

    A hash of the place and the seed (the finalizer of MurmurHash3, A. Appleby, 2008) gives a
    number; the sum of four bytes of it is close to normal.
    """
    out = np.empty((h, w), np.float32)
    for i in range(h):
        for j in range(w):
            k = np.uint64(x0 + j + 1) * np.uint64(0x9E3779B97F4A7C15)
            k ^= np.uint64(y0 + i + 1) * np.uint64(0xC2B2AE3D27D4EB4F)
            k ^= np.uint64(seed + 1) * np.uint64(0x165667B19E3779F9)
            k ^= k >> np.uint64(33)
            k *= np.uint64(0xFF51AFD7ED558CCD)
            k ^= k >> np.uint64(33)
            k *= np.uint64(0xC4CEB9FE1A85EC53)
            k ^= k >> np.uint64(33)
            total = np.int64(0)
            for b in range(4):
                total += np.int64((k >> np.uint64(8 * b)) & np.uint64(255))
            # Four bytes: mean 510, variance 4 (256² - 1) / 12.
            out[i, j] = (total - 510) / 147.8
    return out


def _shaped(white: Array, sigma: float) -> Array:
    """Noise like the band: nothing larger, and soft enough not to be sensor noise."""
    grain = cv2.GaussianBlur(white, (0, 0), max(0.35 * sigma, 0.3))
    return grain - cv2.GaussianBlur(grain, (0, 0), max(sigma, 0.5))


@lru_cache(maxsize=64)
def _strength(sigma: float) -> float:
    """Standard deviation of shaped noise."""
    return float(_shaped(_noise(0, 0, 256, 256, 0), sigma).std())


def fresh_grain(image: Working, rect: Rect, level: int, sigma: float, seed: int) -> Array:
    """Texture to be added, (h, w): as much as the fine band lacks beside that around.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect`` of ``level``.
    sigma : float
        Parts the fine band, in pixels of the original.
    seed : int
        Another number gives another grain; the same one always the same.
    """
    h, w = image.shape[:2]
    if level > _HIGHEST:
        return np.zeros((h, w), np.float32)
    own = sigma / (1 << level)
    grey = np.ascontiguousarray(image[..., 1])
    fine = grey - soft(grey, rect, own)
    near = soft(fine * fine, rect, _NEAR * own)
    around = soft(near, rect, _AROUND * own)
    lack = np.sqrt(np.maximum(around - near, 0))
    grain = _shaped(_noise(rect.x0, rect.y0, h, w, seed), own)
    return np.asarray(lack * (grain / _strength(round(own, 3))), np.float32)


def grain_reach(sigma: float) -> int:
    """Pixels around a place that count; ``sigma`` parts the fine band."""
    return reach_of(sigma) + reach_of(_NEAR * sigma) + reach_of(_AROUND * sigma)

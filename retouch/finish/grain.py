"""Film-like grain, in pixels of the framed picture: seeded, and alike in every view."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.compiled import compiled
from retouch.features.toning import parts_of

Array = NDArray[np.float32]

# The deviation of lightness at full amount (L*); that of a* and b* beside it at full colour.
_MOST, _COLOUR = 9.0, 0.7


@compiled
def _hash(x: np.int64, y: np.int64, seed: np.int64) -> np.float64:
    """A number -1..1 for a place of a lattice (the mixing of MurmurHash3's end, A. Appleby, from memory)."""
    h = np.uint64((x * 73856093) ^ (y * 19349663) ^ (seed * 83492791)) & np.uint64(0xFFFFFFFF)
    h ^= h >> np.uint64(16)
    h = (h * np.uint64(0x85EBCA6B)) & np.uint64(0xFFFFFFFF)
    h ^= h >> np.uint64(13)
    h = (h * np.uint64(0xC2B2AE35)) & np.uint64(0xFFFFFFFF)
    h ^= h >> np.uint64(16)
    return np.float64(h) / 2147483647.5 - 1.0


@compiled
def _field(x0: float, y0: float, scale: float, size: float, h: int, w: int, seed: int) -> Array:
    """Noise of deviation 1 at full scale, smooth over ``size`` pixels of the framed picture."""
    out = np.empty((h, w), np.float32)
    # Finer than a pixel of the view, grains are averaged: each pixel has one of its own, and fainter.
    cell = max(size, 1.0 / scale)
    part = min(1.0, size * scale)
    for i in range(h):
        v = (y0 + (i + 0.5) / scale) / cell
        for j in range(w):
            u = (x0 + (j + 0.5) / scale) / cell
            total = 0.0
            # Two lattices, one half a cell aside, so that no grid shows.
            for k in range(2):
                a, b = u + 0.5 * k, v + 0.5 * k
                ix, iy = np.floor(a), np.floor(b)
                fx, fy = a - ix, b - iy
                fx = fx * fx * (3 - 2 * fx)
                fy = fy * fy * (3 - 2 * fy)
                px, py, s = np.int64(ix), np.int64(iy), np.int64(seed * 2 + k)
                top = _hash(px, py, s) * (1 - fx) + _hash(px + 1, py, s) * fx
                low = _hash(px, py + 1, s) * (1 - fx) + _hash(px + 1, py + 1, s) * fx
                total += top * (1 - fy) + low * fy
            # The deviation of one such lattice is about 0.43 (uniform values, smooth steps).
            out[i, j] = np.float32(total / (0.4286 * 1.4142) * part)
    return out


def noise(
    x: float, y: float, scale: float, size: float, shape: tuple[int, int], seed: int
) -> Array:
    """Grain over (rows, columns) whose corner lies at ``x``, ``y`` of the framed picture.

    Its deviation is about 1 at full scale; views at a smaller ``scale`` see it averaged.
    """
    return _field(x, y, scale, max(size, 0.3), shape[0], shape[1], seed)


def grained(
    image: Working,
    corner: tuple[float, float],
    scale: float,
    amount: float,
    size: float,
    colour: float,
    tones: float,
    seed: int,
) -> Working:
    """Working values (h, w, 3) with grain; ``size`` in pixels of the framed picture.

    ``tones`` -1..1: more in the shadows below 0, more in the lights above; in pure black and white none.
    """  # fmt: skip
    if not amount:
        return image
    before = to_lab(image)
    light, a, b = parts_of(before)
    t = np.clip(light / 100, 0, 1)
    # Densest in the middle tones, as silver grain looks (common practice).
    share = np.clip(4 * t * (1 - t), 0, 1) ** 0.7 * np.clip(1 + tones * (2 * t - 1), 0, 2)
    shape = (image.shape[0], image.shape[1])
    most = np.float32(_MOST * amount) * share.astype(np.float32)
    out = [light + most * noise(*corner, scale, size, shape, seed)]
    for n, channel in enumerate((a, b)):
        faint = np.float32(_COLOUR * colour)
        out.append(
            channel + faint * most * noise(*corner, scale, size, shape, seed + 101 * (n + 1))
            if colour
            else channel
        )
    return shifted(image, before, np.dstack(out))

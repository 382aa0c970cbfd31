"""Film-like grain, in pixels of the framed picture: seeded, and alike in every view."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.compiled import compiled

Array = NDArray[np.float32]

# The deviation of lightness at full amount (L*); that of a* and b* beside it at full colour.
_MOST, _COLOUR = 9.0, 0.7
# Its deviation is told at so many lightnesses, and between them by lines.
_STEPS = 4097


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
    t = np.linspace(0, 1, _STEPS, dtype=np.float32)
    # Densest in the middle tones, as silver grain looks (common practice).
    share = (4 * t * (1 - t)) ** 0.7 * np.clip(1 + tones * (2 * t - 1), 0, 2)
    most = np.asarray(_MOST * amount * share, np.float32)
    shape = (image.shape[0], image.shape[1])
    count = 3 if colour else 1
    fields = [noise(*corner, scale, size, shape, seed + 101 * n) for n in range(count)]
    return shifted(image, before, _grainy(before, most, np.stack(fields), _COLOUR * colour))


@compiled
def _grainy(lab: Lab, most: Array, fields: Array, colour: float) -> Lab:
    """CIELAB with noise: of its lightness, and with more than one field of a* and b* too.

    ``most`` is its deviation by lightness, at even steps from black to white.
    """
    h, w, _ = lab.shape
    out = lab.copy()
    last, faint = len(most) - 1, np.float32(colour)
    for i in range(h):
        for j in range(w):
            at = min(
                max(lab[i, j, 0] / np.float32(100), np.float32(0)), np.float32(1)
            ) * np.float32(last)
            n = min(int(at), last - 1)
            strong = most[n] + (most[n + 1] - most[n]) * (at - np.float32(n))
            out[i, j, 0] += strong * fields[0, i, j]
            for k in range(1, len(fields)):
                out[i, j, k] += faint * strong * fields[k, i, j]
    return out

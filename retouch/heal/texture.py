"""Texture: fine detail by bands, and how strong each band is in a place."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.heal.coarse import Grid, blur
from retouch.heal.tone import RING, Surround

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Band limits as Gaussian sigmas in pixels: grain, pores, small relief.
SIGMAS = (1.0, 2.0, 4.0)
# Rarely is skin in reach rougher or smoother than this against its neighbour; beyond it the
# source is wrong and forcing it would show.
_GAIN_LIMITS = (0.6, 1.7)
# Energies far above the median come from hairs and other marks; they count up to this multiple.
_ENERGY_CLIP = 15.0
# From this part of the radius outwards a brush a little larger than its spot covers clean skin.
_CLEAN_FROM = 0.6


def blurs(area: Array) -> list[Array]:
    """``area`` blurred by each of SIGMAS, each made from the one before."""
    out, before = [area], 0.0
    for sigma in SIGMAS:
        out.append(blur(out[-1], float(np.sqrt(sigma**2 - before**2))))
        before = sigma
    return out[1:]


def bands(area: Array) -> list[Array]:
    """Differences of neighbouring blurs, finest first: grain, pores, small relief."""
    soft = blurs(area)
    return [a - b for a, b in zip([area, *soft[:-1]], soft, strict=True)]


def grey(area: Array) -> Array:
    return cv2.cvtColor(area, cv2.COLOR_RGB2GRAY)


def energies(area: Array, grid: Grid) -> Array:
    """Mean square of each band of the grey picture in each cell, shape (bands, rows, cols).

    The last band is measured at half size, where it loses nothing.
    """
    full = grey(area)
    fine, medium = (blur(full, s) for s in SIGMAS[:2])
    size = (max(1, full.shape[1] // 2), max(1, full.shape[0] // 2))
    half = cv2.resize(medium, size, interpolation=cv2.INTER_AREA)
    relief = half - blur(half, float(np.sqrt(SIGMAS[2] ** 2 - SIGMAS[1] ** 2)) / 2)
    two = cv2.merge([full - fine, fine - medium])
    cells = grid.reduce(cv2.multiply(two, two))
    return np.stack([cells[..., 0], cells[..., 1], grid.reduce(cv2.multiply(relief, relief))])


def wanted(around: Surround, energy: Array, weights: Array, kept: Mask) -> Array:
    """Energy that each band should have at each node of the touch, shape (bands, nodes).

    Taken from the ring where the tone fit trusts it, and from the outer part of the brush
    itself, nearer places counting more.
    """
    radius = around.footprint.radius
    ring = (weights > 0.2 * around.trust) & (around.trust > 0) & (around.distance > 1.15 * radius)
    if ring.sum() < 10:
        ring = around.trust > 0
    rim = around.hole & (around.distance > _CLEAN_FROM * radius) & ~kept
    out = np.empty((len(energy), len(around.nodes)), np.float32)
    for i, (x, y) in enumerate(around.nodes):
        d = np.hypot(around.grid.x - x, around.grid.y - y)
        near = (radius / np.maximum(d, 0.3 * radius)) ** 2
        reach = d < RING * radius if len(around.nodes) > 1 else np.True_
        w = np.where((ring & reach) | (ring if not (ring & reach).any() else False), near, 0)
        w = w + np.where(rim & reach, 2.0, 0)
        use = w > 0
        if not use.any():
            out[:, i] = energy.mean((1, 2))
            continue
        sample, trust = energy[:, use], w[use]
        middle = sample.shape[1] // 2
        most = _ENERGY_CLIP * np.partition(sample, middle, axis=1)[:, middle, None]
        out[:, i] = np.minimum(sample, most) @ trust / trust.sum()
    return out


def gains(target: Array, source: Array) -> Array:
    """Factors that bring the source's band energies to the target's, within safe limits."""
    return np.clip(np.sqrt((target + 1e-12) / (source + 1e-12)), *_GAIN_LIMITS).astype(np.float32)

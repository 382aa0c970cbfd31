"""The colour of one person's skin under one picture's light.

Chromaticity in log opponent form, log(R/G) and log(B/G) of linear light, does not change with
shading (G. D. Finlayson, S. D. Hordley, *Color constancy at a pixel*, JOSA A 18, 2001), so a face
half in shadow stays one skin; highlights move it towards the light's own colour.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.transfer import to_linear

Array = NDArray[np.float32]

# Light below this (linear) is noise in most files; it keeps the logarithms quiet.
_DARK = 0.0015
# Spread of chromaticity within one skin that is always granted: flush, sallow places, grain.
_LEAST_SPREAD = 0.07
# How far in light (natural logarithm) skin goes below and above its median.
_SHADOW, _HIGHLIGHT = 2.2, 1.6
_SOFT = 0.35


def chroma(rgb: Array) -> tuple[Array, Array]:
    """Log opponent chromaticity (…, 2) and log light (…) of encoded sRGB 0..1 (…, 3)."""
    light = to_linear(np.asarray(rgb, np.float32)) + np.float32(_DARK)
    logs = np.log(light)
    opponent = np.stack([logs[..., 0] - logs[..., 1], logs[..., 2] - logs[..., 1]], -1)
    return opponent, logs @ np.array([0.2126, 0.7152, 0.0722], np.float32)


@dataclass(frozen=True)
class SkinModel:
    """Median chromaticity and its spread, and the median light of clean skin."""

    centre: Array
    inverse: Array
    light: float

    def likelihood(self, rgb: Array) -> Array:
        """How skin-like each colour is, 0..1: (…, 3) encoded sRGB 0..1 in, (…) out."""
        opponent, light = chroma(rgb)
        off = opponent - self.centre
        rising = np.clip((light - self.light) / 0.6, 0, 1)
        # A highlight is on the way from the skin's colour to white light: (0, 0).
        towards = off + self.centre * (rising * 0.9)[..., None] * _between(off, self.centre)
        d2 = np.einsum("...i,ij,...j->...", towards, self.inverse, towards)
        here = np.exp(-0.5 * np.minimum(d2, 60))
        low = 1 / (1 + np.exp(-(light - self.light + _SHADOW) / _SOFT))
        high = 1 / (1 + np.exp((light - self.light - _HIGHLIGHT) / _SOFT))
        return np.asarray(here * low * high, np.float32)


def _between(off: Array, centre: Array) -> Array:
    """1 where a colour lies towards white from the centre, else 0, shape (…, 1)."""
    size = float(centre @ centre) + 1e-6
    along = -(off @ centre) / size
    return np.clip(along * 4, 0, 1)[..., None]


def fit(samples: Array) -> SkinModel:
    """The model of a person's skin from samples of it.

    Parameters
    ----------
    samples : ndarray (n, 3) float32
        Encoded sRGB 0..1 of pixels that are mostly skin; a third may be something else.
    """
    opponent, light = chroma(samples)
    keep = np.ones(len(opponent), bool)
    centre = np.median(opponent, 0)
    for _ in range(4):
        d = np.hypot(*(opponent - centre).T)
        keep = d <= max(2.5 * float(np.median(d)), 0.08)
        centre = np.median(opponent[keep], 0)
    spread = np.cov((opponent[keep] - centre).T) if keep.sum() > 8 else np.zeros((2, 2))
    spread = spread * 1.5 + np.eye(2) * _LEAST_SPREAD**2
    return SkinModel(
        centre.astype(np.float32),
        np.linalg.inv(spread).astype(np.float32),
        float(np.median(light[keep])),
    )

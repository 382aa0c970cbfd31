"""Soft looks: light that spreads around what is bright, and mist over everything."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.linear import decoded, encoded
from retouch.geometry import Rect
from retouch.heal.coarse import Grid, blur
from retouch.steps import step_between

Array = NDArray[np.float32]

# From this light on (encoded) something glows, wholly so much above it.
_OVER = 0.3
# Blurs above this many pixels of sigma are made on cells; a blur looks so many sigmas far.
_REDUCED_FROM, _FAR = 5.0, 3.2
# At full amount mist is so much of what is spread, and lifts black to this light (linear).
_MOST_MIST, _LIFT = 0.6, 0.02


def sigma_of(long_px: float, size: float) -> float:
    """The spread in pixels of a picture whose longer side is ``long_px``; ``size`` in per cent of that."""
    return max(0.5, long_px * size / 100)


def reach(sigma: float) -> int:
    """Pixels around a place that are looked at."""
    return int(np.ceil(_FAR * sigma)) + 2 * _cells(sigma)


def _cells(sigma: float) -> int:
    return 1 if sigma < _REDUCED_FROM else int(2 ** np.floor(np.log2(sigma / 2.5)))


def softened(
    image: Working, rect: Rect, inner: Rect, sigma: float, glow: float, mist: float, above: float
) -> Working:
    """Working values of ``inner`` with glow and mist.

    Light adds up in linear light: what is brighter than ``above`` spreads by a Gaussian and is laid over by
    the screen of W3C *Compositing and Blending Level 1*, 10.1, so nothing is clipped.

    Parameters
    ----------
    image : ndarray (h, w, 3)
        Over ``rect``, which reaches `reach` beyond ``inner``.
    sigma : float
        In pixels of ``rect``.
    glow, mist : float
        0..1.
    above : float
        0..1, encoded.
    """
    cut = inner.within(rect)
    own = np.asarray(image[cut], np.float32)
    if not (glow or mist):
        return own
    light = decoded(np.clip(image, 0, 1).astype(np.float32))
    out = light[cut]
    if mist:
        veil = _spread(light, rect, inner, sigma)
        share = np.float32(_MOST_MIST * mist)
        out = out * (1 - share) + share * (veil + np.float32(_LIFT))
    if glow:
        shine = (
            light * step_between(image.max(-1), above, min(above + _OVER, 1.0) + 1e-3)[..., None]
        )
        spread = np.clip(np.float32(glow) * _spread(shine, rect, inner, sigma), 0, 1)
        out = 1 - (1 - np.clip(out, 0, 1)) * (1 - spread)
    change = encoded(np.ascontiguousarray(out, np.float32)) - encoded(
        np.ascontiguousarray(light[cut])
    )
    return np.asarray(own + change, np.float32)


def _spread(values: Array, rect: Rect, inner: Rect, sigma: float) -> Array:
    """A Gaussian over ``inner``; large ones on cells fixed to the picture's pixels."""
    factor = _cells(sigma)
    if factor == 1:
        return np.asarray(blur(values, sigma)[inner.within(rect)], np.float32)
    wide = rect.align(factor)
    pad = ((rect.y0 - wide.y0, wide.y1 - rect.y1), (rect.x0 - wide.x0, wide.x1 - rect.x1), (0, 0))
    area = np.pad(values, pad, mode="edge")
    grid = Grid(wide, wide.height // factor, wide.width // factor)
    rest = np.sqrt(sigma**2 - (factor**2 - 1) / 12) / factor
    return np.asarray(grid.spread(blur(grid.reduce(area), float(rest)), inner), np.float32)

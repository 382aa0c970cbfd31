"""Stains: their colour and light replaced by those of the cloth around, the weave kept."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.fill.poisson import membrane
from retouch.geometry import Rect
from retouch.skin.smooth import contrast_of, edge_aware

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# The stain's own edge is none of the weave: what is parted stops at edges as faint as this.
_GUARD = 0.85
# Beyond the outline so many weaves' width of cloth say what ground and weave are like.
_RING = 3.0
# The weave inside is brought to the strength of that around, within these limits.
_LEAST, _MOST = 0.5, 2.0
# So many times as strong as usual is no weave; grounds count as no darker than this (encoded).
_FAR, _DARK = 3.0, 0.03
# The ground is worked out on so many cells at most across; it varies slowly.
_CELLS = 96


def reach(weave: float) -> int:
    """Pixels around the outline that count."""
    return int(np.ceil(7 * weave)) + 4


def unstained(area: Array, rect: Rect, beyond: Array, weave: float) -> Array:
    """The area with what lies inside an outline as the cloth around is.

    Ground and weave are parted by smoothing that stops at edges; the ground inside is a membrane between
    what lies around (P. Perez, M. Gangnet, A. Blake, *Poisson Image Editing*, SIGGRAPH 2003), the weave its own.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1, over ``rect``.
    beyond : ndarray (h, w) float32
        How far each place lies outside the outline, pixels; 0 and less inside.
    weave : float
        Width of what counts as weave, pixels.
    """
    hole = beyond <= 1.0
    ring = ~hole & (beyond <= _RING * weave)
    if not hole.any() or not ring.any():
        return area
    ground = edge_aware(area, rect, max(0.5 * weave, 0.6), contrast_of(_GUARD))
    # The weave is light and shade on the thread: as a part of its ground's light, without the stain's hue.
    fine = (area - ground).mean(-1) / np.maximum(ground.mean(-1), _DARK)
    usual, own = (1.4826 * float(np.median(np.abs(fine[place]))) for place in (ring, hole))
    # What is far stronger is the stain's own rim.
    fine = np.clip(fine, -_FAR * usual, _FAR * usual)
    gain = np.clip(usual / max(own, 1e-4), _LEAST, _MOST)
    made = _between(ground, hole, beyond, weave) * (1 + np.float32(gain) * fine)[..., None]
    out = area.copy()
    out[hole] = made[hole]
    return np.clip(out, 0, 1)


def _between(ground: Array, hole: Mask, beyond: Array, weave: float) -> Array:
    """The ground with the hole continued from what lies just around it."""
    h, w = hole.shape
    cell = max(1, -(-max(h, w) // _CELLS))
    size = (max(2, w // cell), max(2, h // cell))
    # Close to the outline the ground is still the stain's.
    known = (beyond > 0.5 * weave).astype(np.float32)
    weight = cv2.resize(known, size, interpolation=cv2.INTER_AREA)
    values = cv2.resize(ground * known[..., None], size, interpolation=cv2.INTER_AREA)
    small = values / np.maximum(weight, 1e-6)[..., None]
    open_ = weight < 0.5
    if open_.all():
        return ground
    small[open_] = small[~open_].mean(0)
    made = membrane(small, open_)
    return np.asarray(cv2.resize(made, (w, h), interpolation=cv2.INTER_CUBIC), np.float32)

"""Redness: found as departure from this person's own skin towards red, and taken back."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.skin.colour import chroma, moved, smooth, to_lab
from retouch.skin.smooth import soft

Array = NDArray[np.float32]

# The finest redness that counts, and where small pores no longer make it speckled.
_FIELD_MM = 0.5
# Over so many units beyond the tolerance redness comes to count fully.
_WIDTH = 4.0


def erythema(lab: Array, skin: Array) -> Array:
    """How much redder than the person's skin each colour is, in units of a*.

    a* as the measure of erythema: the CIE L*a*b* a* of skin rises in proportion to the
    haemoglobin index (N. Kollias, *The physical basis of skin color and its evaluation*, Clinics
    in Dermatology 13, 1995; from memory). Skin in shade is less saturated in a*, so the person's
    own a* is taken in proportion to lightness.
    """
    expected = skin[1] * np.clip(lab[..., 0] / max(float(skin[0]), 1.0), 0.35, 1.15)
    return np.asarray(lab[..., 1] - expected, np.float32)


def less_red(
    image: Array,
    rect: Rect,
    px_per_mm: float,
    skin: Array,
    amount: float,
    tolerance: float = 2.0,
    floor: float = 0.6,
) -> Array:
    """The image with redness taken back.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    skin : ndarray (3,)
        CIELAB of the person's clean skin.
    amount : float
        0..1: how much of the departure is taken back.
    tolerance : float
        Units of a* that are the skin's own variety.
    floor : float
        Part of the skin's own chroma that is never gone below: grey is worse than red.

    Returns
    -------
    ndarray (h, w, 3) float32
        Lightness as it was.
    """
    lab = to_lab(image)
    field = soft(lab, rect, _FIELD_MM * px_per_mm)
    excess = erythema(field, skin)
    share = amount * smooth((excess - tolerance) / _WIDTH)
    # Towards the person's hue at the place's own lightness, not towards grey.
    expected = np.clip(field[..., 0] / max(float(skin[0]), 1.0), 0.35, 1.15)
    change = np.zeros_like(lab)
    for k in (1, 2):
        change[..., k] = share * (skin[k] * expected - field[..., k])
    least = floor * float(np.hypot(skin[1], skin[2])) * expected
    after = chroma(lab + change)
    short = (after < least) & (share > 0) & (chroma(lab) > after)
    if short.any():
        # Only as far as the floor lets it.
        own = chroma(lab)
        part = np.clip((own - np.minimum(least, own)) / np.maximum(own - after, 1e-3), 0, 1)
        change[short] *= part[short][:, None]
    return moved(image, lab, change)


def reach(px_per_mm: float) -> int:
    """Pixels around a place that count."""
    return int(np.ceil(4 * _FIELD_MM * px_per_mm)) + 8

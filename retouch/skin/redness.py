"""Redness: found as departure from this person's own skin towards red, and taken back."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.colour import moved, to_lab
from retouch.skin.smooth import soft, soft_reach_of

Array = NDArray[np.float32]

# Over so many units beyond the tolerance redness comes to count fully.
_WIDTH = 4.0
# Skin in shade is less saturated, but not without end; lit skin is hardly more so.
_SHADE, _LIT = 0.35, 1.15


def erythema(lab: Array, skin: Array) -> Array:
    """How much redder than the person's skin each colour is, in units of a*.

    a* as the measure of erythema: the CIE L*a*b* a* of skin rises in proportion to the
    haemoglobin index (N. Kollias, *The physical basis of skin color and its evaluation*, Clinics
    in Dermatology 13, 1995; from memory). Skin in shade is less saturated in a*, so the person's
    own a* is taken in proportion to lightness.
    """
    expected = skin[1] * np.clip(lab[..., 0] / max(float(skin[0]), 1.0), _SHADE, _LIT)
    return np.asarray(lab[..., 1] - expected, np.float32)


def less_red(
    image: Array,
    rect: Rect,
    px_per_mm: float,
    skin: Array,
    amount: float,
    tolerance: float = 7.0,
    floor: float = 0.6,
    size_mm: float = 2.0,
    inner: Rect | None = None,
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
    size_mm : float
        Redness is measured over places of about this size, so that pores and fine veins of
        colour keep what makes skin look like skin.
    inner : Rect, optional
        The part of ``rect`` that is given back; otherwise all of it.

    Returns
    -------
    ndarray (h, w, 3) float32
        Lightness as it was.
    """
    inner = inner or rect
    here = inner.within(rect)
    lab = to_lab(image)
    field = soft(lab, rect, _SIGMA_OF_SIZE * size_mm * px_per_mm, inner)
    own = np.ascontiguousarray(lab[here])
    change = _taken_back(own, field, np.asarray(skin, np.float32), amount, tolerance, floor)
    return moved(np.ascontiguousarray(image[here]), change, own)


# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5


@compiled
def _taken_back(
    lab: Array, field: Array, skin: Array, amount: float, tolerance: float, floor: float
) -> Array:
    """The change of each pixel in CIELAB: towards the person's hue at the place's own lightness."""
    h, w, _ = lab.shape
    out = np.zeros((h, w, 3), np.float32)
    one = np.float32(1)
    light = np.float32(1) / max(skin[0], one)
    own = np.float32(floor) * np.sqrt(skin[1] * skin[1] + skin[2] * skin[2])
    for i in range(h):
        for j in range(w):
            expected = min(max(field[i, j, 0] * light, np.float32(_SHADE)), np.float32(_LIT))
            t = (field[i, j, 1] - skin[1] * expected - np.float32(tolerance)) / np.float32(_WIDTH)
            if t <= 0:
                continue
            t = min(t, one)
            share = np.float32(amount) * t * t * (np.float32(3) - np.float32(2) * t)
            a = share * (skin[1] * expected - field[i, j, 1])
            b = share * (skin[2] * expected - field[i, j, 2])
            before = np.sqrt(lab[i, j, 1] ** 2 + lab[i, j, 2] ** 2)
            after = np.sqrt((lab[i, j, 1] + a) ** 2 + (lab[i, j, 2] + b) ** 2)
            least = min(own * expected, before)
            if after < least:
                # Only as far as the floor lets it: where the way to the new colour first meets
                # the circle of the least chroma.
                long = a * a + b * b
                along = lab[i, j, 1] * a + lab[i, j, 2] * b
                inside = along * along - long * (before * before - least * least)
                part = (-along - np.sqrt(max(inside, np.float32(0)))) / max(long, np.float32(1e-9))
                part = min(max(part, np.float32(0)), one)
                a *= part
                b *= part
            out[i, j, 1] = a
            out[i, j, 2] = b
    return out


def reach(px_per_mm: float, size_mm: float) -> int:
    """Pixels around a place that count."""
    return soft_reach_of(_SIGMA_OF_SIZE * size_mm * px_per_mm)

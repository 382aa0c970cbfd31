"""Cloth: creases softened by size, colour evened or changed; weave and broad folds stay."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.geometry import Rect
from retouch.skin.smooth import contrast_of, edge_aware, reach_of, soft

Array = NDArray[np.float32]

# The weave is finer than this (mm) and stays.
_WEAVE_MM = 0.8
# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5
# Edges of cloth (collars, buttons, prints) stop what is softened; colour is evened within weaker ones.
_GUARD, _GUARD_COLOUR, _EVEN_MM = 0.5, 0.5, 15.0
# A crease is lifted or sunk by so much at most (L*). So many L* of light double or halve the power.
_MOST, _HALVES = 14.0, 40.0


@dataclass(frozen=True)
class ClothLook:
    """What is done, as parts 0..1: ``creases`` up to ``size_mm``, ``even``, ``recolour`` by the turn
    ``hue`` (degrees), ``richer`` -1..1, ``light`` (L*) -40..40.
    """

    creases: float = 0.0
    size_mm: float = 12.0
    even: float = 0.0
    hue: float = 0.0
    richer: float = 0.0
    light: float = 0.0


def reach(size_mm: float, px_per_mm: float) -> int:
    """Pixels of the original around a place that count."""
    widest = max(_SIGMA_OF_SIZE * size_mm, _SIGMA_OF_SIZE * _EVEN_MM)
    return reach_of(_SIGMA_OF_SIZE * _WEAVE_MM * px_per_mm) + reach_of(widest * px_per_mm) + 2


def changed(image: Working, rect: Rect, look: ClothLook, scale: float) -> Working:
    """Cloth as it is to look.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1, over ``rect``.
    scale : float
        Its pixels per mm.
    """
    before = to_lab(image)
    after = np.array(before, np.float32)
    if look.creases or look.even:
        fine = soft(image, rect, _SIGMA_OF_SIZE * _WEAVE_MM * scale)
    if look.creases:
        sigma = _SIGMA_OF_SIZE * look.size_mm * scale
        broad = edge_aware(fine, rect, sigma, contrast_of(_GUARD))
        # A crease is light and shade: colour goes with it, and nothing is taken over from beside the cloth.
        light = np.float32(look.creases) * (to_lab(broad) - to_lab(fine))[..., 0]
        light = np.clip(light, -_MOST, _MOST)
        share = np.clip((after[..., 0] + light) / np.maximum(after[..., 0], 1), 0.8, 1.25)
        after[..., 0] += light
        after[..., 1:] *= share[..., None]
    if look.even:
        sigma = _SIGMA_OF_SIZE * _EVEN_MM * scale
        around = edge_aware(fine, rect, sigma, contrast_of(_GUARD_COLOUR))
        change = (to_lab(around) - to_lab(fine))[..., 1:]
        after[..., 1:] += np.float32(look.even) * change
    if look.hue or look.richer:
        angle = np.deg2rad(look.hue)
        a, b = after[..., 1].copy(), after[..., 2].copy()
        more = np.float32(1 + look.richer)
        after[..., 1] = more * np.float32(np.cos(angle)) * a - more * np.float32(np.sin(angle)) * b
        after[..., 2] = more * np.float32(np.sin(angle)) * a + more * np.float32(np.cos(angle)) * b
    if look.light:
        # Black stays black and white white: the middle moves, with the weave's contrast.
        power = np.float32(2 ** (-look.light / _HALVES))
        after[..., 0] = 100 * np.power(np.clip(after[..., 0], 0, 100) / 100, power)
    np.clip(after[..., 0], 0, 100, out=after[..., 0])
    return shifted(image, before, after)

"""The shadow that a thing casts on a face, lifted; and where it lies."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.transfer import to_encoded, to_linear

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# No shadow takes more of the light than this; more than that isn't believed of one that is found,
# for the face's own shades look alike: not even of one that explains this part of how the light varies.
DEEPEST, _BELIEVED, _BELIEVED_MOST, _TOLD_WELL = 0.75, 0.36, 0.45, 0.04
# What is broader than this (sigma, in the unit of `fit`) is the form of the face.
_FORM = 0.047
# Offsets and softness tried, in the same unit: across, down (light comes from above), and sigma.
_ACROSS, _DOWN, _SOFT = (-0.0931, 0.094, 0.0133), (0.0, 0.09, 0.0133), (0.007, 0.013, 0.023)
# Of softnesses that explain nearly as much the broadest: a sharp one at a slightly wrong place fits
# in part and is told too light.
_AS_WELL = 0.95
# Then ever finer around the best, a step to either side.
_FINER = 0.0067, 0.0033, 0.0017
# Less of the light than this isn't told from the face's own shades, nor where it explains less than
# this part of how the light varies beside the thing.
_LEAST_DARK, _LEAST_TOLD = 0.05, 0.006
# Keeps logarithms of the darkest light within reason (linear).
_DARK = 0.003


def shadow(cover: Array, across: float, down: float, soft: float) -> Array:
    """Where a thing's shadow lies, (h, w) 0..1.

    Parameters
    ----------
    cover : ndarray (h, w) float32
        1 where the thing is.
    across, down, soft : float
        How far its shadow is moved, and how soft it is (sigma), in pixels.
    """
    h, w = cover.shape
    moved = cv2.warpAffine(
        np.ascontiguousarray(cover, np.float32),
        np.array([[1, 0, across], [0, 1, down]], np.float64),
        (w, h),
    )
    return np.asarray(cv2.GaussianBlur(moved, (0, 0), max(soft, 0.3)), np.float32)


def lifted(area: Array, dark: Array) -> Array:
    """A picture without a shadow that takes the part ``dark`` (h, w) 0..1 of its linear light."""
    light = np.asarray(to_linear(np.ascontiguousarray(np.clip(area, 0, 1))), np.float32)
    light /= (1 - np.minimum(dark, DEEPEST))[..., None]
    return np.asarray(to_encoded(np.minimum(light, 1)), np.float32)


def fit(
    image: Array, thing: Array, free: Mask, unit: float
) -> tuple[float, float, float, float] | None:
    """The shadow that a thing casts: across, down, softness (pixels), and how dark it is (0..1).

    The thing's own form, moved and softened, is looked for in the logarithm of the light beside it,
    with the broad form of the face taken off both; it is the one that explains most.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1.
    thing : ndarray (h, w) float32
        What casts it, 0..1.
    free : ndarray (h, w) bool
        Plain skin near the thing.
    unit : float
        The height of the face in pixels.

    Returns
    -------
    tuple or None
        None where no shadow is told.
    """
    weight = free.astype(np.float32)
    if weight.sum() < 200:
        return None
    form = _FORM * unit
    near = np.maximum(cv2.GaussianBlur(weight, (0, 0), form), np.float32(1e-4))

    def fine(values: Array) -> Array:
        return (values - cv2.GaussianBlur(values * weight, (0, 0), form) / near) * weight

    light = np.log(to_linear(np.ascontiguousarray(np.clip(image, 0, 1))).mean(-1) + _DARK)
    seen = fine(np.asarray(light, np.float32))

    def told(across: float, down: float, spread: Array) -> tuple[float, float]:
        """How much of the light's variation a place of the shadow explains, and how dark it is."""
        moved = fine(_moved(spread, across, down))
        power = float((moved * moved).sum())
        dark = -float((seen * moved).sum()) / max(power, 1e-6)
        return (dark * dark * power if dark > 0 else 0.0), dark

    best = (0.0, 0.0, 0.0, 0.0, 0.0)
    most = 0.0
    for soft in _SOFT:
        spread = cv2.GaussianBlur(thing, (0, 0), max(soft * unit, 0.3))
        tries = [(a, d) for d in np.arange(*_DOWN) for a in np.arange(*_ACROSS)]
        found = max((*told(a * unit, d * unit, spread), a, d) for a, d in tries)
        for step in _FINER:
            tries = [
                (found[2] + step * i, found[3] + step * j) for i in (-1, 0, 1) for j in (-1, 0, 1)
            ]
            found = max((*told(a * unit, d * unit, spread), a, d) for a, d in tries)
        if found[0] >= _AS_WELL * most:
            best = (*found, soft)
        most = max(most, found[0])
    explained, dark, across, down, soft = best
    # A logarithm: so much of the light is taken.
    dark = 1 - float(np.exp(-dark))
    # At the border of what was tried it was no shadow, but the form of the face.
    if (
        across - _ACROSS[0] < _FINER[0]
        or _ACROSS[1] - across < 2 * _FINER[0]
        or _DOWN[1] - down < 2 * _FINER[0]
    ):
        return None
    told_share = explained / max(float((seen * seen).sum()), 1e-9)
    if told_share < _LEAST_TOLD or dark < _LEAST_DARK:
        return None
    most_dark = _BELIEVED_MOST if told_share > _TOLD_WELL else _BELIEVED
    return float(across * unit), float(down * unit), soft * unit, min(dark, most_dark)


def _moved(values: Array, across: float, down: float) -> Array:
    h, w = values.shape
    return np.asarray(
        cv2.warpAffine(values, np.array([[1, 0, across], [0, 1, down]], np.float64), (w, h)),
        np.float32,
    )

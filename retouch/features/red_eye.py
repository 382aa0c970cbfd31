"""Red eye: the flash thrown back by the retina, found and brought to a dark pupil with its catchlight."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.steps import step_between

Array = NDArray[np.float32]

# How far red lies above the stronger of the two others, as a part of red: nothing in an eye but this
# glow reaches the second of these (found on photographs with and without flash).
_RED = (0.26, 0.46)
# A glow that is no brighter than this (encoded red) isn't seen as one.
_LEAST_RED = 0.16
# The pupil is as dark as this part of what is left when red is taken away, and no lighter than the next
# (encoded).
_DARK, _LIGHTEST = 0.54, 0.17
# A pupil's glow fills so much of a disc of its own size, and is so large, in radii of the iris.
_ROUND = 0.6
_SMALLEST, _LARGEST = 0.16, 0.85
# It lies so near to the middle of the iris.
_MIDDLE = 0.45
# A brush that takes in a glow reaches so far beyond it.
_REACH = 1.3


def redness(image: Working) -> Array:
    """How surely each place is the red glow of a pupil, 0..1 (h, w); catchlights aren't."""
    red = image[..., 0]
    other = np.maximum(image[..., 1], image[..., 2])
    over = np.asarray((red - other) / np.maximum(red, np.float32(0.02)), np.float32)
    return np.asarray(
        step_between(over, *_RED) * step_between(red, _LEAST_RED / 2, _LEAST_RED), np.float32
    )


def darkened(image: Working, amount: float = 1.0) -> Working:
    """The change (h, w, 3) that makes a glow a dark pupil, by so much (0..1)."""
    sure = np.float32(amount) * redness(image)
    dark = np.minimum(np.float32(_DARK) * image[..., 1:].min(-1), np.float32(_LIGHTEST))
    return np.asarray(sure[..., None] * (dark[..., None] - image), np.float32)


def find(image: Working, x: float, y: float, radius: float) -> tuple[float, float, float] | None:
    """A glowing pupil in an iris: (x, y, radius of a brush that takes it in); None: there is none.

    Parameters
    ----------
    image : ndarray (h, w, 3)
        Working values around the iris.
    x, y, radius : float
        Of the iris, in pixels of the image.
    """
    glow = (redness(image) > 0.5).astype(np.uint8)
    count, _, stats, middles = cv2.connectedComponentsWithStats(glow, connectivity=8)
    best: tuple[float, float, float] | None = None
    for n in range(1, count):
        across = float(max(stats[n, cv2.CC_STAT_WIDTH], stats[n, cv2.CC_STAT_HEIGHT]))
        filled = stats[n, cv2.CC_STAT_AREA] / (np.pi / 4 * across * across)
        mx, my = middles[n] + 0.5
        fits = (
            _SMALLEST * radius < across / 2 < _LARGEST * radius
            and filled > _ROUND
            and np.hypot(mx - x, my - y) < _MIDDLE * radius
        )
        if fits and (best is None or across / 2 > best[2]):
            best = (float(mx), float(my), across / 2)
    return None if best is None else (best[0], best[1], _REACH * best[2])

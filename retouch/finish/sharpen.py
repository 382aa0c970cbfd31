"""Sharpening of lightness, with halos held back."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import blurred, parts_of

Array = NDArray[np.float32]

# At full amount so many times the difference to what is blurred is added.
_MOST = 2.0
# An edge's own range is looked for in so many radii around a place.
_AROUND = 2.0


def reach(radius: float) -> int:
    """Pixels around a place that are looked at."""
    return int(np.ceil(4 * radius)) + int(np.ceil(_AROUND * radius)) + 2


def sharpened(
    image: Working, amount: float, radius: float, threshold: float, halo: float
) -> Working:
    """Working values (h, w, 3) whose lightness is sharper; hue and chroma stay (CIELAB).

    An unsharp mask (common practice): lightness away from its own blur. Differences below ``threshold`` (L*)
    are left alone, and what comes out goes beyond the range of its surroundings by no more than ``halo`` of
    that range, so no edge gets a rim.

    Parameters
    ----------
    amount : float
        0..1.
    radius : float
        Sigma in pixels.
    threshold : float
        L*; fades in over as much again.
    halo : float
        0..1, parts of the local range of lightness.
    """
    before = to_lab(image)
    light, a, b = parts_of(before)
    fine = light - blurred(light, radius)
    size = np.abs(fine)
    if threshold > 0:
        fine = fine * np.clip(size / np.float32(threshold) - 1, 0, 1)
    out = light + np.float32(_MOST * amount) * fine
    wide = 2 * max(1, round(_AROUND * radius)) + 1
    kernel = np.ones((wide, wide), np.uint8)
    low, high = cv2.erode(light, kernel), cv2.dilate(light, kernel)
    room = np.float32(halo) * (high - low)
    out = np.clip(out, np.maximum(low - room, 0), np.minimum(high + room, 100))
    return shifted(image, before, np.dstack([out, a, b]))

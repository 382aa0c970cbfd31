"""Sharpening of lightness, with halos held back."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.compiled import compiled
from retouch.features.toning import blurred

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
    light = np.ascontiguousarray(before[..., 0])
    wide = 2 * max(1, round(_AROUND * radius)) + 1
    kernel = np.ones((wide, wide), np.uint8)
    low, high = (np.asarray(f(light, kernel), np.float32) for f in (cv2.erode, cv2.dilate))
    after = _sharper(before, blurred(light, radius), low, high, _MOST * amount, threshold, halo)
    return shifted(image, before, after)


@compiled
def _sharper(
    lab: Lab, soft: Array, low: Array, high: Array, amount: float, threshold: float, halo: float
) -> Lab:
    """CIELAB whose lightness is further from ``soft``, within its range around and the room beyond it."""
    h, w, _ = lab.shape
    out = np.empty((h, w, 3), np.float32)
    gain, least, room = np.float32(amount), np.float32(threshold), np.float32(halo)
    zero, one, top = np.float32(0), np.float32(1), np.float32(100)
    for i in range(h):
        for j in range(w):
            light = lab[i, j, 0]
            fine = light - soft[i, j]
            if least > zero:
                fine *= min(max(abs(fine) / least - one, zero), one)
            beyond = room * (high[i, j] - low[i, j])
            made = min(
                max(light + gain * fine, max(low[i, j] - beyond, zero)),
                min(high[i, j] + beyond, top),
            )
            # What isn't sharpened stays to the bit, also where sums are regrouped.
            out[i, j, 0] = (
                light if fine == zero and low[i, j] >= zero and high[i, j] <= top else made
            )
            out[i, j, 1], out[i, j, 2] = lab[i, j, 1], lab[i, j, 2]
    return out

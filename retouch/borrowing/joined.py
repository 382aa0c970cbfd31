"""What is taken from another picture, in the light of this one, its border joined."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.fill import poisson

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Keeps ratios of the darkest values within reason (encoded).
_DARK = 0.02
# Light is matched at a size at which the place is this deep, in pixels, on a ring around it of this
# part of its depth; hairs that cross the border count softened by that (pixels there).
_DEEP, _RING, _SOFT = 20.0, 0.45, 1.6
# The light around a place may be any other; where it differs from its usual ratio by more than this,
# it is another thing there.
_MOST = 1.9


def joined(area: Array, there: Array, inside: Mask) -> Array:
    """The other picture with tone and colour as those of this one around a place.

    The ratio of the two around the place goes on inside as smoothly as can be (a membrane, so that
    gradients are those of the other picture: P. Perez, M. Gangnet, A. Blake, *Poisson Image
    Editing*, SIGGRAPH 2003). It is softened before, and so no single hair at the border pulls tone in.

    Parameters
    ----------
    area, there : ndarray (h, w, 3) float32
        This picture and the other one over it, encoded 0..1, with surroundings of the place.
    inside : ndarray (h, w) bool
        The place.

    Returns
    -------
    ndarray (h, w, 3) float32
    """
    if not inside.any() or inside.all():
        return there
    deep = float(cv2.distanceTransform(inside.astype(np.uint8), cv2.DIST_L2, 3).max())
    k = min(1.0, _DEEP / deep)
    size = (max(8, round(area.shape[1] * k)), max(8, round(area.shape[0] * k)))
    ratio = np.log((area + _DARK) / (there + _DARK))
    small = cv2.resize(ratio, size, interpolation=cv2.INTER_AREA)
    hole = cv2.resize(inside.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.02
    away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 3)
    ring = ~hole & (away <= max(2.0, _RING * min(_DEEP, deep * k)))
    if ring.any():
        # Beyond what differs wholly (another collar, a hair) the usual ratio stands.
        usual = np.median(small[ring], axis=0)
        limit = np.float32(np.log(_MOST))
        small = usual + np.clip(small - usual, -limit, limit)
        off = np.abs(small - usual).max(-1)
        weight = (~hole * np.exp(-((off / 0.25) ** 2)) + 1e-4).astype(np.float32)
        soft = cv2.GaussianBlur(small * weight[..., None], (0, 0), _SOFT)
        small = soft / cv2.GaussianBlur(weight, (0, 0), _SOFT)[..., None]
        small[hole] = usual
    even = poisson.membrane(small, hole)
    wide = cv2.resize(even, (area.shape[1], area.shape[0]), interpolation=cv2.INTER_CUBIC)
    return np.clip((there + _DARK) * np.exp(wide) - _DARK, 0, 1).astype(np.float32)

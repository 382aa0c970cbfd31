"""Reflections subtracted from what is seen through a lens, and its tint taken off."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.transfer import to_encoded, to_linear
from retouch.fill import poisson

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Nothing gets darker than this part of what it was: below, noise is all that is left.
_LEAST = 0.04


def unveiled(
    area: Array, cover: Array, veil: tuple[float, float, float], lets: tuple[float, float, float]
) -> Array:
    """What would be seen without a lens's reflection and tint.

    A reflection adds light to what comes through the glass, and the glass lets through a part of
    that: seen = lets * there + veil, in linear light and each channel by itself.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1.
    cover : ndarray (h, w) float32, 0..1
        How far each pixel is under the reflection.
    veil, lets : (red, green, blue)
        Light that is added, and the part that is let through (above 0), linear 0..1.

    Returns
    -------
    ndarray (h, w, 3) float32
        Encoded.
    """
    light = np.asarray(to_linear(np.ascontiguousarray(np.clip(area, 0, 1))), np.float32)
    k = cover[..., None]
    added = np.asarray(veil, np.float32) * k
    through = 1 - k * (1 - np.asarray(lets, np.float32))
    there = np.maximum(light - added, _LEAST * light) / through
    return np.asarray(to_encoded(np.minimum(there, 1)), np.float32)


def edge_joined(area: Array, edge: Mask) -> Array:
    """Tone made anew along the edge of a reflection, where light scatters and files are sharpened.

    What lies on both sides goes on as a membrane; the fine detail of the place stays.
    """
    if not edge.any():
        return area
    even = poisson.membrane(area, edge)
    fine = area - cv2.GaussianBlur(area, (0, 0), 1.0)
    broad = cv2.GaussianBlur(fine, (0, 0), 1.0)
    return np.asarray(np.where(edge[..., None], even + (fine - broad), area), np.float32)

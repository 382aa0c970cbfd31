"""The sRGB transfer curve (IEC 61966-2-1:1999), both ways, on float arrays."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]


def to_linear(encoded: Array) -> Array:
    """Encoded 0..1 to linear light 0..1, any shape."""
    low = encoded / 12.92
    high = ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4
    return np.asarray(np.where(encoded <= 0.04045, low, high), encoded.dtype)


def to_encoded(linear: Array) -> Array:
    """Linear light 0..1 to encoded 0..1, any shape; negative light stays negative."""
    low = linear * 12.92
    high = 1.055 * np.maximum(linear, 0) ** (1 / 2.4) - 0.055
    return np.asarray(np.where(linear <= 0.0031308, low, high), linear.dtype)

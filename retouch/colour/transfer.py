"""The sRGB transfer curve (IEC 61966-2-1:1999), both ways, on float arrays.

Below 0 it is mirrored, as for extended colours in W3C *CSS Color Module Level 4*, section 10.2.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]


def to_linear(encoded: Array) -> Array:
    """Encoded to linear light, any shape; 0..1 gives 0..1."""
    size = np.abs(encoded)
    high = np.copysign(((size + 0.055) / 1.055) ** 2.4, encoded)
    return np.asarray(np.where(size <= 0.04045, encoded / 12.92, high), encoded.dtype)


def to_encoded(linear: Array) -> Array:
    """Linear light to encoded, any shape; 0..1 gives 0..1."""
    size = np.abs(linear)
    high = np.copysign(1.055 * size ** (1 / 2.4) - 0.055, linear)
    return np.asarray(np.where(size <= 0.0031308, linear * 12.92, high), linear.dtype)

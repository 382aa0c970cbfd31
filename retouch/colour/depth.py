"""Encoded values as integers of 8 or 16 bits and as floats 0..1."""

from __future__ import annotations

from functools import lru_cache
from typing import TypeAlias

import cv2
import numpy as np
from numpy.typing import NDArray

Integers: TypeAlias = NDArray[np.uint8] | NDArray[np.uint16]


def to_float(pixels: Integers) -> NDArray[np.float32]:
    """Encoded integers to float32 0..1."""
    return np.asarray(cv2.LUT(pixels, _table(8 if pixels.dtype == np.uint8 else 16)))


@lru_cache(maxsize=2)
def _table(bits: int) -> NDArray[np.float32]:
    """Every encoded value as a float: looking it up is several times as fast as dividing."""
    top = (1 << bits) - 1
    return (np.arange(top + 1) / top).astype(np.float32)


def to_integers(values: NDArray[np.float32], bits: int) -> Integers:
    """Float 0..1 to encoded integers of ``bits`` (8 or 16), rounded; an exact inverse of to_float."""
    # One pass that scales, rounds and saturates; as rows of plain numbers, whatever the channels.
    flat = np.ascontiguousarray(values).reshape(values.shape[0], -1)
    depth = cv2.CV_8U if bits == 8 else cv2.CV_16U
    whole = cv2.addWeighted(flat, (1 << bits) - 1, flat, 0, 0, dtype=depth)
    return np.asarray(whole).reshape(values.shape)

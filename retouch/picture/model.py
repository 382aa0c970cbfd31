"""A photograph in memory: its pixels as stored, its profile and what its file said about it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect


@dataclass(frozen=True, eq=False)
class Picture:
    """An upright photograph.

    Parameters
    ----------
    pixels : ndarray (h, w, 3), uint8 or uint16
        Encoded values of the profile, already turned upright. A grey picture has three equal
        channels and ``grey`` set, so that it can be written as grey again.
    alpha : ndarray (h, w), same type, optional
        Opacity, kept aside and written back where the format allows.
    icc : bytes, optional
        The embedded ICC profile, byte for byte.
    exif : bytes, optional
        EXIF as a TIFF structure without the ``Exif\\0\\0`` mark; orientation reset to upright.
    format : str
        ``jpeg``, ``png``, ``tiff`` or ``webp``: the format it was read from.
    """

    pixels: NDArray[np.uint8] | NDArray[np.uint16]
    alpha: NDArray[np.uint8] | NDArray[np.uint16] | None = None
    icc: bytes | None = None
    exif: bytes | None = None
    format: str = "png"
    grey: bool = field(default=False)

    @property
    def width(self) -> int:
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        return int(self.pixels.shape[0])

    @property
    def bits(self) -> int:
        """Bits per channel, 8 or 16."""
        return int(self.pixels.dtype.itemsize * 8)

    @property
    def top(self) -> int:
        """The largest encoded value: 255 or 65535."""
        return (1 << self.bits) - 1

    @property
    def bounds(self) -> Rect:
        return Rect(0, 0, self.width, self.height)

    @cached_property
    def digest(self) -> str:
        """Fingerprint of the pixels, the content part of every cache key."""
        h = hashlib.blake2b(digest_size=16)
        h.update(repr((self.pixels.shape, self.pixels.dtype.str)).encode())
        h.update(np.ascontiguousarray(self.pixels).data)
        return h.hexdigest()


def to_float(pixels: NDArray[np.uint8] | NDArray[np.uint16]) -> NDArray[np.float32]:
    """Encoded integers to float32 0..1."""
    return np.asarray(cv2.LUT(pixels, _table(8 if pixels.dtype == np.uint8 else 16)))


@lru_cache(maxsize=2)
def _table(bits: int) -> NDArray[np.float32]:
    """Every encoded value as a float: looking it up is several times as fast as dividing."""
    top = (1 << bits) - 1
    return (np.arange(top + 1) / top).astype(np.float32)


def to_integers(values: NDArray[np.float32], bits: int) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Float 0..1 to encoded integers of ``bits`` (8 or 16), rounded; an exact inverse of to_float."""
    # One pass that scales, rounds and saturates; as rows of plain numbers, whatever the channels.
    flat = np.ascontiguousarray(values).reshape(values.shape[0], -1)
    depth = cv2.CV_8U if bits == 8 else cv2.CV_16U
    whole = cv2.addWeighted(flat, (1 << bits) - 1, flat, 0, 0, dtype=depth)
    return np.asarray(whole).reshape(values.shape)

"""A photograph in memory: its pixels as stored, its profile and what its file said about it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from retouch.colour.space import LinearData, Space, space_of
from retouch.colour.white import Light
from retouch.geometry import Rect
from retouch.picture import profile
from retouch.picture.described import Description


@dataclass(frozen=True)
class Taken:
    """How a raw file was taken: the light it was balanced for, and from XYZ to its camera's values."""

    light: Light
    cones: tuple[tuple[float, float, float], ...]


@dataclass(frozen=True)
class Developed:
    """Codes are linear light: ``matrix`` (3, 3), by rows, takes them, as 0..1, to linear sRGB."""

    matrix: tuple[tuple[float, float, float], ...]


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
        ``jpeg``, ``png``, ``tiff``, ``webp``, ``heic``, ``avif``, ``jxl``, ``ora`` or ``raw``: the format it was read from.
    profile_dropped : bool
        The file's own profile was damaged or for other channels: values are taken as sRGB's.
    taken : Taken, optional
        The light a raw file was taken in; None: the picture is balanced for its profile's white.
    developed : Developed, optional
        Of a raw file: what its codes mean. The profile is then only that of what is delivered.
    said : Description, optional
        What the file says of the picture in words (XMP, IPTC).
    """

    pixels: NDArray[np.uint8] | NDArray[np.uint16]
    alpha: NDArray[np.uint8] | NDArray[np.uint16] | None = None
    icc: bytes | None = None
    exif: bytes | None = None
    format: str = "png"
    grey: bool = field(default=False)
    profile_dropped: bool = field(default=False, kw_only=True)
    taken: Taken | None = None
    developed: Developed | None = None
    said: Description | None = None

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
        """Fingerprint of the pixels and of what they mean, the content part of every cache key."""
        h = hashlib.blake2b(self.icc or b"", digest_size=16)
        h.update(repr((self.pixels.shape, self.pixels.dtype.str)).encode())
        if self.developed is not None:
            h.update(repr(self.developed).encode())
        h.update(np.ascontiguousarray(self.pixels).data)
        return h.hexdigest()

    @cached_property
    def space(self) -> Space:
        """What the encoded values mean; `PictureError` where the profile can't be used."""
        own = space_of(self.icc, profile.is_grey(self.icc))
        return own if self.developed is None else LinearData(self.developed.matrix, own)

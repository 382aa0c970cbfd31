"""Working profiles that a raw file's colours can be delivered in, made from published primaries."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, TypeAlias

import imagecodecs
import numpy as np

from retouch.colour.transfer import to_linear

Working: TypeAlias = Literal["srgb", "adobe", "display_p3", "prophoto"]


@dataclass(frozen=True)
class Primaries:
    """White and primaries as x, y, and the curve: an exponent, or that of sRGB (None)."""

    title: str
    white: tuple[float, float]
    red: tuple[float, float]
    green: tuple[float, float]
    blue: tuple[float, float]
    gamma: float | None


_D65, _D50 = (0.3127, 0.3290), (0.3457, 0.3585)
# sRGB: IEC 61966-2-1:1999. Compatible with Adobe RGB (1998): its encoding specification, version
# 2005-05, section 4.3 (gamma 563/256). Display P3: SMPTE EG 432-1, with D65 and sRGB's curve.
# ProPhoto-compatible: ROMM RGB, ISO 22028-2:2013 (gamma 1.8 without its short linear part). From memory.
WORKING: dict[str, Primaries] = {
    "srgb": Primaries("sRGB", _D65, (0.64, 0.33), (0.30, 0.60), (0.15, 0.06), None),
    "adobe": Primaries(
        "Compatible with Adobe RGB (1998)",
        _D65,
        (0.64, 0.33),
        (0.21, 0.71),
        (0.15, 0.06),
        563 / 256,
    ),
    "display_p3": Primaries("Display P3", _D65, (0.68, 0.32), (0.265, 0.69), (0.15, 0.06), None),
    "prophoto": Primaries(
        "ProPhoto-compatible", _D50, (0.7347, 0.2653), (0.1596, 0.8404), (0.0366, 0.0001), 1.8
    ),
}


@lru_cache(maxsize=8)
def profile_of(name: str) -> bytes:
    """The ICC profile of a working profile, made by LittleCMS; the same bytes in all processes."""
    one = WORKING[name]
    primaries = [v for x, y in (one.red, one.green, one.blue) for v in (x, y, 1.0)]
    curve = (
        {"gamma": one.gamma}
        if one.gamma is not None
        else {"transferfunction": to_linear(np.linspace(0, 1, 4096, dtype=np.float32))}
    )
    white = [*one.white, 1.0]
    return undated(imagecodecs.cms_profile("rgb", whitepoint=white, primaries=primaries, **curve))


def undated(icc: bytes) -> bytes:
    """A profile without the time at which it was made, so that all processes write the same one.

    Its date (ICC.1:2022, 7.2.8) becomes the first of 2020, its checksum (7.2.18) none.
    """
    date = struct.pack(">6H", 2020, 1, 1, 0, 0, 0)
    return bytes(icc[:24] + date + icc[36:84] + bytes(16) + icc[100:])


def title_of(icc: bytes | None) -> str | None:
    """What a working profile is called, by its bytes; None: it is none of them."""
    return next((p.title for n, p in WORKING.items() if profile_of(n) == icc), None)

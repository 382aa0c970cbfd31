"""Colours in another profile: converted for good, or shown as a printer would make them.

Conversions go through LittleCMS with a rendering intent and black-point compensation (ISO 18619:2015).
"""

from __future__ import annotations

import io
import struct
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal, cast

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import ImageCms

from retouch.colour.difference import ciede2000
from retouch.colour.lab import lab_of_pixels
from retouch.colour.space import EXACT
from retouch.colour.transfer import to_linear
from retouch.errors import PictureError
from retouch.picture import profile as profiles
from retouch.picture.working import profile_of, undated

Intent = Literal["perceptual", "relative", "saturation", "absolute"]
# Numbers of the intents in profiles (ICC.1:2022, 7.2.15).
_INTENTS: dict[Intent, int] = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}
# cmsFLAGS_BLACKPOINTCOMPENSATION.
_BLACK_POINT = 0x2000
_SPACES = {"RGB": "rgb", "CMYK": "cmyk", "GRAY": "gray"}
MOST_BYTES = 8_000_000
# Paper (XYZ), white (D65) and primaries (x, y, Y) of a made-up press on uncoated paper, which stands in for a
# printer's profile; its curve is that of sRGB.
_PAPER = (0.835, 0.862, 0.640)
_WHITE = [0.3127, 0.3290, 1.0]
_PRESS = [0.545, 0.340, 1.0, 0.300, 0.500, 1.0, 0.190, 0.150, 1.0]


@dataclass(frozen=True)
class Conversion:
    """Into a profile, by an intent, with black mapped to black or not."""

    icc: bytes
    intent: Intent = "relative"
    black_point: bool = True

    @property
    def _flags(self) -> int:
        return EXACT | (_BLACK_POINT if self.black_point else 0)


@dataclass(frozen=True)
class About:
    """What a profile is: its own name, and the colours its values are of."""

    title: str
    space: Literal["RGB", "CMYK", "GRAY"]


def about(icc: bytes) -> About:
    """What a profile is.

    Raises
    ------
    PictureError
        In plain words, where it is none or can't be converted to.
    """
    if len(icc) > MOST_BYTES:
        raise PictureError(f"A colour profile has {MOST_BYTES // 1_000_000} MB at most.")
    # A profile says its own length and bears a mark (ICC.1:2022, 7.2.2 and 7.2.9).
    if len(icc) < 132 or icc[36:40] != b"acsp" or struct.unpack(">I", icc[:4])[0] != len(icc):
        raise PictureError("This isn't a whole ICC profile.")
    try:
        found = ImageCms.ImageCmsProfile(io.BytesIO(icc))
        title = (ImageCms.getProfileDescription(found) or "").strip()[:120]
        space = found.profile.xcolor_space.strip()
        kind = found.profile.device_class.strip()
    except Exception as error:
        raise PictureError(f"This colour profile can't be read: {error}.") from None
    if space not in _SPACES:
        raise PictureError(
            f"Profiles of {space or 'unknown'} colours can't be used; RGB, CMYK and grey can."
        )
    if kind in ("link", "abst", "nmcl"):
        raise PictureError("This profile links or names colours; it stands for no device.")
    made = About(title or "unnamed profile", cast(Literal["RGB", "CMYK", "GRAY"], space))
    try:
        _through(
            np.full((1, 1, 3), 128, np.uint8),
            profiles.srgb(),
            "rgb",
            Conversion(icc),
            _SPACES[space],
        )
    except Exception:
        raise PictureError(
            "Nothing can be converted to this profile; it goes one way only."
        ) from None
    return made


@lru_cache(maxsize=8)
def built_in(name: str) -> bytes | None:
    """A profile that ships: ``srgb``, ``display-p3``, ``press`` (a simulated one); None: there is no such."""
    if name == "srgb":
        return profiles.srgb()
    if name == "display-p3":
        return profile_of("display_p3")
    return _press() if name == "press" else None


def _press() -> bytes:
    """The profile of a printer whose paper isn't white (ICC.1:2022, 7.2.5 and 9.2.36)."""
    curve = to_linear(np.linspace(0, 1, 4096, dtype=np.float32))
    icc = undated(
        imagecodecs.cms_profile("rgb", whitepoint=_WHITE, primaries=_PRESS, transferfunction=curve)
    )
    made = bytearray(icc)
    made[12:16] = b"prtr"
    for n in range(struct.unpack(">I", icc[128:132])[0]):
        name, at, _ = struct.unpack(">4sII", icc[132 + 12 * n : 144 + 12 * n])
        if name == b"wtpt":
            made[at + 8 : at + 20] = struct.pack(">3i", *(round(65536 * v) for v in _PAPER))
    return bytes(made)


BUILT_IN = {"srgb": "sRGB", "display-p3": "Display P3", "press": "Uncoated paper (simulated)"}


def _through(
    pixels: NDArray[Any], icc: bytes, space: str, to: Conversion, into: str, paper: bool = False
) -> NDArray[Any]:
    return np.asarray(
        imagecodecs.cms_transform(
            np.ascontiguousarray(pixels), icc, to.icc, colorspace=space, outcolorspace=into,
            intent=_INTENTS["absolute" if paper else to.intent], flags=to._flags,
        )
    )  # fmt: skip


def converted(pixels: NDArray[Any], icc: bytes | None, to: Conversion) -> NDArray[Any]:
    """Encoded integers (h, w, 3) of an RGB profile (None: sRGB) in another RGB profile, same depth.

    Raises
    ------
    PictureError
        If the profile isn't of RGB, or LittleCMS can't use one of them.
    """
    if about(to.icc).space != "RGB":
        raise PictureError(
            "Pictures are delivered in RGB profiles; CMYK and grey ones are for looking at."
        )
    try:
        return _through(pixels, icc or profiles.srgb(), "rgb", to, "rgb")
    except Exception as error:
        raise PictureError(f"The colour profile can't be used: {error}.") from None


def _printed(pixels: NDArray[np.uint8], to: Conversion, paper: bool) -> NDArray[np.uint8]:
    into = _SPACES[about(to.icc).space]
    # 16 bits between, so that the way there and back adds no steps.
    fine = pixels.astype(np.uint16) * np.uint16(257)
    there = _through(fine, profiles.srgb(), "rgb", to, into)
    back = Conversion(profiles.srgb(), "relative", to.black_point and not paper)
    seen = _through(there, to.icc, into, back, "rgb", paper)
    return np.asarray((seen.astype(np.uint32) * 255 + 32767) // 65535, np.uint8)


def as_printed(pixels: NDArray[np.uint8], to: Conversion, paper: bool = False) -> NDArray[np.uint8]:
    """What is shown (h, w, 3), sRGB, as it would look in a profile; ``paper``: with its white and its black."""
    return _printed(pixels, to, paper)


def beyond(pixels: NDArray[np.uint8], to: Conversion) -> NDArray[np.float32]:
    """How far each colour (h, w, 3), sRGB, lies from what a profile can hold: CIEDE2000 (h, w)."""
    nearest = _printed(pixels, Conversion(to.icc, "relative", False), False)
    return np.asarray(ciede2000(lab_of_pixels(pixels), lab_of_pixels(nearest)), np.float32)

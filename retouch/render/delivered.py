"""From the rendered picture to the one that is written: profile, size, sharpening for the medium, and files
that have to stay below a size.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from retouch.colour.depth import to_integers
from retouch.colour.lab import from_lab
from retouch.errors import PictureError
from retouch.finish.sharpen import sharpened
from retouch.picture import Output, Picture
from retouch.picture import profile as profiles
from retouch.picture.proof import Conversion, converted
from retouch.picture.write import NAMES, encode
from retouch.processors import PARTS, at_once, edges
from retouch.render.export import in_srgb, resized

Medium = Literal["none", "screen", "print"]
# For each medium: amount 0..1, radius in pixels of what is delivered, threshold (L*), halo. A screen shows pixels
# one by one, a print spreads them (common practice).
_MEDIA: dict[Medium, tuple[float, float, float, float]] = {
    "screen": (0.35, 0.6, 0.6, 0.06),
    "print": (0.55, 1.1, 0.8, 0.1),
}
# Formats whose files get smaller by quality, and how low that goes before the limit is refused.
_BY_QUALITY = ("jpeg", "webp", "avif", "jxl")
_LEAST_QUALITY = 30
# Nothing smaller is delivered, pixels of the longer side.
LEAST_SIDE = 16


def printed_side(cm: float, per_inch: float) -> int:
    """Pixels of a side that is printed so many centimetres long (an inch is 2.54 cm)."""
    return max(LEAST_SIDE, round(cm / 2.54 * per_inch))


@dataclass(frozen=True)
class Border:
    """A border around a picture: ``width`` in per cent of its longer side, of a colour in CIELAB."""

    width: float
    lab: tuple[float, float, float] = (100.0, 0.0, 0.0)


@dataclass(frozen=True)
class Outcome:
    """What is made of the rendered picture: its profile, its size, what it is for, a border around it.

    The size is that of its longer side in pixels, or its ``megapixels``; both together: whichever is less.
    Pictures are never enlarged.
    """

    srgb: bool = False
    long_side: int | None = None
    sharpen: Medium = "none"
    convert: Conversion | None = None
    megapixels: float | None = None
    border: Border | None = None

    def of(self, picture: Picture) -> Picture:
        """The picture as it is delivered.

        One that came without a profile is sRGB, and says so then: not every program takes it for that.
        """
        if self.srgb or (self.convert is not None and picture.grey):
            picture = in_srgb(picture)
        elif self.convert is not None:
            pixels = converted(picture.pixels, picture.icc, self.convert)
            picture = replace(picture, pixels=pixels, icc=self.convert.icc)
        long_side = self._long_side(picture)
        if long_side is not None:
            picture = resized(picture, long_side)
        if self.sharpen != "none":
            picture = _sharpened(picture, self.sharpen)
        if self.border is not None:
            picture = _bordered(picture, self.border)
        untold = picture.icc is None and not picture.grey
        return replace(picture, icc=profiles.srgb()) if untold else picture

    def _long_side(self, picture: Picture) -> int | None:
        """What the longer side of the picture, without its border, becomes."""
        longer = max(picture.width, picture.height)
        # The border lies within what was asked for.
        part = 1.0 if self.border is None else 1 / (1 + 2 * self.border.width / 100)
        wanted = [longer / part]
        if self.long_side is not None:
            wanted.append(float(self.long_side))
        if self.megapixels is not None:
            wanted.append(
                longer * (1e6 * self.megapixels / (picture.width * picture.height)) ** 0.5
            )
        return None if len(wanted) == 1 else max(1, round(min(wanted) * part))


def _bordered(picture: Picture, border: Border) -> Picture:
    around = max(1, round(max(picture.width, picture.height) * border.width / 100))
    working = from_lab(np.array([[border.lab]], np.float32))
    code = to_integers(picture.space.to_encoded(working), picture.bits)[0, 0]
    if picture.grey:
        code = np.repeat(code[:1], 3)
    shape = (picture.height + 2 * around, picture.width + 2 * around)
    pixels = np.empty((*shape, 3), picture.pixels.dtype)
    pixels[...] = code
    inner = np.s_[around : around + picture.height, around : around + picture.width]
    pixels[inner] = picture.pixels
    if picture.alpha is None:
        return replace(picture, pixels=pixels)
    alpha = np.full(shape, picture.top, picture.pixels.dtype)
    alpha[inner] = picture.alpha
    return replace(picture, pixels=pixels, alpha=alpha)


def _sharpened(picture: Picture, medium: Medium) -> Picture:
    amount, radius, threshold, halo = _MEDIA[medium]
    margin = 12
    out = np.empty_like(picture.pixels)
    height = picture.height

    def strip(rows: tuple[int, int]) -> None:
        low, high = max(0, rows[0] - margin), min(height, rows[1] + margin)
        before = picture.space.to_working(picture.pixels[low:high])
        after = sharpened(np.asarray(before, np.float32), amount, radius, threshold, halo)
        own = np.s_[rows[0] - low : rows[1] - low]
        made = to_integers(picture.space.to_encoded(after[own]), picture.bits)
        # What isn't sharpened keeps its codes.
        still = (after[own] == before[own]).all(-1, keepdims=True)
        out[rows[0] : rows[1]] = np.where(still, picture.pixels[rows[0] : rows[1]], made)

    at_once(strip, edges(0, height, 2 * PARTS))
    if picture.grey:
        out[...] = out[..., :1]
    return replace(picture, pixels=out)


def below(picture: Picture, output: Output, most_bytes: int | None) -> bytes:
    """The file, at the highest quality, up to the one asked for, with which it isn't larger than a limit.

    Raises
    ------
    PictureError
        Where the limit can't be kept; it says how small the file gets.
    """
    data = encode(picture, output)
    if most_bytes is None or len(data) <= most_bytes:
        return data
    name, limit = NAMES[output.format], f"{most_bytes / 1000:.0f} kB"
    if output.format not in _BY_QUALITY:
        raise PictureError(
            f"As {name} it has {len(data) / 1000:.0f} kB, more than {limit}. Choose JPEG, or a smaller size."
        )
    low, high = _LEAST_QUALITY - 1, output.quality
    best, least = b"", len(data)
    while high - low > 1:
        middle = (low + high) // 2
        tried = encode(picture, replace(output, quality=middle))
        least = min(least, len(tried))
        if len(tried) <= most_bytes:
            low, best = middle, tried
        else:
            high = middle
    if not best:
        raise PictureError(
            f"Even at quality {_LEAST_QUALITY} it has about {least / 1000:.0f} kB, more than {limit}. "
            "Choose a smaller size."
        )
    return best

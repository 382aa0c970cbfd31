"""From the rendered picture to the one that is written: profile, size, sharpening for the medium, and files
that have to stay below a size.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from retouch.colour.depth import to_integers
from retouch.errors import PictureError
from retouch.finish.sharpen import sharpened
from retouch.picture import Output, Picture
from retouch.picture.write import NAMES, encode
from retouch.processors import CORES, at_once, edges
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


@dataclass(frozen=True)
class Outcome:
    """What is made of the rendered picture: its profile, the longer side in pixels, what it is for."""

    srgb: bool = False
    long_side: int | None = None
    sharpen: Medium = "none"

    def of(self, picture: Picture) -> Picture:
        """The picture as it is delivered."""
        if self.srgb:
            picture = in_srgb(picture)
        if self.long_side is not None:
            picture = resized(picture, self.long_side)
        return _sharpened(picture, self.sharpen) if self.sharpen != "none" else picture


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

    at_once(strip, edges(0, height, 2 * CORES))
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
    low, high, best = (
        _LEAST_QUALITY - 1,
        min(output.quality, 99 if output.quality == 100 else 100),
        b"",
    )
    least = len(data)
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

"""Sizes that files tell of themselves, read before a decoder reserves memory for them."""

from __future__ import annotations

import math
from typing import Any

import tifffile

from retouch.errors import PictureError
from retouch.picture.boxes import STREAM, boxes

# A picture has grey or red, green, blue, and opacity.
MOST_SAMPLES = 4
_CUT = "This file is cut off or damaged and can't be read to its end."
# Ratios of width to height that JPEG XL names by number (ISO/IEC 18181-1, SizeHeader).
_RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
_FIELDS = (9, 13, 18, 30)


def check_tiff(page: Any, size: int) -> None:
    """Refuse a page of a TIFF whose pixels can't be used, or aren't all there.

    Parameters
    ----------
    page : tifffile.TiffPage
    size : int
        Bytes of the file.

    Raises
    ------
    PictureError
        With a plain sentence, before anything is decoded.
    """
    samples, bits = int(page.samplesperpixel), page.bitspersample
    most = max(bits) if isinstance(bits, tuple) else int(bits)
    if samples > MOST_SAMPLES:
        raise PictureError(
            f"This picture has {samples} channels; grey or RGB with opacity can be opened."
        )
    if most > 32 or page.dtype is None or int(page.imagedepth) != 1:
        raise PictureError("This picture's values are of a kind that can't be opened here.")
    expected = math.prod(page.chunked)
    offsets, counts = page.dataoffsets, page.databytecounts
    if len(offsets) < expected or len(counts) < expected:
        raise PictureError("Parts of this picture are missing from its file.")
    for offset, count in zip(offsets[:expected], counts[:expected], strict=True):
        if count <= 0:
            raise PictureError("Parts of this picture are missing from its file.")
        if offset + count > size:
            raise PictureError(_CUT)
    if page.compression == tifffile.COMPRESSION.NONE:
        needed = page.imagewidth * page.imagelength * samples * most // 8
        if sum(counts[:expected]) < needed:
            raise PictureError("Parts of this picture are missing from its file.")


def jpegxl_size(data: bytes) -> tuple[int, int] | None:
    """Width and height that a JPEG XL tells (ISO/IEC 18181-1 and -2); None where they aren't found."""
    stream = _codestream(data)
    if stream is None or stream[:2] != b"\xff\x0a":
        return None
    bits = int.from_bytes(stream[2:16], "little")

    def take(count: int) -> int:
        nonlocal bits
        value = bits & ((1 << count) - 1)
        bits >>= count
        return value

    def length() -> int:
        return take(_FIELDS[take(2)]) + 1

    small = take(1)
    height = 8 * (take(5) + 1) if small else length()
    ratio = take(3)
    if ratio:
        across, down = _RATIOS[ratio - 1]
        return height * across // down, height
    return (8 * (take(5) + 1) if small else length()), height


def _codestream(data: bytes) -> bytes | None:
    """Where a bare stream begins: at once, or in a box of a container."""
    if data[:2] == b"\xff\x0a":
        return data[:64]
    for kind, _, start, _ in boxes(data):
        if kind in STREAM:
            # A part of a stream is told with its number.
            start += 4 if kind == b"jxlp" else 0
            return data[start : start + 64]
    return None

"""PNG files of 8 and 16 bits, with what goes beside the pixels."""

from __future__ import annotations

import struct
import zlib
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

# Photographs hardly get smaller above this level of deflate, only slower.
_PNG_LEVEL = 2


def png(
    channels: NDArray[Any],
    icc: bytes | None,
    exif: bytes | None,
    xmp: str = "",
    per_inch: float | None = None,
) -> bytes:
    """PNG of any depth; profile (iCCP), density (pHYs), EXIF (eXIf), XMP (iTXt) as chunks after the header.

    Chunk layout: W3C Portable Network Graphics (PNG) Specification, Third Edition, 5.3.
    """
    data = bytes(imagecodecs.png_encode(np.ascontiguousarray(channels), level=_PNG_LEVEL))
    head_end = 8 + 12 + 13
    chunks = b""
    if icc:
        chunks += _chunk(b"iCCP", b"ICC profile\x00\x00" + zlib.compress(icc, 9))
    if per_inch:
        per_metre = round(per_inch / 0.0254)
        chunks += _chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    if exif:
        chunks += _chunk(b"eXIf", exif)
    if xmp:
        chunks += _chunk(b"iTXt", b"XML:com.adobe.xmp\x00\x00\x00\x00\x00" + xmp.encode())
    return data[:head_end] + chunks + data[head_end:]


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

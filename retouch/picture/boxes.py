"""The boxes of a JPEG XL container, and what it says in them beside its picture: EXIF and XMP (ISO/IEC 18181-2)."""

from __future__ import annotations

import struct
from collections.abc import Iterator

import imagecodecs

# How a container begins: its signature, and its kind.
_BEGIN = b"\0\0\0\x0cJXL \r\n\x87\n" + b"\0\0\0\x14ftypjxl \0\0\0\0jxl "
# The picture itself, whole or in parts.
STREAM = (b"jxlc", b"jxlp")
_EXIF, _XMP, _PACKED = b"Exif", b"xml ", b"brob"
# No more is unpacked of a box.
_MOST = 4_000_000


def with_words(data: bytes, exif: bytes | None, xmp: str) -> bytes:
    """A JPEG XL file that also says these: a bare stream becomes a container.

    ``exif`` is a bare TIFF structure, ``xmp`` a packet as text; without both the file stays as it is.
    """
    told = b""
    if exif:
        # Four bytes tell where in the box the structure begins.
        told += _box(_EXIF, b"\0\0\0\0" + exif)
    if xmp:
        told += _box(_XMP, xmp.encode())
    if not told:
        return data
    if data[:2] == b"\xff\x0a":
        return _BEGIN + told + _box(b"jxlc", data)
    at = next((start for kind, start, _, _ in boxes(data) if kind in STREAM), len(data))
    return data[:at] + told + data[at:]


def words_of(data: bytes) -> tuple[bytes | None, bytes | None]:
    """EXIF, as a bare TIFF structure, and XMP of a file; None where it says none, or what can't be read."""
    found: dict[bytes, bytes] = {}
    if data[:2] == b"\xff\x0a":
        return None, None
    for kind, _, start, end in boxes(data):
        payload = data[start:end]
        if kind == _PACKED and payload[:4] in (_EXIF, _XMP):
            kind, payload = payload[:4], _unpacked(payload[4:])
        if kind in (_EXIF, _XMP):
            found.setdefault(kind, payload)
    return _tiff(found.get(_EXIF, b"")), found.get(_XMP) or None


def _tiff(payload: bytes) -> bytes | None:
    if len(payload) < 12:
        return None
    (skipped,) = struct.unpack_from(">I", payload)
    inner = payload[4 + skipped :]
    return inner if inner[:4] in (b"II*\0", b"MM\0*") else None


def _unpacked(payload: bytes) -> bytes:
    try:
        return bytes(imagecodecs.brotli_decode(payload, out=_MOST))
    except Exception:  # Damaged, or larger than anything that is said of a picture.
        return b""


def _box(kind: bytes, payload: bytes) -> bytes:
    return struct.pack(">I4s", len(payload) + 8, kind) + payload


def boxes(data: bytes) -> Iterator[tuple[bytes, int, int, int]]:
    """Kind of each box, where it begins, and where its payload begins and ends, in bytes; up to the first that is cut off."""
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        head = 8
        if size == 1 and at + 16 <= len(data):
            (size,) = struct.unpack_from(">Q", data, at + 8)
            head = 16
        end = len(data) if size == 0 else at + size
        if end < at + head or end > len(data):
            return
        yield kind, at, at + head, end
        at = end

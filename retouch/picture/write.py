"""Writing photographs: JPEG, PNG and TIFF, with profile and EXIF."""

from __future__ import annotations

import io
import os
import struct
import tempfile
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image, TiffImagePlugin

from retouch.errors import PictureError
from retouch.picture import metadata
from retouch.picture.model import Picture

Format = Literal["jpeg", "png", "tiff"]
EXTENSIONS: dict[str, Format] = {
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".png": "png",
    ".tif": "tiff",
    ".tiff": "tiff",
}
# Photographs hardly get smaller above this level of deflate, only slower.
_PNG_LEVEL = 2
# Up to so many pixels a JPEG's codes are fitted to it: a file 2 to 3 % smaller for 2.7 times the time.
_MOST_OPTIMISED = 8_000_000
# tifffile refuses to write the EXIF pointer (34665) itself: this unused tag, its neighbour in
# the sorted directory, holds the place and is renamed afterwards.
_EXIF_PLACE = 34664
SUFFIX: dict[Format, str] = {"jpeg": ".jpg", "png": ".png", "tiff": ".tif"}


@dataclass(frozen=True)
class Output:
    """How to write: ``quality`` 1..100 and ``subsampling`` for JPEG, ``bits`` for PNG and TIFF.

    ``bits`` None keeps the picture's depth (JPEG is always 8).
    """

    format: Format
    quality: int = 95
    subsampling: Literal["4:4:4", "4:2:2", "4:2:0"] = "4:4:4"
    bits: Literal[8, 16] | None = None
    keep_metadata: bool = True

    def __post_init__(self) -> None:
        if not 1 <= self.quality <= 100:
            raise PictureError(f"JPEG quality goes from 1 to 100, not {self.quality}.")


def format_of(path: str | os.PathLike[str]) -> Format:
    """The format that a file name's ending asks for."""
    ending = Path(path).suffix.lower()
    if ending not in EXTENSIONS:
        raise PictureError(f"The result's name ends in {ending!r}; use .jpg, .png or .tif.")
    return EXTENSIONS[ending]


def encode(picture: Picture, output: Output) -> bytes:
    """The picture as a file's bytes."""
    bits = 8 if output.format == "jpeg" else (output.bits or picture.bits)
    colour = _depth(picture.pixels, bits)
    alpha = _depth(picture.alpha, bits) if picture.alpha is not None else None
    exif = picture.exif if output.keep_metadata else None
    if output.format == "jpeg":
        if alpha is not None:
            a = alpha[..., None].astype(np.float32) / 255
            colour = (colour * a + 255 * (1 - a) + 0.5).astype(np.uint8)
        return _jpeg(colour, picture, output, exif)
    channels = colour[..., :1] if picture.grey else colour
    if alpha is not None:
        channels = np.concatenate([channels, alpha[..., None]], 2)
    if output.format == "png":
        return _png(channels, picture.icc, exif)
    return _tiff(channels, picture.icc, exif, alpha is not None)


def write(picture: Picture, path: str | os.PathLike[str], output: Output) -> None:
    """Write to a file, all or nothing: a failure leaves what was there before."""
    data = encode(picture, output)
    folder = os.path.dirname(os.path.abspath(path))
    try:
        handle, temporary = tempfile.mkstemp(dir=folder, suffix=".part")
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            mask = os.umask(0)
            os.umask(mask)
            os.chmod(temporary, 0o666 & ~mask)
            os.replace(temporary, path)
        except BaseException:
            os.unlink(temporary)
            raise
    except OSError as error:
        raise PictureError(
            f"The result can't be written to {os.fspath(path)!r}: {error.strerror}."
        ) from None


def _depth(a: NDArray[Any], bits: int) -> NDArray[Any]:
    have = a.dtype.itemsize * 8
    if have == bits:
        return a
    if bits == 8:
        return ((a.astype(np.uint32) * 255 + 32767) // 65535).astype(np.uint8)
    return a.astype(np.uint16) * np.uint16(257)


def _jpeg(colour: NDArray[Any], picture: Picture, output: Output, exif: bytes | None) -> bytes:
    image = Image.fromarray(np.ascontiguousarray(colour[..., 0] if picture.grey else colour))
    out = io.BytesIO()
    extra: dict[str, Any] = {}
    if picture.icc:
        extra["icc_profile"] = picture.icc
    if exif and len(exif) < 65000:
        extra["exif"] = b"Exif\x00\x00" + exif
    if not picture.grey:
        extra["subsampling"] = output.subsampling
    small = image.width * image.height <= _MOST_OPTIMISED
    image.save(out, "JPEG", quality=output.quality, optimize=small, **extra)
    return out.getvalue()


def _png(channels: NDArray[Any], icc: bytes | None, exif: bytes | None) -> bytes:
    """PNG of any depth; profile (iCCP) and EXIF (eXIf) as chunks after the header.

    Chunk layout: W3C Portable Network Graphics (PNG) Specification, Third Edition, 5.3.
    """
    data = bytes(imagecodecs.png_encode(np.ascontiguousarray(channels), level=_PNG_LEVEL))
    head_end = 8 + 12 + 13
    chunks = b""
    if icc:
        chunks += _chunk(b"iCCP", b"ICC profile\x00\x00" + zlib.compress(icc, 9))
    if exif:
        chunks += _chunk(b"eXIf", exif)
    return data[:head_end] + chunks + data[head_end:]


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def _tiff(channels: NDArray[Any], icc: bytes | None, exif: bytes | None, has_alpha: bool) -> bytes:
    """Deflate TIFF; EXIF goes into the first directory and a directory of its own at the end."""
    out = io.BytesIO()
    block = metadata.to_pillow(exif) if exif else None
    extra: list[tuple[int, Any, int, Any, bool]] = []
    inner = dict(block.get_ifd(ExifTags.IFD.Exif)) if block else {}
    if block:
        for tag, value in block.items():
            if tag in (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo, ExifTags.Base.Orientation):
                continue
            if isinstance(value, str) and value.isascii():
                extra.append((int(tag), "s", 0, value, True))
    extra.append((int(ExifTags.Base.Orientation), "H", 1, 1, True))
    if inner:
        extra.append((_EXIF_PLACE, "I", 1, 0, True))
    grey = channels.shape[2] < 3
    tifffile.imwrite(
        out,
        channels[..., 0] if channels.shape[2] == 1 else channels,
        photometric="minisblack" if grey else "rgb",
        compression="zlib",
        predictor=True,
        iccprofile=icc,
        extrasamples=["unassalpha"] if has_alpha else None,
        planarconfig="contig" if channels.shape[2] > 1 else None,
        metadata=None,
        software=False,
        extratags=extra,
    )
    if inner:
        _append_exif(out, inner)
    return out.getvalue()


def _append_exif(file: io.BytesIO, inner: dict[int, Any]) -> None:
    """Put an EXIF directory at the end of a written TIFF and point its tag there."""
    file.seek(0)
    with tifffile.TiffFile(file) as tiff:
        tag = tiff.pages.first.tags[_EXIF_PLACE]
        start, where, order = tag.offset, tag.valueoffset, tiff.byteorder
    end = file.seek(0, io.SEEK_END)
    if end % 2:
        file.write(b"\x00")
        end += 1
    directory = TiffImagePlugin.ImageFileDirectory_v2(
        b"II*\x00\x00\x00\x00\x00" if order == "<" else b"MM\x00*\x00\x00\x00\x00"
    )
    for tag_id, value in inner.items():
        directory[tag_id] = value
    file.write(directory.tobytes(end))
    file.seek(start)
    file.write(struct.pack(order + "H", int(ExifTags.IFD.Exif)))
    file.seek(where)
    file.write(struct.pack(order + "I", end))

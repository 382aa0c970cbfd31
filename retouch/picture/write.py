"""Writing photographs: JPEG, PNG, TIFF, WebP, AVIF and JPEG XL, with profile, EXIF and XMP."""

from __future__ import annotations

import io
import os
import struct
import tempfile
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image, TiffImagePlugin

from retouch.errors import PictureError
from retouch.picture import metadata, openraster, xmp
from retouch.picture import profile as profiles
from retouch.picture.boxes import with_words
from retouch.picture.model import Picture
from retouch.picture.png import png

Format = Literal["jpeg", "png", "tiff", "webp", "avif", "jxl", "ora"]
EXTENSIONS: dict[str, Format] = {
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".png": "png",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".webp": "webp",
    ".avif": "avif",
    ".jxl": "jxl",
    ".ora": "ora",
}
# What holds 16 bits a channel.
DEEP: frozenset[Format] = frozenset({"png", "tiff", "jxl", "ora"})
# The largest side that a format can hold (WebP: RFC 9649, 2.6; AVIF as libavif has it by default).
MOST_SIDE: dict[Format, int] = {"jpeg": 65_500, "webp": 16_383, "avif": 32_768}
# Up to so many pixels a JPEG's codes are fitted to it: a file 2 to 3 % smaller for 2.7 times the time.
_MOST_OPTIMISED = 8_000_000
# tifffile refuses to write the EXIF pointer (34665) itself: this unused tag, its neighbour in
# the sorted directory, holds the place and is renamed afterwards.
_EXIF_PLACE = 34664
SUFFIX: dict[Format, str] = {
    "jpeg": ".jpg", "png": ".png", "tiff": ".tif", "webp": ".webp", "avif": ".avif", "jxl": ".jxl",
    "ora": ".ora",
}  # fmt: skip
NAMES: dict[Format, str] = {
    "jpeg": "JPEG", "png": "PNG", "tiff": "TIFF", "webp": "WebP", "avif": "AVIF", "jxl": "JPEG XL",
    "ora": "OpenRaster",
}  # fmt: skip
Packing = Literal["deflate", "lzw", "zstd"]
_PACKING: dict[Packing, str] = {"deflate": "zlib", "lzw": "lzw", "zstd": "zstd"}


@dataclass(frozen=True)
class Output:
    """How to write.

    ``quality`` 1..100 for JPEG, WebP, AVIF and JPEG XL (100 is lossless for all but JPEG and AVIF),
    ``subsampling`` for JPEG and AVIF, ``bits`` for what holds 16 (`DEEP`; None keeps the picture's depth),
    ``packing`` for TIFF. Without ``keep_place``, location and serial numbers stay out of what
    ``keep_metadata`` keeps (EXIF, and what the file says in words); ``xmp`` is written as it is instead of those
    words. ``per_inch``: at how many pixels per inch it is to be printed, as JPEG, PNG and TIFF say it; None: they
    don't.
    """

    format: Format
    quality: int = 95
    subsampling: Literal["4:4:4", "4:2:2", "4:2:0"] = "4:4:4"
    bits: Literal[8, 16] | None = None
    keep_metadata: bool = True
    packing: Packing = "deflate"
    keep_place: bool = False
    xmp: str = ""
    per_inch: float | None = None

    def __post_init__(self) -> None:
        if not 1 <= self.quality <= 100:
            raise PictureError(f"Quality goes from 1 to 100, not {self.quality}.")


def format_of(path: str | os.PathLike[str]) -> Format:
    """The format that a file name's ending asks for."""
    ending = Path(path).suffix.lower()
    if ending not in EXTENSIONS:
        raise PictureError(
            f"The result's name ends in {ending!r}; use one of {', '.join(EXTENSIONS)}."
        )
    return EXTENSIONS[ending]


def encode(picture: Picture, output: Output) -> bytes:
    """The picture as a file's bytes."""
    most = MOST_SIDE.get(output.format)
    if most is not None and max(picture.width, picture.height) > most:
        raise PictureError(f"{NAMES[output.format]} holds pictures of up to {most} pixels a side.")
    bits = (output.bits or picture.bits) if output.format in DEEP else 8
    colour = depth(picture.pixels, bits)
    alpha = depth(picture.alpha, bits) if picture.alpha is not None else None
    exif = picture.exif if output.keep_metadata else None
    if exif is not None and not output.keep_place:
        exif = metadata.without_place(exif)
    if not output.xmp and output.keep_metadata and picture.said is not None:
        output = replace(output, xmp=xmp.carried(picture.said, output.keep_place))
    if output.format == "jpeg":
        if alpha is not None:
            a = alpha[..., None].astype(np.float32) / 255
            colour = (colour * a + 255 * (1 - a) + 0.5).astype(np.uint8)
        return _jpeg(colour, picture, output, exif)
    if output.format in ("webp", "avif"):
        return _by_pillow(colour, alpha, picture, output, exif)
    if output.format == "jxl":
        return with_words(_jxl(colour, alpha, picture, output), exif, output.xmp)
    if output.format == "ora":
        channels = colour if alpha is None else np.concatenate([colour, alpha[..., None]], 2)
        layer = channels if alpha is not None else _opaque(colour)
        return openraster.write([openraster.Layer("Picture", layer)], channels, picture.icc)
    channels = colour[..., :1] if picture.grey else colour
    if alpha is not None:
        channels = np.concatenate([channels, alpha[..., None]], 2)
    if output.format == "png":
        return png(channels, picture.icc, exif, output.xmp, output.per_inch)
    return _tiff(channels, picture.icc, exif, alpha is not None, output)


def write(picture: Picture, path: str | os.PathLike[str], output: Output) -> None:
    """Write to a file, all or nothing: a failure leaves what was there before."""
    save(encode(picture, output), path)


def save(data: bytes, path: str | os.PathLike[str]) -> None:
    """Bytes as a file, all or nothing."""
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


def depth(a: NDArray[Any], bits: int) -> NDArray[Any]:
    """Integer values of a depth, 8 or 16 bits, in another."""
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
    if output.xmp:
        extra["xmp"] = output.xmp.encode()
    if output.per_inch:
        extra["dpi"] = (round(output.per_inch), round(output.per_inch))
    if not picture.grey:
        extra["subsampling"] = output.subsampling
    small = image.width * image.height <= _MOST_OPTIMISED
    try:
        image.save(out, "JPEG", quality=output.quality, optimize=small, **extra)
    except OSError:
        # Pillow's buffer for codes that are fitted doesn't hold what is nothing but noise.
        out = io.BytesIO()
        image.save(out, "JPEG", quality=output.quality, **extra)
    return out.getvalue()


def _by_pillow(
    colour: NDArray[Any],
    alpha: NDArray[Any] | None,
    picture: Picture,
    output: Output,
    exif: bytes | None,
) -> bytes:
    """WebP and AVIF of 8 bits, with profile, EXIF, XMP and opacity."""
    whole = colour if alpha is None else np.concatenate([colour, alpha[..., None]], 2)
    image = Image.fromarray(np.ascontiguousarray(whole))
    extra: dict[str, Any] = {"quality": output.quality}
    if output.format == "webp":
        # What is transparent keeps its colour.
        extra |= {"lossless": output.quality == 100, "method": 4, "exact": True}
    else:
        extra |= {"subsampling": output.subsampling, "speed": 7}
    if picture.icc and not picture.grey:
        extra["icc_profile"] = picture.icc
    if exif:
        extra["exif"] = b"Exif\x00\x00" + exif
    if output.xmp:
        extra["xmp"] = output.xmp.encode()
    out = io.BytesIO()
    image.save(out, NAMES[output.format].upper(), **extra)
    return out.getvalue()


def _jxl(
    colour: NDArray[Any], alpha: NDArray[Any] | None, picture: Picture, output: Output
) -> bytes:
    """JPEG XL in sRGB, which is what a file without a profile means; its encoder here takes none.

    ``quality`` becomes a distance as libjxl's own tool maps it (from memory): 100 is lossless, 90 is 1.0.
    """
    if picture.icc is not None:
        colour = profiles.to_srgb(colour, picture.icc)
    whole = colour[..., :1] if picture.grey else colour
    if alpha is not None:
        whole = np.concatenate([whole, alpha[..., None]], 2)
    q = output.quality
    distance = 0.1 + (100 - q) * 0.09 if q >= 30 else 6.4 + (30 - q) * 0.28
    return bytes(
        imagecodecs.jpegxl_encode(
            np.ascontiguousarray(whole), lossless=q == 100, distance=None if q == 100 else distance,
            effort=5,
        )
    )  # fmt: skip


def _opaque(colour: NDArray[Any]) -> NDArray[Any]:
    full = np.full((*colour.shape[:2], 1), np.iinfo(colour.dtype).max, colour.dtype)
    return np.concatenate([colour, full], 2)


def _tiff(
    channels: NDArray[Any], icc: bytes | None, exif: bytes | None, has_alpha: bool, output: Output
) -> bytes:
    """Packed TIFF; EXIF goes into the first directory and a directory of its own at the end."""
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
    if output.xmp:
        data = output.xmp.encode()
        extra.append((int(ExifTags.Base.XMLPacket), "B", len(data), data, True))
    if inner:
        extra.append((_EXIF_PLACE, "I", 1, 0, True))
    grey = channels.shape[2] < 3
    tifffile.imwrite(
        out,
        channels[..., 0] if channels.shape[2] == 1 else channels,
        photometric="minisblack" if grey else "rgb",
        compression=_PACKING[output.packing],
        predictor=True,
        iccprofile=icc,
        extrasamples=["unassalpha"] if has_alpha else None,
        planarconfig="contig" if channels.shape[2] > 1 else None,
        metadata=None,
        software=False,
        extratags=extra,
        resolution=(output.per_inch, output.per_inch) if output.per_inch else None,
        resolutionunit="INCH" if output.per_inch else None,
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

"""Reading photographs: JPEG, PNG, TIFF (8 and 16 bit), WebP, HEIC, AVIF, JPEG XL and cameras' raw files.

Every refusal is a `PictureError` with one plain sentence.
"""

from __future__ import annotations

import io
import logging
import os
import warnings
from dataclasses import replace
from typing import Any

import imagecodecs
import numpy as np
import pillow_heif
import simplejpeg
import tifffile
from numpy.typing import NDArray
from PIL import ExifTags, Image, ImageCms, ImageFile, UnidentifiedImageError

from retouch.colour.space import space_of
from retouch.errors import PictureError
from retouch.picture import heads, metadata, openraster, profile
from retouch.picture.boxes import words_of
from retouch.picture.described import described, of_image
from retouch.picture.model import Picture
from retouch.picture.raw import USUAL, Development, Glance, develop, glance, is_raw

# What it says of broken files is told here, in words.
logging.getLogger("tifffile").setLevel(logging.CRITICAL)

MOST_PIXELS = 100_000_000
MOST_BYTES = 600 * 1024 * 1024
_SMALLEST = 16
# The longer side is at most so many times the shorter one: no portrait comes near it.
MOST_RATIO = 100

# Pillow's own bomb guard only warns below twice its limit; the size is judged here instead.
Image.MAX_IMAGE_PIXELS = None
ImageFile.LOAD_TRUNCATED_IMAGES = False
pillow_heif.register_heif_opener()

# How JPEG XL begins (ISO/IEC 18181-2): a bare stream, or a container.
_JXL = (b"\xff\x0a", b"\0\0\0\x0cJXL \r\n\x87\n")
# How makers' raw files begin that aren't TIFFs, and where (from memory).
_RAW_MARKS = (
    (b"FUJIFILMCCD-RAW", 0), (b"IIRO", 0), (b"IIRS", 0), (b"MMOR", 0), (b"IIU\0", 0), (b"FOVb", 0),
    (b"\0MRM", 0), (b"ftypcrx ", 4), (b"HEAPCCDR", 6), (b"IIII", 0), (b"ARRI", 0),
)  # fmt: skip

_CMYK = "This picture is in CMYK, made for print. Convert it to RGB first, then open it here."
_CAN = "JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL, OpenRaster and cameras' raw files can."
_DAMAGED = "This file is cut off or damaged and can't be read to its end."


def read(path: str | os.PathLike[str], how: Development = USUAL) -> Picture:
    """Read a photograph from a file; see `read_bytes`."""
    return read_bytes(file_bytes(path), how)


def file_bytes(path: str | os.PathLike[str]) -> bytes:
    """The bytes of a file that isn't too heavy to be a photograph; else `PictureError`."""
    try:
        size = os.path.getsize(path)
        if size > MOST_BYTES:
            raise PictureError(_too_heavy(size))
        with open(path, "rb") as file:
            return file.read()
    except FileNotFoundError:
        raise PictureError(f"There is no file {os.fspath(path)!r}.") from None
    except IsADirectoryError:
        raise PictureError(f"{os.fspath(path)!r} is a folder, not a picture.") from None
    except OSError as error:
        raise PictureError(f"The file can't be opened: {error.strerror}.") from None


def read_bytes(data: bytes, how: Development = USUAL) -> Picture:
    """Read a photograph held in memory; a raw file is developed as said.

    Returns
    -------
    Picture
        Upright, 8 or 16 bit, with profile, EXIF and what the file says of it in words.

    Raises
    ------
    PictureError
        For an empty, foreign, damaged, oversized or CMYK file.
    """
    if not data:
        raise PictureError("This file is empty (0 bytes).")
    if len(data) > MOST_BYTES:
        raise PictureError(_too_heavy(len(data)))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            if openraster.is_openraster(data):
                return replace(read_bytes(openraster.merged_of(data)), format="ora")
            if raw_preview(data) is not None:
                return _developed(data, how)
            if data[: len(_JXL[0])] == _JXL[0] or data[: len(_JXL[1])] == _JXL[1]:
                told = heads.jpegxl_size(data)
                if told is None:
                    raise PictureError(_DAMAGED)
                check_size(*told)
                return _read_jxl(data)
            with Image.open(io.BytesIO(data)) as image:
                return replace(_read_opened(image, data), said=of_image(image))
        except PictureError:
            raise
        except UnidentifiedImageError:
            if data[:4] in (b"II*\0", b"MM\0*"):
                # A TIFF of a kind Pillow doesn't know (such as Zstandard): tifffile may.
                return _finish_tiff(data, None)
            raise PictureError(f"This isn't a picture that can be opened here. {_CAN}") from None
        except Exception:
            # Decoders raise many kinds of errors on damaged data; all mean the same to the user.
            raise PictureError(_DAMAGED) from None


def raw_preview(data: bytes) -> Glance | None:
    """What a raw file says before it is developed; None: the bytes are no raw file.

    Raises
    ------
    PictureError
        For a raw file of an unknown camera, or one that is cut off or damaged.
    """
    if (
        not data
        or data[:3] == b"\xff\xd8\xff"
        or data[:4] in (b"\x89PNG", b"RIFF", b"GIF8", b"%PDF")
    ):
        return None
    if data[:4] in (b"II*\0", b"MM\0*"):
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            try:
                with Image.open(io.BytesIO(data)) as image:
                    if not is_raw(image):
                        return None
            except UnidentifiedImageError:
                # Mosaics are of a kind that Pillow doesn't know.
                if not _mosaic(data):
                    return None
        return glance(data)
    if not any(data[at : at + len(mark)] == mark for mark, at in _RAW_MARKS):
        return None
    return glance(data)


def _mosaic(data: bytes) -> bool:
    """Whether a TIFF says that it holds a camera's mosaic, or linear raw data."""
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as tiff:
            page: Any = tiff.pages.first
            return 50706 in page.tags or int(page.tags[262].value) in (32803, 34892)
    except Exception:
        return False


def _developed(data: bytes, how: Development) -> Picture:
    seen = glance(data)
    check_size(seen.width, seen.height)
    return develop(data, how)


def _too_heavy(size: int) -> str:
    return (
        f"This file has {size / 1024**2:.0f} MB; "
        f"files up to {MOST_BYTES // 1024**2} MB can be opened."
    )


def check_size(width: int, height: int) -> None:
    """Refuse a picture with too many or too few pixels, or a side that is too long for the other."""
    if width * height > MOST_PIXELS:
        raise PictureError(
            f"This picture has {width} x {height} pixels, {width * height / 1e6:.0f} megapixels; "
            f"up to {MOST_PIXELS // 1_000_000} megapixels can be opened."
        )
    if min(width, height) < _SMALLEST:
        raise PictureError(
            f"This picture has only {width} x {height} pixels; {_SMALLEST} x {_SMALLEST} is the least."
        )
    if max(width, height) > MOST_RATIO * min(width, height):
        raise PictureError(
            f"This picture has {width} x {height} pixels; one side may be {MOST_RATIO} times as long "
            "as the other at most."
        )


def _read_opened(image: Image.Image, data: bytes) -> Picture:
    kind = (image.format or "").lower()
    kind = {"mpo": "jpeg", "heif": "heic"}.get(kind, kind)
    if kind not in ("jpeg", "png", "tiff", "webp", "heic", "avif"):
        raise PictureError(f"{image.format} files can't be opened here. {_CAN}")
    check_size(*image.size)
    if kind == "heic":
        return _read_heic(data, image)
    if image.mode == "CMYK":
        raise PictureError(_CMYK)
    exif = image.getexif()
    turn = metadata.orientation(exif)
    kept = metadata.to_bytes(exif)
    icc = image.info.get("icc_profile") or None
    if kind == "tiff":
        return _finish_tiff(data, (turn, kept, icc))
    if (kind == "png" and image.mode in ("I;16", "I", "I;16B")) or (
        kind == "png" and data[24] == 16
    ):
        pixels = np.asarray(imagecodecs.png_decode(data))
        return _finish(pixels, turn, icc, kept, kind)
    if kind == "jpeg" and image.mode == "RGB":
        # Strict: files that are cut off or damaged are refused.
        pixels = simplejpeg.decode_jpeg(data, colorspace="RGB", fastdct=False, fastupsample=False)
        return _finish(pixels, turn, icc, kept, kind)
    if image.mode in ("P", "PA", "1", "LA", "RGBX", "YCbCr", "LAB", "HSV"):
        has_alpha = image.mode in ("PA", "LA") or "transparency" in image.info
        grey = image.mode in ("1", "LA")
        image = image.convert(("LA" if grey else "RGBA") if has_alpha else ("L" if grey else "RGB"))
    if image.mode not in ("L", "LA", "RGB", "RGBA"):
        raise PictureError(
            f"Pictures of the kind {image.mode} can't be opened here; RGB and grey can."
        )
    return _finish(np.asarray(image), turn, icc, kept, kind)


def _read_heic(data: bytes, image: Image.Image) -> Picture:
    """A HEIF photograph, in all of its bits; its turns are applied as it is decoded."""
    whole = pillow_heif.open_heif(io.BytesIO(data), convert_hdr_to_8bit=False)
    pixels = np.asarray(whole)
    kept = metadata.to_bytes(image.getexif())
    return _finish(pixels, 1, image.info.get("icc_profile") or None, kept, "heic")


def _read_jxl(data: bytes) -> Picture:
    """A JPEG XL picture; it is turned as it is decoded."""
    exif, packet = words_of(data)
    kept = metadata.usable(exif) if exif else None
    made = _finish(np.asarray(imagecodecs.jpegxl_decode(data)), 1, None, kept, "jxl")
    return replace(made, said=described(packet))


def _finish_tiff(data: bytes, known: tuple[int, bytes | None, bytes | None] | None) -> Picture:
    said = None
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as tiff:
            page = tiff.pages.first
            check_size(page.imagewidth, page.imagelength)
            if page.photometric == tifffile.PHOTOMETRIC.SEPARATED:
                raise PictureError(_CMYK)
            heads.check_tiff(page, len(data))
            pixels = np.asarray(page.asarray())
            tags: Any = page.tags
            if known is None:
                known = (
                    int(tags["Orientation"].value) if "Orientation" in tags else 1,
                    None,
                    bytes(tags["InterColorProfile"].value) if "InterColorProfile" in tags else None,
                )
                words = tags.get(int(ExifTags.Base.XMLPacket))
                said = described(bytes(words.value)) if words is not None else None
            if page.photometric == tifffile.PHOTOMETRIC.PALETTE:
                table = np.asarray(page.colormap)
                pixels = table.T[pixels]
            if page.planarconfig == 2 and pixels.ndim == 3:
                pixels = np.moveaxis(pixels, 0, -1)
            if page.photometric == tifffile.PHOTOMETRIC.MINISWHITE:
                pixels = (np.iinfo(pixels.dtype).max - pixels).astype(pixels.dtype)
    except PictureError:
        raise
    except Exception:
        raise PictureError(_DAMAGED) from None
    turn, exif, icc = known
    return replace(_finish(pixels, turn, icc, exif, "tiff"), said=said)


def turned(a: NDArray[Any], orientation: int) -> NDArray[Any]:
    """Apply an EXIF orientation (CIPA DC-008, Exif 2.32, tag 0x0112) so that row 0 is the top."""
    if orientation in (5, 6, 7, 8):
        a = np.swapaxes(a, 0, 1)
    if orientation in (3, 4, 7, 8):
        a = a[::-1] if orientation in (4, 8) else a[::-1, ::-1]
    elif orientation in (2, 6):
        a = a[:, ::-1]
    return a


def _finish(
    pixels: NDArray[Any], turn: int, icc: bytes | None, exif: bytes | None, kind: str
) -> Picture:
    if pixels.dtype == np.bool_:
        pixels = pixels.astype(np.uint8) * 255
    if pixels.dtype not in (np.uint8, np.uint16):
        raise PictureError(
            f"This picture stores its values as {pixels.dtype}; 8 and 16 bit per channel can be opened."
        )
    pixels = pixels[..., None] if pixels.ndim == 2 else pixels
    if pixels.ndim != 3 or pixels.shape[2] > 4:
        raise PictureError(
            "This picture's channels aren't grey or RGB, so it can't be opened here."
        )
    pixels = turned(pixels, turn)
    channels = pixels.shape[2]
    alpha = np.ascontiguousarray(pixels[..., -1]) if channels in (2, 4) else None
    colour = pixels[..., : 1 if channels < 3 else 3]
    grey = colour.shape[2] == 1
    if grey:
        colour = np.repeat(colour, 3, 2)
    kept = _usable(icc, grey)
    return Picture(
        np.ascontiguousarray(colour), alpha, kept, exif, format=kind, grey=grey,
        profile_dropped=bool(icc) and kept is None,
    )  # fmt: skip


def _usable(icc: bytes | None, grey: bool) -> bytes | None:
    """The profile if LittleCMS can work with it and it fits the channels; a broken one is dropped."""
    if not icc:
        return None
    try:
        space = ImageCms.ImageCmsProfile(io.BytesIO(icc)).profile.xcolor_space.strip()
        if space != ("GRAY" if grey else "RGB"):
            return None
        # All that is asked of it later.
        profile.name(icc)
        profile.to_srgb(np.full((1, 1, 3), 90, np.uint8), icc)
        space_of(icc, grey)
    except Exception:
        return None
    return icc

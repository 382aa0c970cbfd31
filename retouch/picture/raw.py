"""Raw files: developed to linear 16-bit data of the camera's own colours, with room above white.

LibRaw (through rawpy) decodes, balances by the camera's white, interpolates and rebuilds highlights.
From its colours to working values goes one matrix; nothing is clipped on the way, so exposure, tone
and white balance find what lies above white.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np
import rawpy
from numpy.typing import NDArray
from PIL import Image, ImageOps

from retouch.colour.white import XYZ_TO_RGB, Light, light_of
from retouch.errors import PictureError
from retouch.picture import metadata
from retouch.picture.denoise import denoised
from retouch.picture.described import Description, of_image
from retouch.picture.model import Developed, Picture, Taken
from retouch.picture.working import profile_of
from retouch.progress import report

Highlights: TypeAlias = Literal["blend", "clip", "keep", "rebuild"]
_MODES = {
    "blend": rawpy.HighlightMode.Blend,
    "clip": rawpy.HighlightMode.Clip,
    "keep": rawpy.HighlightMode.Ignore,
    "rebuild": rawpy.HighlightMode.ReconstructDefault,
}
# TIFF tags: the DNG version, sub-directories, the photometric interpretations of mosaics and of
# linear raw (TIFF/EP, ISO 12234-2; Adobe DNG 1.7).
_DNG, _SUBS, _PHOTOMETRIC = 50706, 330, 262
_RAW_KINDS = (32803, 34892)

UNKNOWN = (
    "This is a raw file of a camera that can't be read here. Turn it into a DNG or a TIFF first, "
    "then open that."
)
BROKEN = "This raw file is cut off or damaged and can't be read to its end."


@dataclass(frozen=True)
class Development:
    """How a raw file is developed.

    Parameters
    ----------
    highlights : str
        ``blend``: what is clipped in some channels only is mixed into the others; ``clip``: all ends
        where the first channel does; ``keep``: channels as they are; ``rebuild``: from what
        surrounds it.
    noise : float
        Threshold of `retouch.picture.denoise`, 0 (none) .. 1000. (LibRaw's own ends the process on
        some files.)
    profile : str
        The working profile of what is delivered (`retouch.picture.working`).
    """

    highlights: Highlights = "blend"
    noise: float = 0.0
    profile: str = "srgb"


USUAL = Development()


@dataclass(frozen=True)
class Glance:
    """What a raw file says before it is developed: its upright size, and its preview, if any."""

    width: int
    height: int
    preview: Image.Image | None


def is_raw(image: Image.Image) -> bool:
    """Whether a TIFF that Pillow has opened holds raw data of a camera."""
    tags: Any = getattr(image, "tag_v2", {})
    if _DNG in tags or tags.get(_PHOTOMETRIC) in _RAW_KINDS:
        return True
    # Makers' own files: a small picture first, the raw data in directories below it.
    return 271 in tags and _SUBS in tags


def glance(data: bytes) -> Glance:
    """Open a raw file without developing it; `PictureError` where it can't be read."""
    with _opened(data) as raw:
        width, height = _upright(raw)
        preview: Image.Image | None = None
        try:
            thumb = raw.extract_thumb()
            if thumb.format == rawpy.ThumbFormat.JPEG:
                preview = Image.open(io.BytesIO(thumb.data))
                preview.load()
            else:
                preview = Image.fromarray(thumb.data)
        except Exception:
            # Without a preview, or with one that can't be read, the developed picture has to do.
            preview = None
        return Glance(width, height, _turned(preview, raw) if preview is not None else None)


def develop(data: bytes, how: Development = USUAL) -> Picture:
    """Develop a raw file; tells how far it is (`retouch.progress`).

    Returns
    -------
    Picture
        Upright, 16 bit, its codes linear light of the camera's colours balanced by the camera's
        white, with EXIF and the profile chosen for delivery.

    Raises
    ------
    PictureError
        For an unknown camera, or a file that is cut off or damaged.
    """
    report(0.1)
    with _opened(data) as raw:
        report(0.3)
        balance = np.asarray(raw.camera_whitebalance[:3], np.float64)
        if not (balance > 0).all():
            balance = np.asarray(raw.daylight_whitebalance[:3], np.float64)
        if not (balance > 0).all():
            balance = np.ones(3)
        try:
            pixels = raw.postprocess(
                gamma=(1, 1), no_auto_bright=True, output_bps=16, adjust_maximum_thr=0.0,
                user_wb=[*balance, balance[1]], output_color=rawpy.ColorSpace.raw,
                highlight_mode=_MODES[how.highlights],
            )  # fmt: skip
        except Exception:
            raise PictureError(BROKEN) from None
        report(0.9)
        to_srgb = np.asarray(raw.color_matrix, np.float64)[:, :3]
        daylight = np.asarray(raw.daylight_whitebalance[:3], np.float64)
    pixels = denoised(pixels, how.noise)
    known = bool(np.abs(to_srgb).max() > 0 and abs(np.linalg.det(to_srgb)) > 1e-6)
    if not known:
        to_srgb = np.eye(3)
    # LibRaw scales so that nothing is lost above white, unless all is clipped.
    gain = 1.0 if how.highlights == "clip" else float(balance.max() / balance.min())
    matrix = tuple(tuple(float(v) for v in row) for row in gain * to_srgb)
    taken = _taken(to_srgb, daylight, balance) if known and (daylight > 0).all() else None
    exif, said = _told(data)
    return Picture(
        np.ascontiguousarray(pixels), None, profile_of(how.profile), exif, "raw",
        taken=taken, developed=Developed(matrix), said=said,  # type: ignore[arg-type]
    )  # fmt: skip


def _opened(data: bytes) -> Any:
    raw = rawpy.RawPy()
    try:
        raw.open_buffer(io.BytesIO(data))
        raw.unpack()
    except rawpy.LibRawFileUnsupportedError:
        raw.close()
        raise PictureError(UNKNOWN) from None
    except Exception:
        raw.close()
        raise PictureError(BROKEN) from None
    if raw.raw_type != rawpy.RawType.Flat and raw.raw_type != rawpy.RawType.Stack:
        raw.close()
        raise PictureError(UNKNOWN)
    return raw


def _turned(preview: Image.Image, raw: Any) -> Image.Image:
    """The preview upright: by what it says itself, or else as the raw data is turned."""
    width, height = _upright(raw)
    turned = ImageOps.exif_transpose(preview)
    if (turned.width > turned.height) != (width > height) and width != height:
        turn = Image.Transpose.ROTATE_270 if raw.sizes.flip == 6 else Image.Transpose.ROTATE_90
        turned = turned.transpose(turn)
    return turned


def _upright(raw: Any) -> tuple[int, int]:
    sizes = raw.sizes
    if sizes.flip in (5, 6):
        return int(sizes.iheight), int(sizes.iwidth)
    return int(sizes.iwidth), int(sizes.iheight)


def _taken(
    to_srgb: NDArray[np.float64], daylight: NDArray[np.float64], balance: NDArray[np.float64]
) -> Taken:
    """The light that the camera balanced for, and from XYZ to its values."""
    cones = np.diag(1 / daylight) @ np.linalg.inv(to_srgb) @ XYZ_TO_RGB
    cones = cones / cones[1, 1]
    white = np.linalg.inv(cones) @ (1 / balance)
    found = light_of(white / white[1])
    light = Light(round(found.kelvin, 0), round(found.duv, 4))
    rows = tuple(tuple(round(float(v), 6) for v in row) for row in cones)
    return Taken(light, rows)  # type: ignore[arg-type]


def _told(data: bytes) -> tuple[bytes | None, Description | None]:
    """What the file says of camera, lens and shot (EXIF), and of the picture, where Pillow reads its kind."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            return metadata.to_bytes(image.getexif()), of_image(image)
    except Exception:
        return None, None

"""ICC profiles: their names, and conversion to sRGB through LittleCMS."""

from __future__ import annotations

import io
from functools import lru_cache
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import ImageCms

from retouch.colour.space import EXACT, RELATIVE
from retouch.errors import PictureError
from retouch.picture.working import title_of, undated


@lru_cache(maxsize=1)
def srgb() -> bytes:
    """The sRGB profile (IEC 61966-2-1) that LittleCMS builds."""
    return undated(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())


@lru_cache(maxsize=64)
def name(icc: bytes | None) -> str:
    """The profile's own description; "sRGB" when there is none."""
    if icc is None:
        return "sRGB"
    known = title_of(icc)
    if known is not None:
        return known
    text = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(icc))).strip()
    return text or "unnamed profile"


@lru_cache(maxsize=64)
def is_srgb(icc: bytes | None) -> bool:
    """Whether values can be shown as sRGB without conversion: a probe of colours stays put."""
    if icc is None:
        return True
    steps = np.linspace(0, 255, 6).astype(np.uint8)
    probe = np.stack(np.meshgrid(steps, steps, steps), -1).reshape(6, 36, 3)
    if is_grey(icc):
        return bool(np.abs(_transform(probe[..., :1], icc).astype(int) - probe[..., :1]).max() <= 1)
    return bool(np.abs(_transform(probe, icc).astype(int) - probe).max() <= 1)


@lru_cache(maxsize=64)
def is_grey(icc: bytes | None) -> bool:
    """Whether a profile is of one value, not three."""
    return icc is not None and (
        ImageCms.ImageCmsProfile(io.BytesIO(icc)).profile.xcolor_space.strip() == "GRAY"
    )


def _transform(pixels: NDArray[Any], icc: bytes) -> NDArray[Any]:
    grey = pixels.shape[2] == 1
    return np.asarray(
        imagecodecs.cms_transform(
            np.ascontiguousarray(pixels[..., 0] if grey else pixels),
            icc,
            srgb(),
            colorspace="gray" if grey else "rgb",
            outcolorspace="rgb",
            intent=RELATIVE,
            flags=EXACT,
        )
    )


def to_srgb(
    pixels: NDArray[np.uint8] | NDArray[np.uint16], icc: bytes | None
) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Convert encoded pixels (h, w, 3) to sRGB, same depth.

    Raises
    ------
    PictureError
        If LittleCMS can't use the profile.
    """
    if is_srgb(icc):
        return pixels
    assert icc is not None
    try:
        return _transform(pixels[..., :1] if is_grey(icc) else pixels, icc)
    except Exception as error:
        raise PictureError(f"The picture's colour profile can't be used: {error}.") from None

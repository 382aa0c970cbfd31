"""Masks of passes as arrays at any level."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Mask
from retouch.geometry import Rect

Array = NDArray[np.float32]

# Outlines are drawn with 4 fractional bits, 1/16 pixel, after OpenCV's fixed-point drawing.
_SHIFT = 4
# A Gaussian edge goes from 2.3 % to 97.7 % within 4 sigma; that is called the feather's width.
_SIGMAS = 4.0


def draw(mask: Mask, rect: Rect, level: int) -> Array | None:
    """Coverage 0..1 of ``rect`` (pixels of ``level``), shape (h, w, 1); None: all of it."""
    if mask.kind == "everything":
        if not mask.invert:
            return None
        return np.zeros((rect.height, rect.width, 1), np.float32)
    scale = 1.0 / (1 << level)
    sigma = mask.feather_px / _SIGMAS * scale
    margin = int(np.ceil(3 * sigma)) + 2
    wide = rect.grow(margin)
    points = np.asarray(mask.points) * scale - (wide.x0 + 0.5, wide.y0 + 0.5)
    fixed = np.round(points * (1 << _SHIFT)).astype(np.int32)
    canvas = np.zeros((wide.height, wide.width), np.uint8)
    cv2.fillPoly(canvas, [fixed], 255, lineType=cv2.LINE_AA, shift=_SHIFT)
    cover = canvas.astype(np.float32) / 255
    if sigma > 0.2:
        cover = cv2.GaussianBlur(cover, (0, 0), sigma)
    cover = cover[margin : margin + rect.height, margin : margin + rect.width, None]
    return 1 - cover if mask.invert else cover

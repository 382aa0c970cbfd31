"""Masks of passes as arrays at any level."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Mask
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.copying import coverage

Array = NDArray[np.float32]

# Outlines are drawn this many times larger and averaged down: OpenCV's own smooth edges lie half
# a pixel too far out.
_FINER = 4
# A Gaussian edge goes from 2.3 % to 97.7 % within 4 sigma; that is called the feather's width.
_SIGMAS = 4.0


def draw(mask: Mask, rect: Rect, level: int) -> Array | None:
    """Coverage 0..1 of ``rect`` (pixels of ``level``), shape (h, w, 1); None: all of it."""
    cover = _ground(mask, rect, level)
    scale = 1.0 / (1 << level)
    for stroke in mask.strokes:
        brush = Footprint(
            tuple((x * scale, y * scale) for x, y in stroke.path), stroke.radius_px * scale
        )
        part = brush.bounds.clip(rect)
        if part.empty:
            continue
        if cover is None:
            cover = np.ones((rect.height, rect.width, 1), np.float32)
        share = coverage(brush, part, stroke.softness / 100, stroke.flow / 100)[..., None]
        here = cover[part.y0 - rect.y0 : part.y1 - rect.y0, part.x0 - rect.x0 : part.x1 - rect.x0]
        here += share * (np.float32(1 if stroke.reveal else 0) - here)
    return cover


def _ground(mask: Mask, rect: Rect, level: int) -> Array | None:
    """The mask without its strokes."""
    if mask.kind == "everything":
        if not mask.invert:
            return None
        return np.zeros((rect.height, rect.width, 1), np.float32)
    scale = 1.0 / (1 << level)
    sigma = mask.feather_px / _SIGMAS * scale
    margin = int(np.ceil(3 * sigma)) + 2
    wide = rect.grow(margin)
    points = (np.asarray(mask.points) * scale - (wide.x0, wide.y0)) * _FINER - 0.5
    canvas = np.zeros((wide.height * _FINER, wide.width * _FINER), np.uint8)
    cv2.fillPoly(canvas, [np.round(points).astype(np.int32)], 255)
    small = cv2.resize(canvas, (wide.width, wide.height), interpolation=cv2.INTER_AREA)
    cover = small.astype(np.float32) / 255
    if sigma > 0.2:
        cover = cv2.GaussianBlur(cover, (0, 0), sigma)
    cover = cover[margin : margin + rect.height, margin : margin + rect.width, None]
    return np.array(1 - cover if mask.invert else cover, np.float32)

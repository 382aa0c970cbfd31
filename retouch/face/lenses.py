"""Lenses of glasses: what a thin rim of another tone encloses around an eye."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import lab_of_pixels as lab
from retouch.face import landmarks as lm
from retouch.face.frame import Frame

Array = NDArray[np.float32]

# A rim is at most this thick, and a lens this large, in heights of the face.
_RIM = 0.03
_SMALLEST, _LARGEST = 0.02, 0.11
# How far around the eye a lens may reach: sideways, up, down.
_REACH = (0.2, 0.17, 0.24)
# A rim is darker than what lies beside it by this much lightness: the clearest line that closes.
_DARKER = (9.0, 7.0, 5.0, 3.5)
# Gaps up to this part of the face's height are bridged: glints break a rim.
_GAP = 0.012


def lens(frame: Frame, right: bool) -> Array | None:
    """The lens before one eye, (h, w) float32 0..1, or None where none is seen.

    From a place below the eye everything is filled that can be reached without crossing a thin
    dark line. Without glasses the cheek lets it out; a rim holds it in.
    """
    outline = frame.points[list(lm.EYE_R if right else lm.EYE_L)]
    (x0, y0), (x1, y1) = outline.min(0), outline.max(0)
    unit = frame.unit
    h, w = frame.shape
    left, top = int(max(x0 - _REACH[0] * unit, 0)), int(max(y0 - _REACH[1] * unit, 0))
    end, bottom = int(min(x1 + _REACH[0] * unit, w)), int(min(y1 + _REACH[2] * unit, h))
    if end - left < 24 or bottom - top < 24:
        return None
    light = lab(np.ascontiguousarray(frame.pixels[top:bottom, left:end]))[..., 0]
    light = cv2.GaussianBlur(light, (0, 0), max(0.0018 * unit, 0.6))
    thick = 2 * max(2, round(_RIM * unit / 2)) + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (thick, thick))
    dark = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, kernel)
    seed = (int((x0 + x1) / 2 - left), int(y1 + 0.045 * unit - top))
    for darker in _DARKER:
        whole = _enclosed((dark > darker).astype(np.uint8), seed, max(1, round(_GAP * unit / 2)))
        if whole is not None and _SMALLEST < float(whole.sum()) / unit**2 < _LARGEST:
            break
    else:
        return None
    out = np.zeros(frame.shape, np.float32)
    out[top:bottom, left:end] = cv2.GaussianBlur(whole.astype(np.float32), (0, 0), 0.8)
    return out


def _enclosed(
    rim: NDArray[np.uint8], seed: tuple[int, int], bridge: int
) -> NDArray[np.uint8] | None:
    """All that lines enclose around a place, (h, w) 0 or 1; None where it leads to the border."""
    gap = 2 * bridge + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (gap, gap))
    wide = cv2.copyMakeBorder(rim, gap, gap, gap, gap, cv2.BORDER_CONSTANT)
    rim = cv2.morphologyEx(wide, cv2.MORPH_CLOSE, kernel)[gap:-gap, gap:-gap]
    x, y = seed
    if not (0 < x < rim.shape[1] - 1 and 0 < y < rim.shape[0] - 1) or rim[y, x]:
        return None
    filled = np.zeros((rim.shape[0] + 2, rim.shape[1] + 2), np.uint8)
    filled[1:-1, 1:-1] = rim
    flags = 4 | (2 << 8) | cv2.FLOODFILL_MASK_ONLY
    cv2.floodFill(np.ascontiguousarray(rim), filled, seed, 1, flags=flags)
    inside = (filled[1:-1, 1:-1] == 2).astype(np.uint8)
    if inside[0].any() or inside[-1].any() or inside[:, 0].any() or inside[:, -1].any():
        return None
    # The eye and its lashes lie inside the lens, though lines surround them.
    contours, _ = cv2.findContours(inside, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    whole = np.zeros_like(inside)
    cv2.drawContours(whole, contours, -1, 1, cv2.FILLED)
    return whole

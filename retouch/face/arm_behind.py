"""The far arm of glasses, where it shows behind the temple: a piece beside the rim, off the face."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.frame import Frame

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# It lies within this reach of the rim, in heights of the face.
_REACH = 0.25
# By so much it differs in lightness from what surrounds it, and at most by so much in colour
# (CIELAB's a* and b*) from the rim; it is no lighter (of a light rim: darker) than the rim by more.
_STANDS_OUT, _TINT, _BEYOND = 5.0, 8.0, 12.0
# Half its width in halves of the rim's, and how much longer than wide it is at least.
_THIN, _THICK, _LONG = 0.4, 2.5, 1.5
# It is no higher than this part of the rim: hair beside a face is.
_HIGH = 0.6
# An arm is a smooth bar: so much of it is left when all that is thinner than half of it goes.
_SMOOTH = 0.8
# Of the gap between it and the rim, in halves of the rim: shade, or light that scatters.
_GAP = 0.8


def arm_behind(frame: Frame, lab: Array, rim: Array, half: float, own: Array) -> Array:
    """What of an arm shows behind the side of the head.

    Parameters
    ----------
    frame : Frame
    lab : ndarray (h, w, 3) float32
        The frame's pixels in CIELAB.
    rim : ndarray (n, 2) float32
        The middle of the rim on that side.
    half : float
        Half the rim's width in pixels.
    own : ndarray (h, w) float32
        1 where the frame was found already.

    Returns
    -------
    ndarray (h, w) float32
        0 or 1: pieces off the face's oval that touch the rim, coloured like it, thin, smooth
        and unlike what surrounds them (a closing or opening of lightness by a disc; P. Soille,
        *Morphological Image Analysis*, 2003).
    """
    out = np.zeros(frame.shape, np.float32)
    reach = int(_REACH * frame.unit)
    x0, y0 = np.maximum(rim.min(0).astype(int) - reach, 0)
    x1, y1 = rim.max(0).astype(int) + reach
    here = np.s_[y0:y1, x0:x1]
    colour = lab[here]
    places = np.round(rim).astype(int)
    inside = (places >= 0).all(1) & (places < (lab.shape[1], lab.shape[0])).all(1)
    if not inside.any():
        return out
    told = lab[places[inside, 1], places[inside, 0]]
    usual = np.median(told, axis=0)
    soft = cv2.GaussianBlur(colour, (0, 0), 0.25 * half)
    across = disc(_THICK * half, least=0)
    light = np.ascontiguousarray(soft[..., 0])
    around = cv2.morphologyEx(light, cv2.MORPH_CLOSE, across)
    dark = bool(usual[0] < np.median(around))
    if not dark:
        around = cv2.morphologyEx(light, cv2.MORPH_OPEN, across)
    way = 1 if dark else -1
    piece = way * (around - light) > _STANDS_OUT
    piece &= np.hypot(*np.moveaxis(soft[..., 1:] - usual[1:], -1, 0)) < _TINT
    spread = float(np.quantile(way * (told[:, 0] - usual[0]), 0.9))
    piece &= way * (light - usual[0]) < spread + _BEYOND
    piece &= frame.polygon(lm.OVAL)[here] < 0.5
    near = cv2.distanceTransform((own[here] < 0.5).astype(np.uint8), cv2.DIST_L2, 3)
    piece &= (near > 0) & (near < reach)
    out[here] = _arms(piece, near, half, _HIGH * float(np.ptp(rim[:, 1])))
    return out


def _arms(piece: Mask, near: Array, half: float, high: float) -> Array:
    """The pieces that are long smooth bars beside the rim, no higher than ``high`` pixels."""
    opened = cv2.morphologyEx(piece.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(opened, connectivity=4)
    out = np.zeros(piece.shape, np.float32)
    for n in range(1, count):
        one = labels == n
        if near[one].min() > max(_GAP * half, 2.0):
            continue
        padded = np.pad(one.astype(np.uint8), 1)
        thick = float(cv2.distanceTransform(padded, cv2.DIST_L2, 5).max())
        area = float(stats[n, cv2.CC_STAT_AREA])
        if not _THIN * half <= thick <= _THICK * half or area < _LONG * (2 * thick) ** 2:
            continue
        if stats[n, cv2.CC_STAT_HEIGHT] > high:
            continue
        if cv2.morphologyEx(padded, cv2.MORPH_OPEN, disc(0.5 * thick)).sum() >= _SMOOTH * area:
            out[one] = 1
    return out

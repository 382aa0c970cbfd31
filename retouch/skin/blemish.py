"""Small spots of low contrast made fainter, and small light and dark evened."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import to_lab
from retouch.compiled import compiled
from retouch.discs import disc
from retouch.geometry import Rect
from retouch.skin.colour import moved
from retouch.skin.smooth import edge_aware, reach_of, soft

Array = NDArray[np.float32]

# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5
# Spots are compared with the skin this many of their sizes around; finer than this is texture.
_AROUND, _TEXTURE = 1.6, 0.25
# Evening of light leaves what is finer than this part of its size.
_FINER = 8
# Over so many units beyond the variety a spot comes to count fully; beyond so many it is no
# blemish of low contrast but a mark, a brow, a nostril.
_WIDTH, _MOST = 1.5, 14.0
# A spot falls off to all sides, looked at over this part of its size: a line, as the rim of an ear or
# a fold of the neck, does so to two of them only. The ratio of both from which on it is a spot; how
# far around its middle that holds for, and how softly it ends, as parts of its size.
_STEP, _LINE, _SPOT = 0.4, 0.1, 0.4
_SEEN, _HOLDS, _ENDS = 0.2, 0.6, 0.15


def concealed(
    image: Working, rect: Rect, px_per_mm: float, amount: float, size_mm: float, variety: float,
    inner: Rect | None = None,
) -> Array:  # fmt: skip
    """The image with spots that are darker or redder than around brought nearer to the skin.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    amount : float
        0..1: the part of a spot's contrast that goes.
    size_mm : float
        Diameter of the largest spots.
    variety : float
        Difference (L* or a*) that is the skin's own and stays.
    inner : Rect, optional
        The part of ``rect`` that is given back; otherwise all of it.

    Returns
    -------
    ndarray (h, w, 3) float32
        Pores and finer stay as they are.
    """
    lab = to_lab(image)
    size = size_mm * px_per_mm
    inner = inner or rect
    near = inner.grow(_round_reach(size)).clip(rect)
    field = soft(lab, rect, _TEXTURE * _SIGMA_OF_SIZE * size, near)
    around = soft(lab, rect, _AROUND * _SIGMA_OF_SIZE * size, near)
    here = inner.within(near)
    own = np.ascontiguousarray(field[here]), np.ascontiguousarray(around[here])
    round_ = np.ascontiguousarray(_spots(_away(field, around), size)[here])
    change = _fainter(*own, round_, np.float32(amount), np.float32(variety))
    return moved(np.ascontiguousarray(image[inner.within(rect)]), change)


def _round_reach(size: float) -> int:
    """Pixels around a place that tell whether it belongs to a spot."""
    return int(np.ceil((4 * (_SEEN + _ENDS) + _STEP + _HOLDS) * size)) + 4


def _spots(away: Array, size: float) -> Array:
    """How far each place belongs to something round, 0..1."""
    smooth = cv2.GaussianBlur(away, (0, 0), max(_SEEN * size, 0.3))
    found = _roundness(smooth, max(1, round(_STEP * size)))
    return cv2.GaussianBlur(cv2.dilate(found, disc(_HOLDS * size)), (0, 0), max(_ENDS * size, 0.3))


@compiled
def _away(field: Array, around: Array) -> Array:
    """How much darker or redder than around each place is."""
    h, w, _ = field.shape
    out = np.empty((h, w), np.float32)
    for i in range(h):
        for j in range(w):
            out[i, j] = max(around[i, j, 0] - field[i, j, 0], field[i, j, 1] - around[i, j, 1])
    return out


@compiled
def _roundness(away: Array, step: int) -> Array:
    """How far each place falls off to all sides and not to two only, 0..1."""
    h, w = away.shape
    out = np.zeros((h, w), np.float32)
    for i in range(h):
        up, down = max(i - step, 0), min(i + step, h - 1)
        for j in range(w):
            left, right = max(j - step, 0), min(j + step, w - 1)
            c = away[i, j]
            if c <= 0:
                continue
            xx = away[i, right] + away[i, left] - 2 * c
            yy = away[down, j] + away[up, j] - 2 * c
            xy = (away[down, right] + away[up, left] - away[up, right] - away[down, left]) / 4
            root = np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
            weak, strong = (xx + yy + root) / 2, (xx + yy - root) / 2
            if weak < 0 and strong < 0:
                t = (weak / strong - np.float32(_LINE)) / np.float32(_SPOT - _LINE)
                out[i, j] = min(max(t, np.float32(0)), np.float32(1))
    return out


def concealed_reach(px_per_mm: float, size_mm: float) -> int:
    """Pixels around a place that count."""
    size = size_mm * px_per_mm
    return reach_of(_AROUND * _SIGMA_OF_SIZE * size) + _round_reach(size)


@compiled
def _fainter(
    field: Array, around: Array, round_: Array, amount: np.float32, variety: np.float32
) -> Array:
    h, w, _ = field.shape
    out = np.zeros((h, w, 3), np.float32)
    zero, one = np.float32(0), np.float32(1)
    for i in range(h):
        for j in range(w):
            dark = around[i, j, 0] - field[i, j, 0]
            red = field[i, j, 1] - around[i, j, 1]
            away = max(dark, red)
            t = min(max((away - variety) / np.float32(_WIDTH), zero), one)
            u = min(max((np.float32(_MOST) - away) / np.float32(0.5 * _MOST), zero), one)
            share = amount * t * t * (np.float32(3) - np.float32(2) * t) * u * round_[i, j]
            if share > 0:
                for k in range(3):
                    out[i, j, k] = share * (around[i, j, k] - field[i, j, k])
    return out


def levelled(
    image: Working, rect: Rect, px_per_mm: float, amount: float, size_mm: float, contrast: float,
    inner: Rect | None = None,
) -> Array:  # fmt: skip
    """The image with small light and dark evened: what a brush would dodge and burn.

    Lightness alone, of forms up to ``size_mm``; what is finer than an eighth of it stays, and so do
    edges stronger than ``contrast`` (see `retouch.skin.smooth`). ``amount`` 0..1; ``inner`` is the
    part of ``rect`` that is given back.
    """
    inner = inner or rect
    lab = to_lab(image)
    size = size_mm * px_per_mm
    near = soft(np.asarray(lab[..., :1] / 100, np.float32), rect, _SIGMA_OF_SIZE * size / _FINER)
    wide = edge_aware(np.repeat(near, 3, 2), rect, _SIGMA_OF_SIZE * size, contrast, inner)
    here = inner.within(rect)
    change = np.zeros_like(wide)
    change[..., 0] = 100 * np.float32(amount) * (wide[..., 0] - near[here][..., 0])
    return moved(np.ascontiguousarray(image[here]), change)


def levelled_reach(px_per_mm: float, size_mm: float) -> int:
    """Pixels around a place that count."""
    size = size_mm * px_per_mm
    return reach_of(_SIGMA_OF_SIZE * size / _FINER) + 2 * reach_of(_SIGMA_OF_SIZE * size)

"""Small spots of low contrast made fainter, and small light and dark evened."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import to_lab
from retouch.compiled import compiled
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
    field = soft(lab, rect, _TEXTURE * _SIGMA_OF_SIZE * size, inner)
    around = soft(lab, rect, _AROUND * _SIGMA_OF_SIZE * size, inner)
    change = _fainter(field, around, np.float32(amount), np.float32(variety))
    return moved(np.ascontiguousarray(image[inner.within(rect)]), change)


def concealed_reach(px_per_mm: float, size_mm: float) -> int:
    """Pixels around a place that count."""
    return reach_of(_AROUND * _SIGMA_OF_SIZE * size_mm * px_per_mm)


@compiled
def _fainter(field: Array, around: Array, amount: np.float32, variety: np.float32) -> Array:
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
            share = amount * t * t * (np.float32(3) - np.float32(2) * t) * u
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

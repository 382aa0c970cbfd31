"""Lines of the skin (crow's feet, forehead, folds): found as valleys and ridges, and softened."""

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
from retouch.skin.smooth import reach_of, soft

Array = NDArray[np.float32]

# Widths of lines relative to the size asked for; the strongest answer counts.
_WIDTHS = (0.5, 1.0)
# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5
# What is finer than this part of a line's width is texture and stays.
_TEXTURE = 0.15
# A line is compared with the skin this many widths around, and holds on for so many.
_AROUND, _ALONG, _WIDER = 2.5, 1.5, 0.4
# So much does bending the other way count against a line.
_ROUND = np.float32(1.5)
# Deeper than this (L*) it is no line of the skin but a hair, a lash, a rim.
_DEEPEST = 9.0


def lines(light: Array, rect: Rect, width: float, least: float) -> Array:
    """How much of each place belongs to a line, (h, w) 0..1.

    A line is bent across and straight along: the eigenvalues of the second derivatives there are
    one large and one small, where a pore has two large ones (C. Steger, *An unbiased detector of
    curvilinear structures*, PAMI 20, 1998; scales compared as by T. Lindeberg, *Edge detection
    and ridge detection with automatic scale selection*, IJCV 30, 1998).

    Parameters
    ----------
    light : ndarray (h, w) float32
        L* over ``rect``.
    width : float
        Width of the widest lines, pixels.
    least : float
        L* that a line has to be darker or lighter than its sides.
    """
    return _found(light, rect, width, least)[0]


def _found(light: Array, rect: Rect, width: float, least: float) -> tuple[Array, Array]:
    """Lines, and what is too near to a brow, a lip or another rim to be one, each (h, w) 0..1."""
    found = np.zeros(light.shape, np.float32)
    for part in _WIDTHS:
        sigma = max(_SIGMA_OF_SIZE * part * width, 0.6)
        smooth = soft(light, rect, sigma)
        # A valley of depth d and this width has a second derivative of about d / sigma^2.
        found = np.maximum(found, _bent(smooth, np.float32(sigma * sigma)))
    # A line goes on; what is short is drowned by its surroundings.
    held = soft(np.minimum(found, 3 * least), rect, _ALONG * width)
    hard = np.clip(found / (0.5 * _DEEPEST) - 1, 0, 1)
    near = soft(np.asarray(cv2.dilate(hard, disc(width, least=0)), np.float32), rect, 0.5 * width)
    share = np.asarray(_share(found, held, np.float32(least)) * (1 - near), np.float32)
    return share, near


def softened(
    image: Working, rect: Rect, px_per_mm: float, amount: float, width_mm: float, least: float,
    inner: Rect | None = None,
) -> Array:  # fmt: skip
    """The image with its lines brought nearer to the skin at their sides.

    ``amount`` 0..1 is the part that goes, ``width_mm`` the width of the widest lines, ``least``
    the depth (L*) from which on one counts. Texture within lines stays. ``inner`` is the part of
    ``rect`` that is given back.
    """
    inner = inner or rect
    lab = to_lab(image)
    width = width_mm * px_per_mm
    share, near = _found(np.ascontiguousarray(lab[..., 0]), rect, width, least)
    field = soft(lab, rect, _TEXTURE * width, inner)
    sigma = _AROUND * width
    # Neither other lines nor brows and lips say what the skin beside a line is like.
    beside = np.maximum((1 - share) * (1 - near), 0.02)
    total = soft(beside, rect, sigma, inner)
    around = soft(lab * beside[..., None], rect, sigma, inner) / total[..., None]
    # Over the whole of its width, and a little over its sides.
    wide = cv2.dilate(share, disc(_WIDER * width, least=0))
    cover = soft(np.asarray(wide, np.float32), rect, max(0.25 * width, 0.5), inner)
    cover *= 1 - near[inner.within(rect)]
    change = np.float32(amount) * cover[..., None] * (around - field)
    own = np.ascontiguousarray(image[inner.within(rect)])
    return moved(own, np.asarray(change, np.float32))


def reach(px_per_mm: float, width_mm: float) -> int:
    """Pixels around a place that count."""
    width = width_mm * px_per_mm
    return (
        reach_of(_AROUND * width)
        + reach_of(_ALONG * width)
        + reach_of(max(width, 1.2))
        + reach_of(0.5 * width)
        + round(2 * width)
        + 3
    )


def _bent(light: Array, scale: np.float32) -> Array:
    """How much more the light bends one way than the other, times ``scale``."""
    xx = cv2.Sobel(light, cv2.CV_32F, 2, 0, ksize=3, scale=0.25, borderType=cv2.BORDER_REFLECT)
    yy = cv2.Sobel(light, cv2.CV_32F, 0, 2, ksize=3, scale=0.25, borderType=cv2.BORDER_REFLECT)
    xy = cv2.Sobel(light, cv2.CV_32F, 1, 1, ksize=3, scale=0.25, borderType=cv2.BORDER_REFLECT)
    return _eigen(xx, yy, xy, scale)


@compiled
def _eigen(xx: Array, yy: Array, xy: Array, scale: np.float32) -> Array:
    h, w = xx.shape
    out = np.empty((h, w), np.float32)
    half = np.float32(0.5)
    for i in range(h):
        for j in range(w):
            mean = half * (xx[i, j] + yy[i, j])
            apart = half * (xx[i, j] - yy[i, j])
            root = np.sqrt(apart * apart + xy[i, j] * xy[i, j])
            one, other = abs(mean + root), abs(mean - root)
            out[i, j] = scale * max(max(one, other) - _ROUND * min(one, other), np.float32(0))
    return out


@compiled
def _share(found: Array, held: Array, least: np.float32) -> Array:
    """Full where an answer and what it goes on with reach the least depth."""
    h, w = found.shape
    out = np.empty((h, w), np.float32)
    zero, one = np.float32(0), np.float32(1)
    for i in range(h):
        for j in range(w):
            t = min(max(found[i, j] / least - np.float32(0.5), zero), one)
            u = min(max(np.float32(4) * held[i, j] / least - np.float32(0.6), zero), one)
            out[i, j] = t * t * (np.float32(3) - np.float32(2) * t) * u
    return out

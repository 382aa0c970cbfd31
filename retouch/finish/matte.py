"""A matte: how much of each pixel is the person, hair by hair, and the person's own colours there.

Each pixel in the unknown band is a mixture I = a F + (1 - a) B of what lies on both its sides (T. Porter,
T. Duff, *Compositing Digital Images*, SIGGRAPH 1984). F and B are the means of sure pixels nearby; where the
two differ enough, a is where I lies between them (as Y. Chuang et al., *A Bayesian Approach to Digital
Matting*, CVPR 2001, ask it of clusters), else what was told before stands.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.features.toning import step
from retouch.geometry import Rect
from retouch.heal.coarse import Grid

Array = NDArray[np.float32]

# What is surely the person, and surely not.
_SURE, _SURELY_NOT = 0.97, 0.03
# Without a difference of colours, less than the first of these is none of the person, more than the second all.
_DOUBTFUL, _CLEAR = 0.3, 0.85
# Broad is what is wider than twice this part of the band; it lies outside where it is less surely the person.
_THICK, _OUTSIDE = 0.14, (0.1, 0.5)
# Colours of both sides are means over so many widths of the band; over more where there are none near.
_NEAR, _FAR = 0.9, 2.6
# A mean has so many cells to its width.
_FINE = 6.0
# So far apart (encoded) colours have to lie before they tell anything.
_APART = 0.07
# The foreground's colours are worked out where the person has this part of a pixel; below it, those nearby.
_LEAST = 0.2
# Noise of the camera in the mixture is calmed over so many pixels.
_CALM = 1


@dataclass(frozen=True)
class Matte:
    """``alpha`` (h, w) 0..1: the person's part; ``colours`` (h, w, 3): the person's, without what lies behind."""

    alpha: Array
    colours: Array


def reach(band: float) -> int:
    """Pixels around a place that are looked at, for a band so wide."""
    return int(np.ceil(band + 3 * _FAR * band)) + 2 + 2 * _cells(band)


def matte(image: Array, person: Array, band: float, rect: Rect | None = None) -> Matte:
    """The matte of an image.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1.
    person : ndarray (h, w) float32
        How surely each place is the person, 0..1, roughly.
    band : float
        Pixels to each side of the outline in which hair is looked for.
    rect : Rect, optional
        Where the image lies in the picture's pixels; None: at its corner.
    """
    rect = rect or Rect(0, 0, image.shape[1], image.shape[0])
    person = np.ascontiguousarray(person, np.float32)
    within = (person > 0.5).astype(np.uint8)
    inside, outside = (
        ((cv2.distanceTransform(part, cv2.DIST_L2, 5) > band) & sure).astype(np.uint8)
        for part, sure in ((within, person > _SURE), (1 - within, person < _SURELY_NOT))
    )
    unknown = (inside == 0) & (outside == 0)
    if not unknown.any():
        return Matte(person, image)
    fore, back = (_nearby(image, sure, band, rect) for sure in (inside, outside))
    line = fore - back
    far = (line * line).sum(-1)
    along = np.clip(((image - back) * line).sum(-1) / (far + 1e-6), 0, 1).astype(np.float32)
    told = step(np.sqrt(far), 0.5 * _APART, 2 * _APART)
    # Doubtful places among loose hair are more often what lies behind.
    before = step(person, _DOUBTFUL, _CLEAR)
    alpha = told * along + (1 - told) * before
    # One pixel's noise is no hair; hairs are longer than that.
    alpha = 0.5 * alpha + 0.5 * cv2.blur(np.asarray(alpha, np.float32), (2 * _CALM + 1,) * 2)
    # Outside of the rough outline there are single hairs; what is broad there lies behind, and is dark or light
    # by chance.
    thick = max(1, round(_THICK * band))
    kernel = np.ones((2 * thick + 1, 2 * thick + 1), np.uint8)
    broad = cv2.morphologyEx(np.asarray(alpha, np.float32), cv2.MORPH_OPEN, kernel)
    alpha = alpha - (1 - step(person, *_OUTSIDE)) * broad
    alpha = np.where(unknown, alpha, inside.astype(np.float32))
    alpha = np.asarray(np.clip((alpha - 0.03) / 0.94, 0, 1), np.float32)
    a = alpha[..., None]
    own = (image - (1 - a) * back) / np.maximum(a, _LEAST)
    weight = step(alpha, 0.5 * _LEAST, 3 * _LEAST)[..., None]
    colours = np.clip(weight * own + (1 - weight) * fore, 0, 1)
    colours = np.where(a >= 1, image, colours)
    return Matte(alpha, np.asarray(colours, np.float32))


def _nearby(image: Array, sure: NDArray[np.uint8], band: float, rect: Rect) -> Array:
    """Mean colours of sure pixels around each place; from further away where none is near.

    They vary slowly: they are worked out on cells fixed to the picture.
    """
    weight = sure.astype(np.float32)
    both = np.dstack([image * weight[..., None], weight])
    factor = _cells(band)
    wide = rect.align(factor)
    if factor > 1:
        pad = (
            (rect.y0 - wide.y0, wide.y1 - rect.y1),
            (rect.x0 - wide.x0, wide.x1 - rect.x1),
            (0, 0),
        )
        grid = Grid(wide, wide.height // factor, wide.width // factor)
        both = grid.reduce(np.pad(both, pad, mode="edge"))
    out, total = None, None
    for part in (_NEAR, _FAR):
        spread = _blur(both, part * band / factor)
        near = spread[..., 3:]
        mean = spread[..., :3] / np.maximum(near, 1e-6)
        share = np.clip(near / 0.02, 0, 1)
        if out is None or total is None:
            out, total = mean * share, share
        else:
            out = out + mean * (1 - total)
    found = np.asarray(out, np.float32)
    return np.asarray(grid.spread(found, rect), np.float32) if factor > 1 else found


def _cells(band: float) -> int:
    """Pixels to a cell on which means over a band are worked out."""
    return 1 if _NEAR * band < 2 * _FINE else int(2 ** np.floor(np.log2(_NEAR * band / _FINE)))


def _blur(values: Array, sigma: float) -> Array:
    """Three box blurs: as good as a Gaussian (W. M. Wells, PAMI 1986), at any width at the same cost."""
    width = max(1, 2 * round(sigma * 0.98) + 1)
    for _ in range(3):
        values = cv2.blur(values, (width, width), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(values, np.float32)

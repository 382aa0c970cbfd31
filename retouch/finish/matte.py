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

Array = NDArray[np.float32]

# What is surely the person, and surely not.
_SURE, _SURELY_NOT = 0.97, 0.03
# Without a difference of colours, less than the first of these is none of the person, more than the second all.
_DOUBTFUL, _CLEAR = 0.3, 0.85
# Broad is what is wider than twice this part of the band; it lies outside where it is less surely the person.
_THICK, _OUTSIDE = 0.14, (0.1, 0.5)
# Colours of both sides are means over so many widths of the band; over more where there are none near.
_NEAR, _FAR = 0.9, 2.6
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
    return int(np.ceil(band + 3 * _FAR * band)) + 2


def matte(image: Array, person: Array, band: float) -> Matte:
    """The matte of an image.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1.
    person : ndarray (h, w) float32
        How surely each place is the person, 0..1, roughly.
    band : float
        Pixels to each side of the outline in which hair is looked for.
    """
    person = np.ascontiguousarray(person, np.float32)
    within = (person > 0.5).astype(np.uint8)
    inside, outside = (
        ((cv2.distanceTransform(part, cv2.DIST_L2, 5) > band) & sure).astype(np.uint8)
        for part, sure in ((within, person > _SURE), (1 - within, person < _SURELY_NOT))
    )
    unknown = (inside == 0) & (outside == 0)
    if not unknown.any():
        return Matte(person, image)
    fore, back = _nearby(image, inside, band), _nearby(image, outside, band)
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


def _nearby(image: Array, sure: NDArray[np.uint8], band: float) -> Array:
    """Mean colours of sure pixels around each place; from further away where none is near."""
    weight = sure.astype(np.float32)
    marked = image * weight[..., None]
    out, total = None, None
    for part in (_NEAR, _FAR):
        sigma = part * band
        near = _blur(weight, sigma)
        mean = _blur(marked, sigma) / np.maximum(near, 1e-6)[..., None]
        share = np.clip(near / 0.02, 0, 1)[..., None]
        if out is None or total is None:
            out, total = mean * share, share
        else:
            out, total = out + mean * (1 - total), np.ones_like(total)
    assert out is not None
    return np.asarray(out, np.float32)


def _blur(values: Array, sigma: float) -> Array:
    """Three box blurs: as good as a Gaussian (W. M. Wells, PAMI 1986), at any width at the same cost."""
    width = max(1, 2 * round(sigma * 0.98) + 1)
    for _ in range(3):
        values = cv2.blur(values, (width, width), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(values, np.float32)

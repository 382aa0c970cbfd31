"""The colour of skin evened towards one colour, and living colour brought back."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import to_lab
from retouch.geometry import Rect
from retouch.skin.colour import chroma, moved
from retouch.skin.own import OwnSkin, own_skin
from retouch.skin.smooth import reach_of, soft

Array = NDArray[np.float32]


def evened(
    image: Working,
    rect: Rect,
    sigma: float,
    target: Array | OwnSkin,
    hue: float,
    saturation: float,
    lightness: float,
    variety: float,
    inner: Rect | None = None,
) -> Array:
    """The image with what is larger than a size pulled towards a colour.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    sigma : float
        Differences finer than this blur (pixels) stay.
    target : ndarray (3,) or OwnSkin
        CIELAB; of the side of the light that a place lies on.
    hue, saturation, lightness : float
        0..1: how far each is pulled, apart from each other.
    variety : float
        Difference (CIE76) that is natural and stays.
    inner : Rect, optional
        The part of ``rect`` that is given back; otherwise all of it.
    """
    inner = inner or rect
    field = soft(to_lab(image), rect, sigma, inner)
    there = own_skin(target).over(inner)
    off = field - there
    away = np.sqrt((off**2).sum(-1))
    # What is within the natural variety is hardly touched, what is far beyond it wholly.
    share = away / (away + max(variety, 1e-3)) if variety > 0 else np.ones_like(away)
    own = chroma(field)
    angle = np.arctan2(field[..., 2], field[..., 1])
    wanted = np.arctan2(there[..., 2], there[..., 1])
    turn = (wanted - angle + np.pi) % (2 * np.pi) - np.pi
    angle2 = angle + hue * share * turn
    own2 = own + saturation * share * (chroma(there) - own)
    change = np.stack(
        [
            -lightness * share * off[..., 0],
            own2 * np.cos(angle2) - field[..., 1],
            own2 * np.sin(angle2) - field[..., 2],
        ],
        -1,
    )
    own = np.ascontiguousarray(image[inner.within(rect)])
    return moved(own, np.asarray(change, np.float32))


def enlivened(image: Working, skin: Array, lips: Array, amount: float) -> Array:
    """The image with a part of the way from the skin's to the lips' colour added, a* and b* only.

    Lightness, and with it texture, stays. ``amount`` 0..1.
    """
    change = np.zeros_like(image)
    change[..., 1:] = amount * (lips[1:] - skin[1:])
    return moved(image, change)


def reach(sigma: float) -> int:
    """Pixels around a place that count."""
    return reach_of(sigma)

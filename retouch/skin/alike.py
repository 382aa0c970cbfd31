"""One colour of the skin changed wherever it is: pressed on in the picture and dragged."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import to_lab
from retouch.colour.likeness import nearness
from retouch.geometry import Rect
from retouch.skin.colour import moved, shade
from retouch.skin.smooth import soft, soft_reach_of

Array = NDArray[np.float32]

# Colours are compared without what is finer than this; light counts less than colour.
_FIELD_MM, _LIGHT = 0.6, 0.4


def shifted(
    image: Working,
    rect: Rect,
    px_per_mm: float,
    skin: Array,
    colour: Array,
    tolerance: float,
    towards: float,
    light: float,
    inner: Rect | None = None,
) -> Array:
    """The image with places like a colour moved to the skin's own, or further from it.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    skin, colour : ndarray (3,)
        CIELAB of the person's clean skin, and of the place that was pressed on.
    tolerance : float
        Difference (CIE76, light weighted less) at which half of the change is left.
    towards : float
        1 brings hue and saturation to the skin's own at the place's lightness, -1 as far away
        again. The skin's own is never grey, so nothing becomes it.
    light : float
        L* added.
    inner : Rect, optional
        The part of ``rect`` that is given back; otherwise all of it.
    """
    inner = inner or rect
    field = soft(to_lab(image), rect, _FIELD_MM * px_per_mm, inner)
    share = nearness(field, colour[None], tolerance, 0.9, _LIGHT)[..., None]
    expected = shade(field[..., :1], skin)
    change = np.empty_like(field)
    change[..., :1] = light * share
    change[..., 1:] = towards * share * (skin[1:] * expected - field[..., 1:])
    return moved(np.ascontiguousarray(image[inner.within(rect)]), change)


def reach(px_per_mm: float) -> int:
    """Pixels around a place that count."""
    return soft_reach_of(_FIELD_MM * px_per_mm)

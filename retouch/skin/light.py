"""Shine and shadows on skin: brought nearer to what the skin around them has."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.skin.colour import chroma, moved, smooth, to_lab
from retouch.skin.smooth import reach_of, soft

Array = NDArray[np.float32]

# Shine is compared with skin around it over so many mm, shadows over so many.
_SHINE_AROUND_MM, _SHADE_AROUND_MM = 7.0, 9.0
# What is smaller than this is texture and stays.
_SHINE_FIELD_MM, _SHADE_FIELD_MM = 0.35, 1.2
_SHINE_WIDTH = 8.0


def shine(lab: Array, rect: Rect, px_per_mm: float, skin: Array, threshold: float) -> Array:
    """How much of each place is a highlight, (h, w) 0..1.

    A highlight adds the light's own colour to the skin's, so it is lighter and less saturated
    than the skin (S. A. Shafer, *Using color to separate reflection components*, Color Research
    and Application 10, 1985).
    """
    light = lab[..., 0] - float(skin[0]) - threshold
    pale = 1 - chroma(lab) / max(float(np.hypot(skin[1], skin[2])), 1.0)
    # In light skin a highlight soon clips; there lightness alone has to tell.
    return smooth((light + 14.0 * np.clip(pale, -0.5, 0.6)) / _SHINE_WIDTH)


def less_shine(
    image: Array, rect: Rect, px_per_mm: float, skin: Array, amount: float, threshold: float
) -> Array:
    """The image with highlights darkened towards the skin around and given its colour back.

    ``amount`` 0..1 is the part taken away; ``threshold`` (L*) how much lighter than the person's
    skin counts as shine.
    """
    lab = to_lab(image)
    field = soft(lab, rect, _SHINE_FIELD_MM * px_per_mm)
    bright = shine(field, rect, px_per_mm, skin, threshold)
    around = _around(field, 1 - bright, rect, _SHINE_AROUND_MM * px_per_mm, skin)
    share = (amount * bright)[..., None]
    change = share * (around - field)
    change[..., 0] = np.minimum(change[..., 0], 0)
    return moved(image, lab, np.asarray(change, np.float32))


def lifted(
    image: Array, rect: Rect, px_per_mm: float, skin: Array, amount: float, least: float
) -> Array:
    """The image with dark places lifted towards the skin around, and their cast taken back.

    ``amount`` 0..1 is the most of a shadow that goes; ``least`` (L*) what is dark enough to count.
    """
    lab = to_lab(image)
    field = soft(lab, rect, _SHADE_FIELD_MM * px_per_mm)
    broad = soft(lab, rect, _SHADE_AROUND_MM * px_per_mm)
    dark = smooth((broad[..., 0] - field[..., 0] - least) / 6.0 + 0.5)
    around = _around(field, 1 - dark, rect, _SHADE_AROUND_MM * px_per_mm, skin)
    depth = np.maximum(around[..., 0] - field[..., 0] - least, 0)
    share = smooth(depth / 4.0)
    change = np.zeros_like(lab)
    change[..., 0] = amount * depth
    for k in (1, 2):
        # Bluish or violet: what the skin around has more of comes back.
        change[..., k] = amount * share * (around[..., k] - field[..., k])
    return moved(image, lab, change)


def _around(field: Array, weight: Array, rect: Rect, sigma: float, skin: Array) -> Array:
    """The skin's colour around each place, from where the weight is; the person's own elsewhere."""
    base = np.float32(0.02)
    total = soft(weight, rect, sigma) + base
    values = soft(field * weight[..., None], rect, sigma) + base * skin
    return np.asarray(values / total[..., None], np.float32)


def shine_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shine."""
    return reach_of(_SHINE_AROUND_MM * px_per_mm) + reach_of(_SHINE_FIELD_MM * px_per_mm)


def shade_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shadows."""
    return 2 * reach_of(_SHADE_AROUND_MM * px_per_mm) + reach_of(_SHADE_FIELD_MM * px_per_mm)

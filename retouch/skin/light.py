"""Shine and shadows on skin: brought nearer to what the skin around them has."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.colour import moved, smooth, to_lab
from retouch.skin.smooth import factor_of, reduced, soft, soft_reach_of, spread

Array = NDArray[np.float32]

# Shine is compared with skin around it over so many mm, shadows over so many.
_SHINE_AROUND_MM, _SHADE_AROUND_MM = 7.0, 9.0
# What is smaller than this is texture and stays.
_SHINE_FIELD_MM, _SHADE_FIELD_MM = 0.35, 1.2
_SHINE_WIDTH = 8.0
# Slow changes are worked out on a grid so much coarser at most.
_COARSE = 8


def shine(lab: Array, skin: Array, threshold: float) -> Array:
    """How much of each place is a highlight, (h, w) 0..1.

    A highlight adds the light's own colour to the skin's, so it is lighter and less saturated
    than the skin (S. A. Shafer, *Using color to separate reflection components*, Color Research
    and Application 10, 1985).
    """
    own = max(float(np.hypot(skin[1], skin[2])), 1.0)
    return _glossy(lab, np.float32(skin[0] + threshold), np.float32(1 / own))


@compiled
def _glossy(lab: Array, light: np.float32, per_chroma: np.float32) -> Array:
    h, w, _ = lab.shape
    out = np.empty((h, w), np.float32)
    zero, one = np.float32(0), np.float32(1)
    for i in range(h):
        for j in range(w):
            chroma = np.sqrt(lab[i, j, 1] * lab[i, j, 1] + lab[i, j, 2] * lab[i, j, 2])
            pale = min(max(one - chroma * per_chroma, np.float32(-0.5)), np.float32(0.6))
            # In light skin a highlight soon clips; there lightness alone has to tell.
            t = (lab[i, j, 0] - light + np.float32(14) * pale) / np.float32(_SHINE_WIDTH)
            t = min(max(t, zero), one)
            out[i, j] = t * t * (np.float32(3) - np.float32(2) * t)
    return out


def less_shine(
    image: Array, rect: Rect, px_per_mm: float, skin: Array, amount: float, threshold: float
) -> Array:
    """The image with highlights darkened towards the skin around and given its colour back.

    ``amount`` 0..1 is the part taken away; ``threshold`` (L*) how much lighter than the person's
    skin counts as shine.
    """
    lab = to_lab(image)
    field = soft(lab, rect, _SHINE_FIELD_MM * px_per_mm)
    bright = shine(field, skin, threshold)
    sigma = _SHINE_AROUND_MM * px_per_mm
    # What is around varies so slowly that a coarse grid has all of it.
    factor = min(factor_of(sigma), _COARSE)
    small, cells = reduced(field, rect, factor)
    weight = 1 - reduced(bright, rect, factor)[0].reshape(small.shape[:2])
    around = spread(_around(small, weight, cells, sigma / factor, skin), cells, rect, factor)
    return moved(image, lab, _dulled(field, bright, around, np.float32(amount)))


@compiled
def _dulled(field: Array, bright: Array, around: Array, amount: np.float32) -> Array:
    """The change of highlights towards what is around: never lighter."""
    h, w, _ = field.shape
    out = np.zeros((h, w, 3), np.float32)
    for i in range(h):
        for j in range(w):
            share = amount * bright[i, j]
            if share > 0:
                out[i, j, 0] = min(share * (around[i, j, 0] - field[i, j, 0]), np.float32(0))
                out[i, j, 1] = share * (around[i, j, 1] - field[i, j, 1])
                out[i, j, 2] = share * (around[i, j, 2] - field[i, j, 2])
    return out


def lifted(
    image: Array, rect: Rect, px_per_mm: float, skin: Array, amount: float, least: float
) -> Array:
    """The image with dark places lifted towards the skin around, and their cast taken back.

    ``amount`` 0..1 is the most of a shadow that goes; ``least`` (L*) what is dark enough to count.
    """
    lab = to_lab(image)
    # Shadows have no fine forms: they are found and measured on a coarse grid.
    factor = min(factor_of(_SHADE_FIELD_MM * px_per_mm), _COARSE)
    small, cells = reduced(lab, rect, factor)
    scale = px_per_mm / factor
    field = soft(small, cells, _SHADE_FIELD_MM * scale)
    broad = soft(small, cells, _SHADE_AROUND_MM * scale)
    dark = smooth((broad[..., 0] - field[..., 0] - least) / 6.0 + 0.5)
    around = _around(field, 1 - dark, cells, _SHADE_AROUND_MM * scale, skin)
    depth = np.maximum(around[..., 0] - field[..., 0] - least, 0)
    share = smooth(depth / 4.0)
    change = np.zeros_like(small)
    change[..., 0] = amount * depth
    for k in (1, 2):
        # Bluish or violet: what the skin around has more of comes back.
        change[..., k] = amount * share * (around[..., k] - field[..., k])
    return moved(image, lab, spread(change, cells, rect, factor))


def _around(field: Array, weight: Array, rect: Rect, sigma: float, skin: Array) -> Array:
    """The skin's colour around each place, from where the weight is; the person's own elsewhere."""
    base = np.float32(0.02)
    total = soft(weight, rect, sigma) + base
    values = soft(field * weight[..., None], rect, sigma) + base * skin
    return np.asarray(values / total[..., None], np.float32)


def shine_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shine."""
    around, field = _SHINE_AROUND_MM * px_per_mm, _SHINE_FIELD_MM * px_per_mm
    return soft_reach_of(around) + soft_reach_of(field) + _COARSE


def shade_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shadows."""
    around, field = _SHADE_AROUND_MM * px_per_mm, _SHADE_FIELD_MM * px_per_mm
    return 2 * soft_reach_of(around) + soft_reach_of(field) + _COARSE

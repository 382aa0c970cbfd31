"""Shine and shadows on skin: brought nearer to what the skin around them has."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import to_lab
from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.colour import beside_light_skin, moved, shade
from retouch.skin.own import OwnSkin, own_skin
from retouch.skin.smooth import (
    Cells,
    blurred_cells,
    cells_of,
    factor_of,
    places_near,
    reduced,
    soft,
    soft_reach_of,
    spread,
    spread_at,
)
from retouch.steps import smooth_step

Array = NDArray[np.float32]
Skin = Array | OwnSkin

# Shine is compared with skin around it over so many mm, shadows over so many.
_SHINE_AROUND_MM, _SHADE_AROUND_MM = 7.0, 9.0
# What is smaller than this is texture and stays.
_SHINE_FIELD_MM, _SHADE_FIELD_MM = 0.35, 1.2
_SHINE_WIDTH = 8.0
# Lit skin, too, pales from this L* on, towards white.
_PALING, _WHITE = np.float32(86), np.float32(102)
# Highlights and shadows are told from the skin around them on cells up to this size.
_SHINE_CELL_MM, _SHADE_CELL_MM = 0.5, 0.85
# Violet below the first is anybody's; more than the second isn't taken back.
_VIOLET_LEAST, _VIOLET_MOST = 0.5, 6.0
# So many L* of light skin go with one unit of violet (fitted to the demo portraits).
_VIOLET_DARK = 1.3
# Of one unit of violet so much is too much red, and so much too little yellow (fitted, too).
_VIOLET_RED, _VIOLET_BLUE = 0.35, 0.65
# Darker than this part of the person's L* it is brow, hair or the picture behind, not skin; from so
# much more on it surely is skin.
_DARKEST_SKIN, _SURELY = 0.5, 0.25
# Light whose sides differ from the middle by this much (L*) is soft, by twice as much hard.
_SOFT_LIGHT = 12.0
# Cells this far from being highlights have none between them, though colours between two of them may be paler
# than both.
_NEARLY = 0.5
# Slow changes are worked out on a grid so much coarser at most.
_COARSE = 8


def shine(lab: Lab, skin: Array, threshold: float) -> Array:
    """How much of each place is a highlight, (h, w) 0..1.

    A highlight adds the light's own colour to the skin's, so it is lighter and less saturated
    than the skin (S. A. Shafer, *Using color to separate reflection components*, Color Research
    and Application 10, 1985).
    """
    return smooth_step(_gloss(lab, skin, threshold))


def _gloss(lab: Lab, skin: Array, threshold: float) -> Array:
    """How far each colour is on the way to a highlight, (h, w): below 0 it is none, from 1 on it is one."""
    skin = np.asarray(skin, np.float32)
    skin = skin.reshape(1, 1, 3) if skin.ndim == 1 else skin
    # The same light lifts dark skin by less.
    least, more = (
        threshold * beside_light_skin(0.0),
        threshold * (beside_light_skin(1.0) - beside_light_skin(0.0)),
    )
    return _glossy(lab, skin, np.float32(least), np.float32(more))


@compiled
def _glossy(lab: Lab, skin: Array, least: np.float32, more: np.float32) -> Array:
    h, w, _ = lab.shape
    out = np.empty((h, w), np.float32)
    one = np.float32(1)
    even = skin.shape[0] == 1 and skin.shape[1] == 1
    for i in range(h):
        for j in range(w):
            si, sj = (0, 0) if even else (i, j)
            light, red, yellow = skin[si, sj, 0], skin[si, sj, 1], skin[si, sj, 2]
            own = max(np.sqrt(red * red + yellow * yellow), one)
            chroma = np.sqrt(lab[i, j, 1] * lab[i, j, 1] + lab[i, j, 2] * lab[i, j, 2])
            # The nearer to white, the less chroma a picture can hold.
            room = max(min((_WHITE - lab[i, j, 0]) / (_WHITE - _PALING), one), np.float32(0.3))
            pale = one - chroma / (own * room)
            pale = min(max(pale, np.float32(-0.5)), np.float32(0.6))
            # In light skin a highlight soon clips; there lightness alone has to tell.
            beyond = lab[i, j, 0] - light - least - more * light
            out[i, j] = (beyond + np.float32(14) * pale) / np.float32(_SHINE_WIDTH)
    return out


def less_shine(
    image: Working, rect: Rect, px_per_mm: float, skin: Skin, amount: float, threshold: float,
    inner: Rect | None = None, around: Cells | None = None,
) -> Array:  # fmt: skip
    """The image with highlights darkened towards the skin around and given its colour back.

    ``amount`` 0..1 is the part taken away; ``threshold`` (L*) how much lighter than the person's
    skin counts as shine; ``inner`` the part of ``rect`` that is given back; ``around`` what is
    further around it, if ``rect`` goes no further than `shine_near`.
    """
    inner = inner or rect
    own_colour = own_skin(skin)
    # What is around varies so slowly that a coarse grid has all of it.
    wanted = inner.grow(shine_reach(px_per_mm))
    seen = cells_of(image, rect, shine_cell(px_per_mm), around, wanted)
    small, cells, factor = to_lab(seen.image), seen.rect, seen.factor
    sigma = _SHINE_AROUND_MM * px_per_mm / factor
    there = _lit(own_colour, own_colour.over(cells, factor))
    dull = (1 - shine(small, there, threshold)) * _skin_like(small, there)
    values, coarse, more = _around(small, dull, cells, sigma, own_colour, factor)
    fine = _SHINE_FIELD_MM * px_per_mm
    near = inner.grow(soft_reach_of(fine)).clip(rect)
    own = np.array(image[inner.within(rect)], np.float32)
    size = factor_of(fine)
    small, near = reduced(image[near.within(rect)], near, size)
    field = blurred_cells(to_lab(small), fine, size)
    # Most of a face doesn't shine: only what can is looked at pixel by pixel.
    could = _gloss(field, _lit(own_colour, own_colour.over(near, size)), threshold) > -_NEARLY
    x0, y0 = inner.x0 - near.x0 * size, inner.y0 - near.y0 * size
    places = places_near(could, x0, y0, inner.height, inner.width, size)
    if not len(places):
        return own
    field = spread_at(field, near, inner, size, places)
    beside = spread_at(values, coarse, inner, factor * more, places)
    there = _lit(own_colour, own_colour.at_pixels(inner, places))
    change = _dulled(field, shine(field, there, threshold), beside, np.float32(amount))
    picked = own.reshape(-1, 3)
    picked[places] = moved(picked[places][None], change)[0]
    return own


def _lit(own: OwnSkin, there: Array) -> Array:
    """The skin that shine is held against: never darker than the person's own.

    In the shaded half there are lit places, too; they are no highlights. The harder the light, the
    more such a place is lit as the other side is.
    """
    if there.size == 3:
        return there
    hard = float(smooth_step(np.asarray((own.side[0] - _SOFT_LIGHT) / _SOFT_LIGHT, np.float32)))
    return _no_darker(there, np.float32(own.base[0] + hard * own.side[0]))


@compiled
def _no_darker(skin: Array, least: np.float32) -> Array:
    """Skin (h, w, 3) of this lightness at least, its colours in proportion to lightness."""
    h, w, _ = skin.shape
    out = np.empty((h, w, 3), np.float32)
    for i in range(h):
        for j in range(w):
            light = max(skin[i, j, 0], least)
            part = light / max(skin[i, j, 0], np.float32(1))
            out[i, j, 0] = light
            out[i, j, 1] = skin[i, j, 1] * part
            out[i, j, 2] = skin[i, j, 2] * part
    return out


def _skin_like(lab: Lab, skin: Array) -> Array:
    """How much each colour is light enough for the person's skin, (h, w) 0..1."""
    part = lab[..., 0] / np.maximum(skin[..., 0], 1)
    return smooth_step(np.asarray((part - _DARKEST_SKIN) / _SURELY, np.float32))


def _below(size: float) -> int:
    """The largest power of two up to a size, and to the coarsest grid."""
    factor = 1
    while 2 * factor <= min(size, _COARSE):
        factor *= 2
    return factor


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
    image: Working, rect: Rect, px_per_mm: float, skin: Skin, amount: float, least: float,
    inner: Rect | None = None, cast: float = 0.0, around: Cells | None = None,
) -> Array:  # fmt: skip
    """The image with dark places lifted towards the skin around, and their cast taken back.

    ``amount`` 0..1 is the most of a shadow that goes; ``least`` (L*) what is dark enough to count;
    ``cast`` 0..1 how much of a violet cast goes, with the dark that comes with it (`violet`);
    ``inner`` the part of ``rect`` that is given back; ``around`` what is further around it, if that
    isn't in ``rect``.
    """
    inner = inner or rect
    own_colour = own_skin(skin)
    # Shadows have no fine forms: they are found and measured on a coarse grid.
    wanted = inner.grow(shade_reach(px_per_mm))
    seen = cells_of(image, rect, shade_cell(px_per_mm), around, wanted)
    small, cells, factor = to_lab(seen.image), seen.rect, seen.factor
    scale = px_per_mm / factor
    field = soft(small, cells, _SHADE_FIELD_MM * scale)
    change = np.zeros_like(small)
    if amount:
        change = _lifting(field, cells, scale, own_colour, amount, least, factor)
    if cast:
        change += _cleared(field + change, own_colour.over(cells, factor), np.float32(cast))
    own = np.ascontiguousarray(image[inner.within(rect)])
    return moved(own, spread(change, cells, inner, factor))


def _lifting(
    field: Array, cells: Rect, scale: float, skin: OwnSkin, amount: float, least: float, factor: int
) -> Array:
    """The change that brings dark places nearer to what is around them."""
    broad = soft(field, cells, _SHADE_AROUND_MM * scale)
    dark = smooth_step((broad[..., 0] - field[..., 0] - least) / 6.0 + 0.5)
    values, coarse, more = _around(field, 1 - dark, cells, _SHADE_AROUND_MM * scale, skin, factor)
    around = spread(values, coarse, cells, more)
    depth = np.maximum(around[..., 0] - field[..., 0] - least, 0)
    share = smooth_step(depth / 4.0)
    change = np.zeros_like(field)
    change[..., 0] = amount * depth
    for k in (1, 2):
        # Bluish or violet: what the skin around has more of comes back.
        change[..., k] = amount * share * (around[..., k] - field[..., k])
    return change


def violet(field: Array, skin: Array) -> Array:
    """How violet each colour (h, w, 3) is beside the person's skin, in units of a* and b*.

    Veins that shine through thin skin make it redder and bluer at once, while shade leaves the hue
    as it is: that tells a dark circle from the hollow it lies in (vascular circles: F. M. Freitag,
    T. F. Cestari, *What causes dark circles under the eyes?*, Journal of Cosmetic Dermatology 6,
    2007; from memory). Skin in shade has its colours in proportion to lightness.
    """
    own = shade(field[..., 0], skin)
    redder = field[..., 1] - skin[..., 1] * own
    bluer = skin[..., 2] * own - field[..., 2]
    return np.asarray(redder + bluer, np.float32)


def _cleared(field: Array, skin: Array, cast: np.float32) -> Array:
    """The change that takes a part of the violet away, and of its dark."""
    much = cast * np.clip(violet(field, skin) - _VIOLET_LEAST, 0, _VIOLET_MOST)
    change = np.empty_like(field)
    # Less light is lost on skin that gives less back.
    change[..., 0] = _VIOLET_DARK * much * beside_light_skin(field[..., 0])
    change[..., 1] = -_VIOLET_RED * much
    change[..., 2] = _VIOLET_BLUE * much
    return change


def _around(
    field: Array, weight: Array, rect: Rect, sigma: float, skin: OwnSkin, cell: int
) -> tuple[Array, Rect, int]:
    """The skin's colour around each place, from where the weight is; the person's own elsewhere.

    It is given on a grid so many times coarser, with the rectangle of its cells; the field's own are
    ``cell`` pixels to a side.
    """
    base = np.float32(0.02)
    factor = factor_of(sigma)
    weighted, cells = reduced(field * weight[..., None], rect, factor)
    share = reduced(weight, rect, factor)[0].reshape(weighted.shape[:2])
    rest = float(np.sqrt(max(sigma**2 - (factor**2 - 1) / 12, 0.01))) / factor
    total = cv2.GaussianBlur(share, (0, 0), rest, borderType=cv2.BORDER_REFLECT) + base
    values = cv2.GaussianBlur(weighted, (0, 0), rest, borderType=cv2.BORDER_REFLECT)
    own = skin.over(cells, cell * factor)
    return np.asarray((values + base * own) / total[..., None], np.float32), cells, factor


def shine_cell(px_per_mm: float) -> int:
    """Pixels to a side of the cells on which shine is told from the skin around it."""
    return min(factor_of(_SHINE_AROUND_MM * px_per_mm), _below(_SHINE_CELL_MM * px_per_mm))


def shade_cell(px_per_mm: float) -> int:
    """The same for shadows."""
    return _below(_SHADE_CELL_MM * px_per_mm)


def shine_near(px_per_mm: float) -> int:
    """Pixels around a place that shine looks at where it is given what is further around."""
    return soft_reach_of(_SHINE_FIELD_MM * px_per_mm)


def shine_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shine."""
    around, field = _SHINE_AROUND_MM * px_per_mm, _SHINE_FIELD_MM * px_per_mm
    return soft_reach_of(around) + soft_reach_of(field) + _COARSE


def shade_reach(px_per_mm: float) -> int:
    """Pixels around a place that count for shadows."""
    around, field = _SHADE_AROUND_MM * px_per_mm, _SHADE_FIELD_MM * px_per_mm
    return 2 * soft_reach_of(around) + soft_reach_of(field) + _COARSE

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

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal.coarse import Grid
from retouch.processors import PARTS, at_once, edges

Array = NDArray[np.float32]

# What is surely the person, and surely not.
_SURE, _SURELY_NOT = 0.97, 0.03
# No hair reaches further from the outline than so many bands.
_BEYOND = 2.0
# A part of the person, or of what lies behind, that is no longer than so many bands and alone is none.
_ISLAND = 4.0
# Where there is no hair, this part of the band is unknown.
_HARD = 0.12
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


@dataclass(frozen=True)
class Sides:
    """What lies surely on which side of an outline, and the colours there.

    Attributes
    ----------
    image : ndarray (h, w, 3)
        Encoded 0..1, over ``rect``.
    person : ndarray (h, w)
        The rough outline, 0..1.
    kinds : ndarray (h, w) uint8
        0 surely behind, 1 unknown, 2 surely the person.
    colours : ndarray (rows, cols, 6)
        Means of the person's colours nearby, and of those behind, on the cells of ``grid``.
    thick : int
        What is wider than twice this is broad, pixels.
    """

    image: Array
    person: Array
    rect: Rect
    kinds: NDArray[np.uint8]
    grid: Grid
    colours: Array
    thick: int

    def _at(self, part: Rect) -> tuple[float, float, float, float]:
        """Where a part's first pixel lies in the cells, and how far the next is."""
        g = self.grid
        return (
            (part.y0 + 0.5 - g.rect.y0) / g.step_y - 0.5,
            (part.x0 + 0.5 - g.rect.x0) / g.step_x - 0.5,
            1 / g.step_y,
            1 / g.step_x,
        )

    def alpha(self, part: Rect) -> Array:
        """The person's part of each pixel of ``part``, which lies in ``rect``; (h, w) 0..1."""
        around = part.grow(self.thick * 2 + _CALM + 1).clip(self.rect)
        at = around.within(self.rect)
        kinds = np.ascontiguousarray(self.kinds[at])
        inner = part.within(around)
        if not (kinds == 1).any():
            return np.asarray(kinds[inner] == 2, np.float32)
        person = np.ascontiguousarray(self.person[at])
        image = np.ascontiguousarray(self.image[at], np.float32)
        kernel = np.ones((2 * self.thick + 1,) * 2, np.uint8)
        # A little beyond, too: what is broad goes on there.
        asked = cv2.dilate((kinds == 1).astype(np.uint8), kernel)
        raw = _told(image, person, asked, self.colours, self._at(around))
        # One pixel's noise is no hair; hairs are longer than that.
        alpha = 0.5 * raw + 0.5 * cv2.blur(raw, (2 * _CALM + 1,) * 2)
        # Outside of the rough outline there are single hairs; what is broad there lies behind, and is dark or
        # light by chance.
        broad = cv2.morphologyEx(alpha, cv2.MORPH_OPEN, kernel)
        parts = (np.ascontiguousarray(a[inner]) for a in (alpha, broad, person, kinds))
        return _ended(*parts)

    def own(self, part: Rect, alpha: Array) -> Array:
        """The person's own colours in ``part``, without what lies behind; (h, w, 3)."""
        at = part.within(self.rect)
        image = np.ascontiguousarray(self.image[at], np.float32)
        kinds = np.ascontiguousarray(self.kinds[at])
        return _without(image, np.ascontiguousarray(alpha), kinds, self.colours, self._at(part))


def reach(band: float) -> int:
    """Pixels around a place that are looked at, for a band so wide."""
    return int(np.ceil(band + 3 * _FAR * band)) + 2 + 2 * _cells(band)


def sides(
    image: Array, person: Array, band: float, rect: Rect | None = None, hairy: Array | None = None
) -> Sides:
    """What `matte` begins with; its parts can then be worked out one by one.

    Parameters and values as there; ``hairy`` (h, w) 0..1 says where hair is, so that other outlines are taken
    for hard ones. None: it may be anywhere.
    """
    rect = rect or Rect(0, 0, image.shape[1], image.shape[0])
    person = np.ascontiguousarray(person, np.float32)
    image = np.ascontiguousarray(image, np.float32)
    within = (person > 0.5).astype(np.uint8)
    near, hard = None, max(_HARD * band, 1.0)
    if hairy is not None:
        near = cv2.distanceTransform((hairy < 0.5).astype(np.uint8), cv2.DIST_L2, 5) <= band
    _without_islands(within, 1, _ISLAND * band)
    if near is not None:
        _without_islands(within, 0, _ISLAND * band, near)

    def sure(which: int) -> NDArray[np.bool_]:
        far = cv2.distanceTransform(within if which else 1 - within, cv2.DIST_L2, 5)
        told = (person > _SURE) if which else (person < _SURELY_NOT)
        # So far from the outline no hair reaches, however doubtful a place is; of cloth and skin next to nothing.
        known = (far > band) & (told | (far > _BEYOND * band))
        return np.asarray(known if near is None else known | (~near & (far > hard)))

    inside, outside = at_once(sure, (1, 0))
    kinds = np.ones(person.shape, np.uint8)
    kinds[inside] = 2
    kinds[outside] = 0
    factor = _cells(band)
    wide = rect.align(factor)
    grid = Grid(wide, wide.height // factor, wide.width // factor)
    sums = np.zeros((grid.rows, grid.cols, 8), np.float32)

    def gather(rows: tuple[int, int]) -> None:
        _gather(image, kinds, sums, rows[0], rows[1], factor, rect.y0 - wide.y0, rect.x0 - wide.x0)

    at_once(gather, edges(0, grid.rows, min(grid.rows, 4 * PARTS)))
    found = [_nearby(part, band / factor) for part in (sums[..., 4:], sums[..., :4])]
    colours = np.ascontiguousarray(np.concatenate(found, -1))
    return Sides(image, person, rect, kinds, grid, colours, max(1, round(_THICK * band)))


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
    found = sides(image, person, band, rect)
    alpha = found.alpha(found.rect)
    return Matte(alpha, found.own(found.rect, alpha))


def _without_islands(
    within: NDArray[np.uint8], which: int, size: float, kept: NDArray[np.bool_] | None = None
) -> None:
    """Takes islands of a value, no longer than ``size`` pixels, for what lies around them; in place."""
    count, places, stats, _ = cv2.connectedComponentsWithStats((within == which).astype(np.uint8))
    h, w = within.shape
    for n in range(1, count):
        x, y, wide, tall, _ = (int(v) for v in stats[n])
        # What goes on beyond the edge is longer than can be told.
        if max(wide, tall) > size or x == 0 or y == 0 or x + wide == w or y + tall == h:
            continue
        box = np.s_[y : y + tall, x : x + wide]
        if kept is None or not kept[box].any():
            within[box][places[box] == n] = 1 - which


def _nearby(both: Array, band: float) -> Array:
    """Mean colours of sure cells around each cell; from further away where none is near.

    ``both`` holds sums of colours and how much of each cell is sure; ``band`` is in cells.
    """
    near = _blur(both, _NEAR * band)
    far = _blur(both, _FAR * band)
    share = np.clip(near[..., 3:] / 0.02, 0, 1)
    mean, other = (part[..., :3] / np.maximum(part[..., 3:], 1e-6) for part in (near, far))
    return np.asarray(share * mean + (1 - share) * other, np.float32)


def _cells(band: float) -> int:
    """Pixels to a cell on which means over a band are worked out."""
    return 1 if _NEAR * band < 2 * _FINE else int(2 ** np.floor(np.log2(_NEAR * band / _FINE)))


def _blur(values: Array, sigma: float) -> Array:
    """Three box blurs: as good as a Gaussian (W. M. Wells, PAMI 1986), at any width at the same cost."""
    width = max(1, 2 * round(sigma * 0.98) + 1)
    for _ in range(3):
        values = cv2.blur(values, (width, width), borderType=cv2.BORDER_REPLICATE)
    return np.asarray(values, np.float32)


@compiled
def _gather(
    image: Array, kinds: NDArray[np.uint8], sums: Array, first: int, last: int, factor: int,
    y0: int, x0: int,
) -> None:  # fmt: skip
    """Means over rows of cells: colours of what is surely behind and its share, then the person's."""
    h, w = kinds.shape
    for row in range(first, last):
        top, end = max(row * factor - y0, 0), min((row + 1) * factor - y0, h)
        for y in range(top, end):
            for x in range(w):
                kind = kinds[y, x]
                if kind == 1:
                    continue
                cell = sums[row, (x + x0) // factor]
                n = 4 if kind == 2 else 0
                cell[n] += image[y, x, 0]
                cell[n + 1] += image[y, x, 1]
                cell[n + 2] += image[y, x, 2]
                cell[n + 3] += np.float32(1)
        for col in range(sums.shape[1]):
            wide = min((col + 1) * factor - x0, w) - max(col * factor - x0, 0)
            part = np.float32(1) / np.float32(max(wide * (end - top), 1))
            for k in range(8):
                sums[row, col, k] *= part


@compiled
def _colours_at(cells: Array, at_y: float, at_x: float, out: Array) -> None:
    """Colours of both sides at a place among cells, linearly between them."""
    rows, cols, _ = cells.shape
    at_y, at_x = min(max(at_y, 0.0), rows - 1.0), min(max(at_x, 0.0), cols - 1.0)
    top, left = min(int(at_y), max(rows - 2, 0)), min(int(at_x), max(cols - 2, 0))
    low, right = min(top + 1, rows - 1), min(left + 1, cols - 1)
    v, u = np.float32(at_y - top), np.float32(at_x - left)
    for k in range(6):
        upper = cells[top, left, k] + u * (cells[top, right, k] - cells[top, left, k])
        lower = cells[low, left, k] + u * (cells[low, right, k] - cells[low, left, k])
        out[k] = upper + v * (lower - upper)


@compiled
def _ramp(value: np.float32, low: float, high: float) -> np.float32:
    """0 below ``low``, 1 above ``high``, smoothly between."""
    t = min(max((value - np.float32(low)) / np.float32(high - low), np.float32(0)), np.float32(1))
    return t * t * (np.float32(3) - np.float32(2) * t)


@compiled
def _told(
    image: Array, person: Array, asked: NDArray[np.uint8], cells: Array,
    at: tuple[float, float, float, float],
) -> Array:  # fmt: skip
    """Where each pixel that is asked for lies between the colours of both sides, 0..1; others as they were."""
    h, w = asked.shape
    out = np.empty((h, w), np.float32)
    both = np.empty(6, np.float32)
    for y in range(h):
        for x in range(w):
            if asked[y, x] == 0:
                out[y, x] = person[y, x]
                continue
            _colours_at(cells, at[0] + y * at[2], at[1] + x * at[3], both)
            far = along = np.float32(0)
            for k in range(3):
                line = both[k] - both[3 + k]
                far += line * line
                along += (image[y, x, k] - both[3 + k]) * line
            along = min(max(along / (far + np.float32(1e-6)), np.float32(0)), np.float32(1))
            told = _ramp(np.sqrt(far), 0.5 * _APART, 2 * _APART)
            # Doubtful places among loose hair are more often what lies behind.
            before = _ramp(person[y, x], _DOUBTFUL, _CLEAR)
            out[y, x] = told * along + (np.float32(1) - told) * before
    return out


@compiled
def _ended(alpha: Array, broad: Array, person: Array, kinds: NDArray[np.uint8]) -> Array:
    """Alpha without what is broad outside, its ends made full."""
    h, w = kinds.shape
    out = np.empty((h, w), np.float32)
    one = np.float32(1)
    for y in range(h):
        for x in range(w):
            if kinds[y, x] != 1:
                value = one if kinds[y, x] == 2 else np.float32(0)
            else:
                outside = one - _ramp(person[y, x], _OUTSIDE[0], _OUTSIDE[1])
                value = alpha[y, x] - outside * broad[y, x]
            out[y, x] = min(max((value - np.float32(0.03)) / np.float32(0.94), np.float32(0)), one)
    return out


@compiled
def _without(
    image: Array, alpha: Array, kinds: NDArray[np.uint8], cells: Array,
    at: tuple[float, float, float, float],
) -> Array:  # fmt: skip
    """The person's colours in a mixture whose other part is known."""
    h, w = kinds.shape
    out = np.empty((h, w, 3), np.float32)
    both = np.empty(6, np.float32)
    for y in range(h):
        for x in range(w):
            a = alpha[y, x]
            if a >= 1 or kinds[y, x] == 0:
                for k in range(3):
                    out[y, x, k] = image[y, x, k]
                continue
            _colours_at(cells, at[0] + y * at[2], at[1] + x * at[3], both)
            weight = _ramp(a, 0.5 * _LEAST, 3 * _LEAST)
            for k in range(3):
                own = (image[y, x, k] - (np.float32(1) - a) * both[3 + k]) / max(
                    a, np.float32(_LEAST)
                )
                mixed = weight * own + (np.float32(1) - weight) * both[k]
                out[y, x, k] = min(max(mixed, np.float32(0)), np.float32(1))
    return out

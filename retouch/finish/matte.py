"""A matte: how much of each pixel is the person, hair by hair, and the person's own colours there.

Each pixel in the unknown band is a mixture I = a F + (1 - a) B of what lies on both its sides (T. Porter,
T. Duff, *Compositing Digital Images*, SIGGRAPH 1984). a is worked out of the whole picture, reduced
(`retouch.finish.closed_form`), and told at full size by lines in the colours. F and B are means of both sides
nearby, and F is moved by what they leave of I (M. Forte, *Approximate Fast Foreground Colour Estimation*, ICIP 2021).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.finish import closed_form
from retouch.geometry import Rect
from retouch.processors import at_once

Array = NDArray[np.float32]

# What is surely the person, and surely not.
_SURE, _SURELY_NOT = 0.97, 0.03
# No hair reaches further from the outline than so many bands.
_BEYOND = 2.0
# A part of the person, or of what lies behind, that is no longer than so many bands and alone is none; nor is a
# part of the person that has no more than this part of the largest.
_ISLAND, _SPECK = 4.0, 0.005
# Where there is no hair, this part of the band is unknown.
_HARD = 0.12
# The picture is reduced until the band has from so many to twice as many pixels, and there are no more than that.
_BAND, _MOST = 8.0, 2_000_000
# Colours of both sides are means over so many widths of the band; over more where there are none near.
_NEAR, _FAR = 0.3, 1.0
# Blurs keep so many pixels to their sigma.
_FINE = 1.2
# Sides are compared over so much wider means; that far apart (encoded) their colours tell all.
_WIDER, _APART = 3.0, 0.07
# What the rough outline counts beside one window of colours that tell, and of colours that don't.
_ROUGH, _ROUGH_ALONE = 1e-2, 1.0
# So much of a stroke's cover says for sure what a place is; its soft rim leaves it open.
_SAID = np.float32(0.75)
# What is told to be so little or so much of the person is none or all of it.
_END = np.float32(0.03)


@dataclass(frozen=True)
class Matte:
    """The matte of a whole picture, as it is told at any size.

    Attributes
    ----------
    lines : ndarray (h, w, 4)
        Alpha as a line in the colours, on the picture reduced by 2 to the power ``level``.
    sides : ndarray (h, w, 6)
        The person's colours nearby, and of what lies behind, there.
    """

    lines: Array
    sides: Array
    level: int

    @property
    def nbytes(self) -> int:
        return self.lines.nbytes + self.sides.nbytes

    def _at(self, part: Rect, level: int) -> tuple[float, float, float]:
        """Where the first pixel of a part lies on the reduced picture, and how far the next is."""
        step = 2.0 ** (level - self.level)
        return (part.y0 + 0.5) * step - 0.5, (part.x0 + 0.5) * step - 0.5, step

    def alpha(self, image: Array, part: Rect, level: int) -> Array:
        """The person's part of each pixel; (h, w) 0..1.

        ``image`` (h, w, 3), encoded 0..1, lies over ``part``, in pixels of ``level``.
        """
        return _told(np.ascontiguousarray(image, np.float32), self.lines, self._at(part, level))

    def own(self, image: Array, alpha: Array, part: Rect, level: int) -> Array:
        """The person's own colours, without what lies behind; (h, w, 3). Parameters as of `alpha`."""
        image = np.ascontiguousarray(image, np.float32)
        return _without(image, np.ascontiguousarray(alpha), self.sides, self._at(part, level))


def level_of(band: float, size: tuple[int, int]) -> int:
    """The level on which a matte is worked out: ``band`` in pixels of the original, which has a ``size``."""
    level = 0
    while band / 2 ** (level + 1) >= _BAND or size[0] * size[1] / 4**level > _MOST:
        level += 1
    return level


def matte(
    image: Array, person: Array, band: float, level: int = 0, hairy: Array | None = None,
    hand: Array | None = None,
) -> Matte:  # fmt: skip
    """The matte of a whole picture that was reduced by 2 to the power ``level``.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1.
    person : ndarray (h, w) float32
        How surely each place is the person, 0..1, roughly.
    band : float
        Pixels to each side of the outline in which hair is looked for.
    hairy : ndarray (h, w) float32, optional
        Where hair is, 0..1, so that other outlines are taken for hard ones. None: it may be anywhere.
    hand : ndarray (h, w) float32, optional
        What was said by hand: 1 behind, -1 the person, 0 nothing. It is known, whatever the colours tell.
    """
    image = np.ascontiguousarray(image, np.float32)
    person = np.ascontiguousarray(person, np.float32)
    kinds = kinds_of(person, max(band, 1.0), hairy)
    if hand is not None:
        kinds[hand > _SAID] = 0
        kinds[hand < -_SAID] = 2
    alpha = closed_form.solved(image, kinds, person, _trust(image, kinds, max(band, 1.0)))

    def told(which: int) -> Array:
        if which == 0:
            return closed_form.lines(image, alpha)
        return _nearby(image, alpha if which == 1 else 1 - alpha, max(band, 1.0))

    lines, own, behind = at_once(told, (0, 1, 2))
    return Matte(lines, np.ascontiguousarray(np.concatenate([own, behind], -1)), level)


def kinds_of(person: Array, band: float, hairy: Array | None = None) -> NDArray[np.uint8]:
    """What lies surely on which side of an outline: 0 behind, 1 unknown, 2 the person; (h, w).

    Parameters as of `matte`.
    """
    within = (person > 0.5).astype(np.uint8)
    near, hard = None, max(_HARD * band, 1.0)
    if hairy is not None:
        near = cv2.distanceTransform((hairy < 0.5).astype(np.uint8), cv2.DIST_L2, 5) <= band
    _without_islands(within, 1, _ISLAND * band)
    if near is not None:
        _without_islands(within, 0, _ISLAND * band, near)
    kinds = np.ones(person.shape, np.uint8)
    for which, kind in ((1, 2), (0, 0)):
        far = cv2.distanceTransform(within if which else 1 - within, cv2.DIST_L2, 5)
        told = (person > _SURE) if which else (person < _SURELY_NOT)
        # So far from the outline no hair reaches, however doubtful a place is; of cloth and skin next to nothing.
        known = (far > band) & (told | (far > _BEYOND * band))
        if near is not None:
            known |= ~near & (far > hard)
        kinds[known] = kind
    return kinds


def _trust(image: Array, kinds: NDArray[np.uint8], band: float) -> Array:
    """What the rough outline counts: more where both sides have the same colours; (h, w)."""
    h, w = kinds.shape
    # Means so wide are the same of a reduced picture.
    factor = max(1, int(_WIDER * _NEAR * band / _FINE / 2))
    small = (max(w // factor, 1), max(h // factor, 1))
    less = cv2.resize(image, small, interpolation=cv2.INTER_AREA)

    def side(kind: int) -> Array:
        share = cv2.resize((kinds == kind).astype(np.float32), small, interpolation=cv2.INTER_AREA)
        return _nearby(less, share, _WIDER * band / factor)

    own, behind = at_once(side, (2, 0))
    far = np.sqrt(((own - behind) ** 2).sum(-1))
    alike = np.clip((_APART - far) / (0.75 * _APART), 0, 1).astype(np.float32)
    trust = np.asarray(_ROUGH * (_ROUGH_ALONE / _ROUGH) ** alike, np.float32)
    return np.asarray(cv2.resize(trust, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def _without_islands(
    within: NDArray[np.uint8], which: int, size: float, kept: NDArray[np.bool_] | None = None
) -> None:
    """Takes islands of a value, no longer than ``size`` pixels, for what lies around them; in place."""
    count, places, stats, _ = cv2.connectedComponentsWithStats((within == which).astype(np.uint8))
    h, w = within.shape
    speck = _SPECK * stats[1:, cv2.CC_STAT_AREA].max(initial=0) if which else 0
    for n in range(1, count):
        x, y, wide, tall, area = (int(v) for v in stats[n])
        # What goes on beyond the edge is longer than can be told.
        if (
            (max(wide, tall) > size and area > speck)
            or x == 0
            or y == 0
            or x + wide == w
            or y + tall == h
        ):
            continue
        box = np.s_[y : y + tall, x : x + wide]
        if kept is None or not kept[box].any():
            within[box][places[box] == n] = 1 - which


def _nearby(image: Array, share: Array, band: float) -> Array:
    """Mean colours of one side around each pixel, from further away where none is near; (h, w, 3).

    What is hardly of that side counts next to nothing.
    """
    weight = (share * share * share * share)[..., None]
    both = cv2.merge([image * weight, weight])
    near, far = _blur(both, _NEAR * band), _blur(both, _FAR * band)
    return _mixed(near, far)


@compiled
def _mixed(near: Array, far: Array) -> Array:
    """Means of sums by their weight, which comes last; of those from afar where near ones have none."""
    h, w, _ = near.shape
    out = np.empty((h, w, 3), np.float32)
    one, least = np.float32(1), np.float32(1e-6)
    for y in range(h):
        for x in range(w):
            known = min(near[y, x, 3] / np.float32(0.02), one)
            for k in range(3):
                mean = near[y, x, k] / max(near[y, x, 3], least)
                other = far[y, x, k] / max(far[y, x, 3], least)
                out[y, x, k] = known * mean + (one - known) * other
    return out


def _blur(values: Array, sigma: float) -> Array:
    """Three box blurs: as good as a Gaussian (W. M. Wells, PAMI 1986); a broad one of a reduced picture."""
    h, w = values.shape[:2]
    factor = 1
    while sigma / (2 * factor) >= _FINE:
        factor *= 2
    if factor > 1:
        small = (max(w // factor, 1), max(h // factor, 1))
        values = cv2.resize(values, small, interpolation=cv2.INTER_AREA)
    width = max(1, 2 * round(sigma / factor * 0.98) + 1)
    for _ in range(3):
        values = cv2.blur(values, (width, width), borderType=cv2.BORDER_REPLICATE)
    if factor > 1:
        values = cv2.resize(values, (w, h), interpolation=cv2.INTER_LINEAR)
    return np.asarray(values, np.float32)


@compiled
def _row(cells: Array, at_y: float, out: Array) -> None:
    """A row of values at a height among the rows of cells, linearly between two of them."""
    rows, cols, depth = cells.shape
    at_y = min(max(at_y, 0.0), rows - 1.0)
    top = min(int(at_y), max(rows - 2, 0))
    low = min(top + 1, rows - 1)
    v = np.float32(at_y - top)
    for x in range(cols):
        for k in range(depth):
            out[x, k] = cells[top, x, k] + v * (cells[low, x, k] - cells[top, x, k])


@compiled
def _told(image: Array, lines: Array, at: tuple[float, float, float]) -> Array:
    """Alpha by its lines, its ends made full."""
    h, w, _ = image.shape
    cols = lines.shape[1]
    out = np.empty((h, w), np.float32)
    row = np.empty((cols, 4), np.float32)
    one = np.float32(1)
    for y in range(h):
        _row(lines, at[0] + y * at[2], row)
        for x in range(w):
            at_x = min(max(at[1] + x * at[2], 0.0), cols - 1.0)
            left = min(int(at_x), max(cols - 2, 0))
            right, u = min(left + 1, cols - 1), np.float32(at_x - left)
            value = row[left, 3] + u * (row[right, 3] - row[left, 3])
            for k in range(3):
                slope = row[left, k] + u * (row[right, k] - row[left, k])
                value += slope * image[y, x, k]
            out[y, x] = min(max((value - _END) / (one - _END - _END), np.float32(0)), one)
    return out


@compiled
def _without(image: Array, alpha: Array, sides: Array, at: tuple[float, float, float]) -> Array:
    """The person's colours in a mixture whose other part is known."""
    h, w, _ = image.shape
    cols = sides.shape[1]
    out = np.empty((h, w, 3), np.float32)
    row = np.empty((cols, 6), np.float32)
    one = np.float32(1)
    for y in range(h):
        begun = False
        for x in range(w):
            a = alpha[y, x]
            if a >= one or a <= 0:
                for k in range(3):
                    out[y, x, k] = image[y, x, k]
                continue
            if not begun:
                _row(sides, at[0] + y * at[2], row)
                begun = True
            at_x = min(max(at[1] + x * at[2], 0.0), cols - 1.0)
            left = min(int(at_x), max(cols - 2, 0))
            right, u = min(left + 1, cols - 1), np.float32(at_x - left)
            for k in range(3):
                own = row[left, k] + u * (row[right, k] - row[left, k])
                behind = row[left, 3 + k] + u * (row[right, 3 + k] - row[left, 3 + k])
                rest = image[y, x, k] - a * own - (one - a) * behind
                out[y, x, k] = min(max(own + a * rest, np.float32(0)), one)
    return out

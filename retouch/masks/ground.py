"""The areas of a mask, combined, grown and feathered, at any level of the picture."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab
from retouch.colour.lab import to_lab
from retouch.colour.likeness import nearness, saturation, within
from retouch.compiled import compiled
from retouch.edit.mask import (
    Area,
    Face,
    GradientArea,
    Mask,
    OutlineArea,
    RangeArea,
    ZoneArea,
)
from retouch.edit.values import Side
from retouch.geometry import EMPTY, Rect
from retouch.picture import Pyramid
from retouch.steps import smooth_step

Array = NDArray[np.float32]

# Outlines are drawn in so many lines for each row of pixels.
_FINER = 4
# A Gaussian edge goes from 2.3 % to 97.7 % within 4 sigma; that is called the feather's width.
_SIGMAS = 4.0
# Narrower edges than this sigma (pixels) are as sharp as pixels allow; above the other, blurs are
# made on a reduced mask.
_LEAST_SIGMA, _REDUCED_FROM = 0.2, 8.0
# Blurs look at so many sigma to each side: what lies beyond counts less than a 16-bit step.
_KERNEL = 4.3
# In a range, a difference of lightness counts half: the same skin lies in light and in shade.
_LIGHT_WEIGHT = 0.5


class Zones(Protocol):
    """Where the zones of the faces lie; ``key`` changes whenever an answer may."""

    @property
    def key(self) -> str: ...

    def cover(self, zone: str, face: Face, rect: Rect, shape: tuple[int, int]) -> Array:
        """Coverage 0..1 of a rectangle of the original on (rows, cols); face None: everyone's."""
        ...

    def half(self, side: Side, face: Face, rect: Rect, shape: tuple[int, int]) -> Array:
        """Coverage 0..1 of one half of a face, by its middle line; as `cover`."""
        ...

    def knows(self, face: Face) -> bool:
        """Whether this person is there."""
        ...

    def extent(self, zone: str, face: Face) -> Rect | None:
        """A rectangle outside of which a zone covers nothing; None: not known."""
        ...


@dataclass(frozen=True)
class Drawn:
    """What a zone covers over a rectangle of a level, (h, w) 0..1; nothing beyond it."""

    rect: Rect
    cover: Array

    @property
    def nbytes(self) -> int:
        return self.cover.nbytes


# Zones by the area that names them (`as_drawn`), each drawn at least as far as it is asked for.
Covers = Mapping[ZoneArea, Drawn]


def ground(mask: Mask, rect: Rect, level: int, pyramid: Pyramid, zones: Covers) -> Array:
    """The mask without its strokes over ``rect`` (pixels of ``level``), (h, w) float32, 0..1.

    A pixel has the same value whatever rectangle is asked for. ``zones``: those that the mask names, over
    what is `looked_at`; one that isn't there covers nothing. The result isn't to be modified.
    """
    feathered, wide = _looked_at(mask, rect, level, pyramid)
    scale = 1.0 / (1 << level)
    grow, sigma = mask.grow_px * scale, mask.feather_px / _SIGMAS * scale
    cover = combined(mask.areas, wide, level, pyramid, zones)
    if mask.invert:
        cover = 1 - cover
    if grow:
        cover = grown(cover, grow)[feathered.within(wide)]
    if sigma > _LEAST_SIGMA:
        cover = blurred(cover, sigma)[rect.within(feathered)]
    return np.ascontiguousarray(cover)


def looked_at(mask: Mask, rect: Rect, level: int, pyramid: Pyramid) -> Rect:
    """Over what areas are drawn for a mask over a rectangle (pixels of ``level``)."""
    return _looked_at(mask, rect, level, pyramid)[1]


def _looked_at(mask: Mask, rect: Rect, level: int, pyramid: Pyramid) -> tuple[Rect, Rect]:
    """Over what a mask is feathered, and over what it is grown before."""
    scale = 1.0 / (1 << level)
    grow, sigma = mask.grow_px * scale, mask.feather_px / _SIGMAS * scale
    limits = pyramid.picture.bounds.reduced(level)
    feathered = _room(rect, sigma).clip(limits) if sigma > _LEAST_SIGMA else rect
    return feathered, feathered.grow(int(np.ceil(abs(grow))) + 2).clip(
        limits
    ) if grow else feathered


def _room(rect: Rect, sigma: float) -> Rect:
    """What a blur (`blurred`) of a rectangle looks at, beginning where its cells do."""
    factor = _cells(sigma)
    return rect.grow(int(np.ceil(_KERNEL * sigma)) + 2 * factor).align(factor)


def combined(
    areas: tuple[Area, ...], rect: Rect, level: int, pyramid: Pyramid, zones: Covers
) -> Array:
    """The areas joined one after the other."""
    size = (rect.height, rect.width)
    if not areas:
        return np.ones(size, np.float32)
    out = np.full(size, 0 if areas[0].way == "add" else 1, np.float32)
    for area in areas:
        here, part = _drawn(area, rect, level, pyramid, zones)
        if area.invert or area.way == "cross":
            # What is beyond counts, too.
            whole = np.zeros(size, np.float32)
            whole[here.within(rect)] = part
            here, part = rect, 1 - whole if area.invert else whole
        own = out[here.within(rect)]
        if area.way == "add":
            np.maximum(own, part, out=own)
        else:
            own *= part if area.way == "cross" else 1 - part
    return out


def _drawn(
    shape: Area, rect: Rect, level: int, pyramid: Pyramid, zones: Covers
) -> tuple[Rect, Array]:
    """What an area covers of a part of a rectangle; nothing of the rest."""
    size = 1 << level
    if isinstance(shape, ZoneArea):
        found = zones.get(as_drawn(shape))
        here = found.rect.clip(rect) if found is not None else EMPTY
        if found is None or here.empty:
            return Rect(rect.x0, rect.y0, rect.x0, rect.y0), np.zeros((0, 0), np.float32)
        return here, found.cover[here.within(found.rect)]
    if isinstance(shape, OutlineArea):
        return rect, _outline(shape, rect, 1 / size)
    if isinstance(shape, GradientArea):
        return rect, _gradient(shape, rect, size)
    return rect, in_range(to_lab(pyramid.crop(rect, level)), shape)


def as_drawn(area: ZoneArea) -> ZoneArea:
    """The area as it is drawn, however it is joined with others."""
    return replace(area, way="add", invert=False)


def reach_of(area: ZoneArea, rect: Rect, level: int, zones: Zones) -> Rect:
    """The part of ``rect`` (pixels of ``level``) beyond which a zone covers nothing."""
    reach = zones.extent(area.zone, area.face)
    return rect if reach is None else reach.reduced(level).grow(1).clip(rect)


def drawn_zone(area: ZoneArea, here: Rect, level: int, zones: Zones) -> Array:
    """What a zone covers of a rectangle (pixels of ``level``) within its reach."""
    size = 1 << level
    full = Rect(here.x0 * size, here.y0 * size, here.x1 * size, here.y1 * size)
    shape = (here.height, here.width)
    cover = zones.cover(area.zone, area.face, full, shape)
    if area.side != "both":
        cover = cover * zones.half(area.side, area.face, full, shape)
    return cover if area.share == 100 else cover * np.float32(area.share / 100)


def in_range(lab: Lab, shape: RangeArea) -> Array:
    """How far CIELAB colours (h, w, 3) lie in a range, (h, w) 0..1."""
    out = within(lab[..., 0], shape.light, (0, 100))
    if shape.saturation != (0.0, 100.0):
        out = out * within(saturation(lab), shape.saturation, (0, 100))
    if shape.colours:
        samples = np.asarray(shape.colours, np.float32)
        out = out * nearness(lab, samples, shape.tolerance, shape.softness / 100, _LIGHT_WEIGHT)
    return np.asarray(out, np.float32)


def _outline(shape: OutlineArea, rect: Rect, scale: float) -> Array:
    sigma = shape.feather_px / _SIGMAS * scale
    wide = _room(rect, sigma) if sigma > _LEAST_SIGMA else rect
    xs, ys = (np.asarray(shape.points) * scale).T
    cover = np.zeros((wide.height, wide.width), np.float32)
    _fill(cover, np.ascontiguousarray(xs), np.ascontiguousarray(ys), wide.x0, wide.y0)
    return blurred(cover, sigma)[rect.within(wide)] if sigma > _LEAST_SIGMA else cover


@compiled
def _fill(
    cover: Array, xs: NDArray[np.float64], ys: NDArray[np.float64], left: int, top: int
) -> None:
    """Add the inside of a closed outline (even-odd) to a cover whose corner lies at left, top.

    Exact along x, in `_FINER` lines along y; the same in any rectangle, as OpenCV's polygons,
    which are clipped at their canvas first, aren't.
    """
    h, w = cover.shape
    count = len(xs)
    found = np.empty(count, np.float64)
    for line in range(h * _FINER):
        y = top + (line + 0.5) / _FINER
        n = 0
        for i in range(count):
            j = i + 1 if i + 1 < count else 0
            if (ys[i] <= y) != (ys[j] <= y):
                found[n] = xs[i] + (y - ys[i]) * (xs[j] - xs[i]) / (ys[j] - ys[i])
                n += 1
        found[:n].sort()
        row = cover[line // _FINER]
        for k in range(0, n - 1, 2):
            start, end = max(found[k] - left, 0.0), min(found[k + 1] - left, float(w))
            for x in range(int(start), min(int(end) + 1, w)):
                part = min(end, x + 1.0) - max(start, float(x))
                if part > 0:
                    row[x] += np.float32(part / _FINER)


def _gradient(shape: GradientArea, rect: Rect, size: int) -> Array:
    xs = (np.arange(rect.x0, rect.x1, dtype=np.float32) + 0.5) * size - shape.start[0]
    ys = (np.arange(rect.y0, rect.y1, dtype=np.float32) + 0.5) * size - shape.start[1]
    dx, dy = shape.end[0] - shape.start[0], shape.end[1] - shape.start[1]
    long = float(np.hypot(dx, dy))
    if shape.round:
        along = np.hypot(xs[None, :], ys[:, None]) / long
    else:
        along = (xs[None, :] * dx + ys[:, None] * dy) / long**2
    return 1 - smooth_step(np.asarray(along, np.float32))


def grown(cover: Array, by: float) -> Array:
    """The mask with its edge (where it is one half) moved outwards by so many pixels."""
    inside = (cover >= 0.5).astype(np.uint8)
    if by > 0:
        away = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        return np.maximum(cover, np.clip(by + 1 - away, 0, 1))
    deep = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.minimum(cover, np.clip(deep + by, 0, 1))


def _cells(sigma: float) -> int:
    """Pixels along a side of the cells that a blur is made in."""
    factor = 1
    while sigma / factor > _REDUCED_FROM:
        factor *= 2
    return factor


def blurred(cover: Array, sigma: float) -> Array:
    """A Gaussian blur; a wide one is made in cells, which it leaves nothing of to see.

    The cells begin with the array: where parts of a picture have to agree it begins at a multiple
    of their size (`_room`).
    """
    factor = _cells(sigma)
    if factor == 1:
        return _soft(cover, sigma)
    h, w = cover.shape
    padded = cv2.copyMakeBorder(cover, 0, -h % factor, 0, -w % factor, cv2.BORDER_REPLICATE)
    small = cv2.resize(
        padded,
        (padded.shape[1] // factor, padded.shape[0] // factor),
        interpolation=cv2.INTER_AREA,
    )
    small = _soft(small, float(np.sqrt(sigma**2 - (factor**2 - 1) / 12)) / factor)
    large = cv2.resize(small, (padded.shape[1], padded.shape[0]), interpolation=cv2.INTER_LINEAR)
    return large[:h, :w]


def _soft(cover: Array, sigma: float) -> Array:
    size = 2 * int(np.ceil(_KERNEL * sigma)) + 1
    return cv2.GaussianBlur(cover, (size, size), sigma, borderType=cv2.BORDER_REPLICATE)

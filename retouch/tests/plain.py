"""A plain renderer to compare with: each pass applied to the whole picture, nothing kept."""

from __future__ import annotations

import numpy as np

from retouch.colour.blend import blend
from retouch.colour.curve import looked_up
from retouch.edit import Edit, Pass
from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.memory import Memory
from retouch.passes import registry
from retouch.passes.ways import Curve, Place
from retouch.picture import Pyramid
from retouch.picture.pyramid import reduce
from retouch.render.chain import COARSER
from retouch.render.mixing import add_into, bend_into, mix_into
from retouch.skin.smooth import Cells


def rendered(pyramid: Pyramid, edit: Edit, zones: object = None) -> list[np.ndarray]:
    """The whole edited picture at full size and at the two levels above it."""
    bounds = pyramid.picture.bounds
    images = [pyramid.crop(bounds.reduced(n), n).copy() for n in range(3)]
    for one in edit.passes:
        if not one.on or one.strength == 0:
            continue
        changes = _changes(one, images[0], bounds)
        images = [
            _with_pass(one, images, level, changes, pyramid, zones) for level in range(len(images))
        ]
    return images


def _with_pass(one, images, level, changes, pyramid, zones):
    """A pass over the whole picture at a level; ``images`` is what is below it on all levels."""
    kind, image = registry.kind(one.kind), images[level]
    out = image.copy()
    rect = pyramid.picture.bounds.reduced(level)
    cover = Masks(pyramid, Memory(0)).draw(one.mask, rect, level, zones)
    share = one.strength / 100
    if cover is not None:
        share = cover if share == 1.0 else share * cover
    here = (slice(0, rect.height), slice(0, rect.width))
    if kind.touches is not None:
        if one.blend == "normal":
            return _added(out, changes, level, share)
        above = np.clip(_added(out.copy(), changes, level, 1.0), 0, 1)
        return out + (blend(one.blend, np.clip(out, 0, 1), above) - out) * share
    values = kind.values(one)
    if isinstance(kind.way, Curve) and one.blend == "normal":
        table = kind.way.table(values, False)
        if table is not None:
            bend_into(out, here, table, share)
        return out
    if isinstance(kind.way, Curve):
        table = kind.way.table(values, False)
        above = image if table is None else looked_up(image, table)
    else:
        broad, around = kind.broad(values), None
        if broad is not None and broad.level >= level + COARSER:
            cells = pyramid.picture.bounds.reduced(broad.level)
            around = Cells(images[broad.level], cells, 1 << (broad.level - level))
        above = kind.way.make(image, values, Place(rect, level, rect, around=around))
    mix_into(out, here, above, one.blend, share)
    return out


def _added(out, changes, level, share):
    size = 1 << level
    for rect, change in changes:
        wide = rect.align(size)
        padded = np.zeros((wide.height, wide.width, 3), np.float32)
        padded[rect.within(wide)] = change
        at = rect.reduced(level)
        add_into(out, reduce(padded, level), at.y0, at.x0, share)
    return out


def _changes(one: Pass, below: np.ndarray, bounds: Rect) -> list[tuple[Rect, np.ndarray]]:
    """What the touches of a pass change at full size, each seeing those before it."""
    kind = registry.kind(one.kind).touches
    if kind is None:
        return []
    image, out = below.copy(), []
    values = registry.kind(one.kind).values(one)
    for touch in one.touches:
        if not touch.enabled:
            continue
        rect = kind.writes(touch, bounds)
        seen = np.clip(image, 0, 1)
        change = kind.render(
            lambda r, seen=seen: seen[r.y0 : r.y1, r.x0 : r.x1].copy(), touch, values, bounds
        )
        out.append((rect, change))
        add_into(image, change, rect.y0, rect.x0, 1.0)
    return out

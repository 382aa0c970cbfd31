"""What the passes of an edit move, and how much of it their masks let through."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Pass
from retouch.geometry import Rect
from retouch.masks import Zones
from retouch.passes import registry
from retouch.passes.ways import Shape
from retouch.render.stock import Stock
from retouch.shape.composed import Composed, Cover, Move, composed
from retouch.shape.lines import Line, straightened
from retouch.warp.field import Field
from retouch.warp.places import at_places
from retouch.warp.steps import Points

# Masks are looked at in pixels of so many of the original.
_LEVEL = 1

# How much a mask lets through at places of the original, and a name for that.
Covering = Callable[[Mask], tuple[str, Cover]]


def shaping(edit: Edit) -> list[Pass]:
    """The passes that move something, the lowest first."""
    return [p for p in edit.passes if p.acts and registry.kind(p.kind).shape]


def lines_of(edit: Edit) -> list[Line]:
    """The lines that have to stay straight."""
    return [
        (*t.path[n], *t.path[n + 1])
        for t in edit.touches_of("straight_lines")
        for n in range(len(t.path) - 1)
    ]


def moves_of(edit: Edit, covering: Covering | None = None) -> list[Move]:
    """All that an edit moves, in order."""
    out = []
    guarded = lines_of(edit)
    lines = f"{guarded}" if guarded else ""

    def guard(field: Field, below: Composed) -> Field:
        return straightened(field, below, guarded)

    for one in shaping(edit):
        kind = registry.kind(one.kind)
        assert isinstance(kind.way, Shape)
        name, cover = covering(one.mask) if covering is not None else ("", None)
        out += [
            replace(
                move,
                key=f"{move.key}|{name}|{lines}",
                share=one.share,
                cover=cover,
                guard=guard if guarded else None,
            )
            for move in kind.way.moves(one, kind.values(one))
        ]
    return out


def shape_of(edit: Edit, covering: Covering | None = None) -> Composed:
    """What an edit moves, as one map."""
    return composed(moves_of(edit, covering))


def covering_of(stock: Stock, zones: Zones | None) -> Covering:
    """What masks let through on a picture whose zones are known, or not (None)."""

    def covering(mask: Mask) -> tuple[str, Cover]:
        if not (mask.areas or mask.invert or mask.strokes):
            return "", None

        def cover(points: Points) -> NDArray[np.float64]:
            low, high = points.min(0), points.max(0)
            size = 1 << _LEVEL
            rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high) + 1)))
            rect = rect.clip(stock.bounds).align(size).clip(stock.bounds)
            if rect.empty:
                return np.ones(len(points))
            drawn = stock.masks.draw(mask, rect.reduced(_LEVEL), _LEVEL, zones)
            if drawn is None:
                return np.ones(len(points))
            x, y = (
                ((points[:, k] - corner) / size - 0.5).astype(np.float32)
                for k, corner in ((0, rect.x0), (1, rect.y0))
            )
            flat = np.ascontiguousarray(drawn[..., 0], np.float32)
            return np.asarray(at_places(flat, x, y), np.float64)

        return f"{mask.key}|{zones.key if zones is not None and mask.zones else ''}", cover

    return covering

"""The frame of an edit, and the pixels of a screen's view in it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Frame
from retouch.render.grid import ViewGrid, check_view, further
from retouch.render.shaping import Covering, shape_of
from retouch.warp import Framing, Warp
from retouch.warp.field import Field
from retouch.warp.frame import Wish, framed
from retouch.warp.resample import REACH, Nodes, nodes, resampled, resampled_quickly

# Local changes of scale up to this one need no wider kernel.
_EVEN = 1.15
# Reductions up to this one are taken for none; larger ones are softened before by a part of their
# step (0.45 agreed best with a finished file scaled down).
_SAME, _SOFTEN = 1.05, 0.45
# Maps that are kept, with what they tell of themselves.
_KEPT = 16


def framing_of(edit: Edit, bounds: Rect) -> Framing:
    """The frame that the passes of an edit give; of several the last one's."""
    for one in reversed(edit.passes):
        way = registry.kind(one.kind).way
        if isinstance(way, Frame) and one.on:
            return framed(way.wish(one.settings), bounds)
    return framed(Wish(), bounds)


def frame_alone(edit: Edit) -> Edit:
    """The edit of the picture as it was photographed, in an edit's frame."""
    return Edit(tuple(p for p in edit.passes if registry.kind(p.kind).frame))


def warp_of(edit: Edit, bounds: Rect, covering: Covering | None = None) -> Warp:
    """The map from the framed picture of an edit to its original.

    ``covering`` says how much masks let through; without it they hold nothing.
    """
    warp = framing_of(edit, bounds).warp
    fields = shape_of(edit, covering).fields
    return _with_fields(warp, fields) if fields else warp


@lru_cache(_KEPT)
def _with_fields(warp: Warp, fields: tuple[Field, ...]) -> Warp:
    """A warp that moves parts of the picture before it frames it; the same ones give the same map."""
    steps = (*warp.steps, *reversed(fields))
    return Warp(warp.bounds, warp.width, warp.height, steps, warp.beyond)


@dataclass(frozen=True)
class _InFrame:
    """A view of a framed picture.

    See `ViewGrid` for the parameters; ``x``, ``y`` are in pixels of the framed picture.
    """

    warp: Warp
    x: float
    y: float
    scale: float
    width: int
    height: int
    highest: int


class _OfAnother(_InFrame):
    """A view that is another one, its pixels laid otherwise: it needs what that one needs."""

    @property
    def inner(self) -> ViewGrid | TurnedGrid | WarpedGrid:
        """The other view."""
        raise NotImplementedError

    @property
    def level(self) -> int:
        return self.inner.level

    @property
    def rect(self) -> Rect:
        return self.inner.rect


class TurnedGrid(_OfAnother):
    """A view of a picture of which whole pixels are moved: a plain view of the original, turned."""

    @cached_property
    def inner(self) -> ViewGrid:
        """The same view before it is turned and mirrored."""
        whole = self.warp.whole_pixels
        assert whole is not None
        end = (self.x + self.width / self.scale, self.y + self.height / self.scale)
        corners = self.warp.to_original(np.array([(self.x, self.y), end]))
        left, top = corners.min(0)
        size = (self.width, self.height)
        if whole.turns % 2:
            size = (self.height, self.width)
        return ViewGrid(float(left), float(top), self.scale, *size, self.warp.bounds, self.highest)

    def laid(self, area: NDArray[Any], quick: bool = False) -> NDArray[Any]:
        """Pixels of ``rect`` on the screen's own."""
        whole = self.warp.whole_pixels
        assert whole is not None
        return whole.laid(self.inner.laid(area))


class WarpedGrid(_InFrame):
    """A view of a warped picture: what it needs of the original, and one resampling."""

    @cached_property
    def _fitting(self) -> int:
        return max(0, math.floor(math.log2(self.warp.ratio / self.scale) + 1e-9))

    @cached_property
    def level(self) -> int:
        """The level of the original with as many pixels as the screen, or up to twice as many."""
        return min(self._fitting, self.highest)

    @cached_property
    def rect(self) -> Rect:
        """What the view needs of the level, with what the kernel looks at."""
        seen = Rect(
            math.floor(self.x), math.floor(self.y),
            math.ceil(self.x + self.width / self.scale),
            math.ceil(self.y + self.height / self.scale),
        )  # fmt: skip
        more = (REACH + 2) << max(0, self._fitting - self.level)
        limits = self.warp.bounds.reduced(self.level)
        return self.warp.reads(seen).reduced(self.level).grow(more).clip(limits)

    def _nodes(self, size: int) -> Nodes:
        """The map to a level of the original whose pixels are so large."""
        start = (round(self.x * self.scale), round(self.y * self.scale))
        return nodes(
            lambda points: self.warp.to_original(points) / size,
            start, (self.width, self.height), 1 / self.scale,
        )  # fmt: skip

    def laid(self, area: NDArray[Any], quick: bool = False) -> NDArray[Any]:
        """Pixels of ``rect`` on the screen's own; ``quick``: linear between pixels.

        Where the frame reaches beyond the picture, masks are 0.
        """
        area, corner, level = further(area, self.rect, self.level, self._fitting)
        size = 1 << level
        at = self._nodes(size)
        typical = self.warp.ratio / (self.scale * size)
        area = _softened(area, typical)
        across = at.across / max(typical, 1.0)
        at = Nodes(
            at.places, np.where(across > _EVEN, across, 1.0),
            at.left, at.top, at.width, at.height,
        )  # fmt: skip
        place = (float(corner.x0), float(corner.y0))
        out = (resampled_quickly if quick else resampled)(area, place, at)
        return beyond(out, at, self.warp, size, typical)


def _softened(area: NDArray[Any], step: float) -> NDArray[Any]:
    """An area softened so that a sharp kernel that steps over its pixels doesn't alias."""
    if step <= _SAME:
        return area
    width = _SOFTEN * math.sqrt(step * step - 1)
    reach = 2 * math.ceil(2.5 * width) + 1
    return np.asarray(cv2.GaussianBlur(area, (reach, reach), width))


class ShapedGrid(_OfAnother):
    """A view of a picture of which parts are moved: the view without that, its pixels moved.

    What isn't moved is as in the view without moves, bit for bit; a file is resampled once from the
    original instead (`render.export`).
    """

    @cached_property
    def _at(self) -> Nodes:
        """Where the pixels of the moving part come from, in pixels of the view without moves."""
        moved, s = self._moved, self.scale
        flat, warp = self.warp.flat, self.warp

        def back(points: NDArray[Any]) -> NDArray[Any]:
            there = flat.to_result(warp.to_original(points))
            return np.asarray((there - (self.x, self.y)) * s)

        # Nodes are fixed to the framed picture, so that parts of a view agree with the whole.
        left, top = round(self.x * s), round(self.y * s)
        shift = np.array([left / s - self.x, top / s - self.y])
        return nodes(
            lambda points: back(points - shift), (left + moved.x0, top + moved.y0),
            (moved.width, moved.height), 1 / s, _node_cell(warp.cell * s),
        )  # fmt: skip

    @cached_property
    def _margin(self) -> int:
        """How far around the view its pixels come from. Between nodes the map is linear: they tell all."""
        places = self._at.places.reshape(-1, 2)
        low, high = places.min(0), places.max(0)
        beyond = np.concatenate([-low, high - (self.width, self.height)])
        looked_at = math.ceil(REACH * float(self._at.across.max()))
        return math.ceil(max(float(beyond.max()), 0.0)) + looked_at + 2

    @cached_property
    def inner(self) -> ViewGrid | TurnedGrid | WarpedGrid:
        """The view without moves, with all around that moves into it."""
        m, view = 0 if self._moved.empty else self._margin, (self.width, self.height)
        width, height = (n + 2 * m for n in view)
        x, y = self.x - m / self.scale, self.y - m / self.scale
        return flat_grid(self.warp.flat, x, y, self.scale, width, height, self.highest)

    @cached_property
    def _moved(self) -> Rect:
        """The part of the view that moves, in its pixels."""
        r, s = self.warp.moving, self.scale
        own = Rect(
            math.floor((r.x0 - self.x) * s) - 2, math.floor((r.y0 - self.y) * s) - 2,
            math.ceil((r.x1 - self.x) * s) + 2, math.ceil((r.y1 - self.y) * s) + 2,
        )  # fmt: skip
        return own.clip(Rect(0, 0, self.width, self.height)) if not r.empty else r

    def laid(self, area: NDArray[Any], quick: bool = False) -> NDArray[Any]:
        """Pixels of ``rect`` on the screen's own."""
        plain = self.inner.laid(area, quick)
        moved = self._moved
        if moved.empty:
            return plain
        m = self._margin
        out = np.ascontiguousarray(plain[m : m + self.height, m : m + self.width])
        made = (resampled_quickly if quick else resampled)(plain, (-float(m), -float(m)), self._at)
        out[moved.y0 : moved.y1, moved.x0 : moved.x1] = made
        return out


def _node_cell(wanted: float) -> int:
    """A power of two from 2 to 16 near a distance of nodes in pixels."""
    return int(2 ** np.clip(np.floor(np.log2(max(wanted, 1.0)) + 0.5), 1, 4))


Grid = ViewGrid | TurnedGrid | WarpedGrid | ShapedGrid


def grid_for(
    warp: Warp, x: float, y: float, scale: float, width: int, height: int, highest: int
) -> Grid:
    """The grid of a view of a framed picture; `ViewError` for a view that shows nothing."""
    check_view(x, y, scale, width, height, warp.frame)
    if warp.fields:
        return ShapedGrid(warp, x, y, scale, width, height, highest)
    return flat_grid(warp, x, y, scale, width, height, highest)


def flat_grid(
    warp: Warp, x: float, y: float, scale: float, width: int, height: int, highest: int
) -> ViewGrid | TurnedGrid | WarpedGrid:
    """The grid of a view of a picture in which nothing is moved."""
    if warp.identity:
        return ViewGrid(x, y, scale, width, height, warp.bounds, highest)
    made = TurnedGrid if warp.whole_pixels is not None else WarpedGrid
    return made(warp, x, y, scale, width, height, highest)


def beyond(
    image: NDArray[Any], at: Nodes, warp: Warp, size: int = 1, step: float = 1.0
) -> NDArray[Any]:
    """An image with what shows where the frame reaches beyond the picture.

    ``at`` maps to pixels of a level that are ``size`` large; ``step`` is how far the map goes over
    one pixel.
    """
    if warp.beyond == "edge":
        return image
    x, y = at.spread()
    limits = warp.bounds
    inside = np.minimum(
        np.minimum(x, np.float32(limits.width / size) - x),
        np.minimum(y, np.float32(limits.height / size) - y),
    )
    share = np.clip(inside / np.float32(max(step, 1.0)) + 0.5, 0, 1)
    if share.min() >= 1:
        return image
    if image.ndim == 2:
        return np.asarray(image * share, image.dtype)
    grey = np.float32(warp.beyond)
    if image.dtype == np.float32:
        return np.asarray(grey + (image - grey) * share[..., None], np.float32)
    top = np.float32(np.iinfo(image.dtype).max)
    mixed = grey * top + (image - grey * top) * share[..., None]
    return np.asarray(cv2.convertScaleAbs(mixed) if top == 255 else mixed + 0.5, image.dtype)

"""Fill: a place replaced by what should be behind it, made from its surroundings."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Touch
from retouch.errors import EditError
from retouch.fill import fill
from retouch.geometry import Rect
from retouch.guidance import prepare
from retouch.heal import Footprint
from retouch.passes.brush import footprint
from retouch.passes.patch import outlined, spared
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.turning import SETTINGS as TURNING
from retouch.passes.turning import mirrored_values, source_reader, source_reads
from retouch.passes.ways import Array, Reader, Touches, Values
from retouch.progress import report

if TYPE_CHECKING:
    from retouch.face import Analysis
    from retouch.picture import Pyramid

TOUCH = (
    Setting("shape", "Shape", "A stroke of the brush, or the inside of an outline.", type="choice",
            default="brush", choices=("brush", "outline")),
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("seed", "Try", "Another number gives another plausible result.", low=0.0, high=9999.0,
            default=0.0, step=1.0),
    Setting("opacity", "Opacity", "How much of what is filled in shows.", default=100.0, unit="%"),
    *TURNING,
)  # fmt: skip

# Surroundings on each side, as a part of the place's larger side, but no more than so many times the
# depth of a thin one, or these pixels: as far as its sources lie; and in pixels.
_AROUND, _PER_DEPTH, _THIN = 1.2, 5.5, 128.0
_LEAST_AROUND, _MOST_AROUND = 48, 700
# The place is filled this many pixels beyond the brush, and fades out over them.
_RIM = 2.0
# A place wider than this part of the picture leaves too little to draw from.
_WIDEST = 0.5


def place_of(touch: Touch) -> Footprint:
    """Where a touch fills."""
    if touch.values["shape"] == "outline":
        return outlined(touch.path, 0.0)
    return footprint(touch.path, float(touch.values["radius_px"]))


def writes(touch: Touch, bounds: Rect) -> Rect:
    return place_of(touch).bounds.grow(math.ceil(_RIM)).clip(bounds)


def _around(touch: Touch, bounds: Rect) -> Rect:
    own = writes(touch, bounds)
    deep = max(_PER_DEPTH * place_of(touch).radius, _THIN)
    margin = round(min(_AROUND * max(own.width, own.height), deep, _MOST_AROUND))
    return own.grow(max(margin, _LEAST_AROUND)).clip(bounds)


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    rect = _around(touch, bounds)
    if rect.empty:
        return []
    if touch.source is None:
        return [rect]
    there = rect.shift(*touch.source)
    own = source_reads([there], touch, place_of(touch), touch.source, bounds)
    return [rect, *(r.clip(bounds) for r in own if r.meets(bounds))]


def _model(
    read: Reader, touch: Touch, place: Footprint, rect: Rect, source: tuple[int, int], bounds: Rect
) -> Array:
    """What lies at the touch's source, turned and mirrored as the touch says."""
    there = rect.shift(*source)
    taken = source_reader(read, touch, place, source, bounds)
    if taken is not read:
        return taken(there)
    inner = there.clip(bounds)
    sides = (inner.y0 - there.y0, there.y1 - inner.y1, inner.x0 - there.x0, there.x1 - inner.x1)
    return cv2.copyMakeBorder(np.ascontiguousarray(read(inner)), *sides, cv2.BORDER_REFLECT)


def _doubtful(
    touch: Touch, place: Footprint, rect: Rect, source: tuple[int, int], bounds: Rect
) -> NDArray[np.bool_]:
    """Where the model shows the place itself, for an eye's other half is mirrored onto it, or what isn't
    drawn from."""

    def own(area: Rect) -> Array:
        hole = ((place.beyond(area) <= _RIM) | spared(touch, area)).astype(np.float32)
        return np.ascontiguousarray(np.repeat(hole[..., None], 3, axis=2))

    return np.asarray(_model(own, touch, place, rect, source, bounds)[..., 0] > 0.01)


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    place, own = place_of(touch), writes(touch, bounds)
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    if own.width > _WIDEST * bounds.width and own.height > _WIDEST * bounds.height:
        raise EditError("This place is too large to fill: too little of the picture is left.")
    rect = _around(touch, bounds)
    area = read(rect)
    beyond = place.beyond(rect)
    hole = beyond <= _RIM
    model = doubtful = None
    if touch.source is not None and rect.shift(*touch.source).meets(bounds):
        model = _model(read, touch, place, rect, touch.source, bounds)
        if touch.elsewhere is None:
            doubtful = _doubtful(touch, place, rect, touch.source, bounds)
    refused, seed = spared(touch, rect), int(touch.values["seed"])
    filled = fill(area, hole, refused, seed, report, model, doubtful)
    cover = np.clip(1 - beyond / np.float32(_RIM), 0, 1) * (float(touch.values["opacity"]) / 100)
    change = (filled - area) * cover[..., None].astype(np.float32)
    rows = slice(own.y0 - rect.y0, own.y1 - rect.y0)
    return np.ascontiguousarray(change[rows, own.x0 - rect.x0 : own.x1 - rect.x0])


def _prepare(analysis: Analysis, touch: Touch, pyramid: Pyramid) -> Touch:
    """A touch that keeps from other zones, and begins with the other side of the face if it may."""
    prepared, other = prepare(
        analysis, touch, place_of(touch), _around(touch, pyramid.picture.bounds), pyramid
    )
    if other is None:
        return prepared
    values = {**prepared.values, **mirrored_values(other.degrees, other.size)}
    return replace(prepared, values=values, source=other.source)


FILL = register(
    PassKind(
        name="fill",
        title="Fill",
        meaning="Places replaced by what should be behind them.",
        stage="clear",
        usual_name="Fills",
        way=Touches(TOUCH, writes, reads, render, place_of, slow=True, prepare=_prepare),
    )
)

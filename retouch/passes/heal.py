"""Heal: a spot or stroke replaced by clean skin from nearby."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from retouch import heal
from retouch.edit.model import Touch
from retouch.edit.values import Point
from retouch.geometry import Rect
from retouch.guidance import keep_to_zone
from retouch.heal import Footprint
from retouch.heal.order import outside_in
from retouch.memory import Part, shared
from retouch.passes.banded import FITTED, banded, banded_reads
from retouch.passes.banded import SETTINGS as BANDED
from retouch.passes.brush import footprint as footprint_at
from retouch.passes.brush import footprint_of, offsets, source_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.turning import SETTINGS as TURNING
from retouch.passes.turning import source_reader, source_reads
from retouch.passes.ways import Array, Avoid, Reader, Touches, Values

SETTINGS = (
    Setting(
        "keep_edges",
        "Keep edges",
        "Lips, brows and hairlines that reach into the brush from outside stay as they are.",
        type="switch",
        default=True,
    ),
    *BANDED,
)

TOUCH = (
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "Part of the radius over which the brush fades.",
            default=20.0, unit="%"),
    Setting("opacity", "Opacity", "How much of the healed place shows.", default=100.0, unit="%"),
    *TURNING,
)  # fmt: skip

# The most of the memory that studies of places may take.
_SHARE = 0.03
_Outlines = tuple[tuple[Point, ...], ...]


@lru_cache(maxsize=8192)
def _reads(
    path: tuple[Point, ...], radius: float, source: tuple[int, int], bounds: Rect
) -> tuple[Rect, ...]:
    return tuple(heal.read_rects(footprint_at(path, radius), source, bounds))


@lru_cache(maxsize=8192)
def _writes(path: tuple[Point, ...], radius: float, bounds: Rect) -> Rect:
    return heal.write_rect(footprint_at(path, radius), bounds)


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    rects = _reads(touch.path, float(touch.values["radius_px"]), source_of(touch), bounds)
    place, source = footprint_of(touch), source_of(touch)
    return banded_reads(source_reads(list(rects), touch, place, source, bounds), settings, bounds)


def writes(touch: Touch, bounds: Rect) -> Rect:
    return _writes(touch.path, float(touch.values["radius_px"]), bounds)


def _examine(read: Reader, footprint: Footprint, bounds: Rect, spare: _Outlines) -> heal.Study:
    """`heal.examine`, remembered: a source is proposed, and healed from, right after."""
    area = read(heal.ring_rect(footprint, bounds))
    key = (footprint, bounds, spare)
    studies: Part[heal.Study] = shared().part("studies", _SHARE)
    known = studies.peek(key)
    if known is None or not np.array_equal(known.area, area):
        known = heal.examine(lambda rect: area, footprint, bounds, spare)
        studies.put(key, known)
    return known


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    footprint = footprint_of(touch)
    read = banded(read, settings, bounds)
    change = heal.heal(
        read,
        footprint,
        source_of(touch),
        bounds,
        softness=float(touch.values["softness"]) / 100,
        keep_edges=bool(settings["keep_edges"]),
        view=_examine(read, footprint, bounds, touch.spare),
        source_read=source_reader(read, touch, footprint, source_of(touch), bounds),
    )
    return change * (float(touch.values["opacity"]) / 100)


def _read_once(read: Reader, whole: Rect) -> Reader:
    """A reader that has read a rectangle already and gives parts of it."""
    pixels = None if whole.empty else read(whole)

    def part(rect: Rect) -> Array:
        if pixels is None or rect.clip(whole) != rect:
            return read(rect)
        return np.ascontiguousarray(pixels[rect.within(whole)])

    return part


def propose(
    read: Reader,
    touch: Touch,
    settings: Values,
    bounds: Rect,
    most: int,
    avoid: Avoid | None = None,
) -> list[tuple[int, int]]:
    footprint = footprint_of(touch)
    read = _read_once(banded(read, settings, bounds), heal.search_rect(footprint, bounds))
    view = _examine(read, footprint, bounds, touch.spare)
    return offsets(heal.propose(read, footprint, bounds, most, avoid, view))


HEAL = register(
    PassKind(
        name="heal",
        title="Heal",
        meaning="Spots and strokes replaced by clean skin from nearby.",
        stage="clear",
        settings=SETTINGS,
        fitted=FITTED,
        usual_name="Skin spots",
        zone_name="{zone}",
        way=Touches(
            TOUCH,
            writes,
            reads,
            render,
            footprint_of,
            propose,
            copies=True,
            clears=True,
            prepare=lambda analysis, touch, pyramid: keep_to_zone(
                analysis, touch, footprint_of(touch), pyramid.picture.bounds
            ),
            afresh=True,
            order=outside_in,
        ),
    )
)

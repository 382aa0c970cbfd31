"""Clone: a plain copy from another place, for edges, patterns, hair and cloth."""

from __future__ import annotations

from retouch.edit.model import Touch
from retouch.geometry import Rect
from retouch.heal import clone as cloning
from retouch.heal.copying import read_rects
from retouch.passes.banded import FITTED, banded, banded_reads
from retouch.passes.banded import SETTINGS as BANDED
from retouch.passes.brush import footprint_of, proposing, source_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.turning import SETTINGS as TURNING
from retouch.passes.turning import source_reader, source_reads
from retouch.passes.ways import Array, Reader, Touches, Values

TOUCH = (
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "Part of the radius over which the brush fades.",
            default=40.0, unit="%"),
    Setting("opacity", "Opacity", "The most that a stroke copies.", default=100.0, unit="%"),
    Setting("flow", "Flow", "How much each dab along the stroke lays down of what is missing.",
            low=1.0, default=100.0, unit="%"),
    *TURNING,
)  # fmt: skip


def writes(touch: Touch, bounds: Rect) -> Rect:
    return footprint_of(touch).bounds.clip(bounds)


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    place, source = footprint_of(touch), source_of(touch)
    rects = source_reads(read_rects(place, source, bounds), touch, place, source, bounds)
    return banded_reads(rects, settings, bounds)


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    place, source = footprint_of(touch), source_of(touch)
    read = banded(read, settings, bounds)
    change = cloning(
        read,
        place,
        source,
        bounds,
        softness=float(touch.values["softness"]) / 100,
        flow=float(touch.values["flow"]) / 100,
        source_read=source_reader(read, touch, place, source, bounds),
    )
    return change * (float(touch.values["opacity"]) / 100)


CLONE = register(
    PassKind(
        name="clone",
        title="Clone",
        meaning="Plain copies from another place, for edges, patterns, hair and cloth.",
        stage="clear",
        settings=BANDED,
        fitted=FITTED,
        usual_name="Copies",
        way=Touches(
            TOUCH, writes, reads, render, footprint_of, proposing(footprint_of), copies=True
        ),
    )
)

"""Patch: an outlined area replaced by another place, blended in or copied plainly."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch import heal
from retouch.edit.model import Touch
from retouch.edit.values import Point
from retouch.geometry import Rect
from retouch.heal import copying
from retouch.passes.banded import FITTED, banded, banded_reads
from retouch.passes.banded import SETTINGS as BANDED
from retouch.passes.brush import proposing, source_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.turning import SETTINGS as TURNING
from retouch.passes.turning import source_reader, source_reads
from retouch.passes.ways import Array, Reader, Touches, Values

TOUCH = (
    Setting("way", "Way", "Blended: texture from the source, tone and light from around; "
            "or copied as it is.", type="choice", default="blend", choices=("blend", "copy")),
    Setting("feather_px", "Soft edge", "Width inside of the outline over which the patch fades.",
            low=0.0, high=400.0, default=6.0, step=0.5, unit="px"),
    Setting("opacity", "Opacity", "How much of the patch shows.", default=100.0, unit="%"),
    *TURNING,
)  # fmt: skip


@lru_cache(maxsize=1024)
def outlined(path: tuple[Point, ...], feather: float) -> heal.Outline:
    """The outline through a path; remembered, because every view asks for it."""
    return heal.outline(path, feather)


def spared(touch: Touch, rect: Rect) -> NDArray[np.bool_]:
    """What of a rectangle a touch draws nothing from: inside of its ``spare`` outlines, (h, w)."""
    canvas = np.zeros((rect.height, rect.width), np.uint8)
    for corners in touch.spare:
        points = np.asarray(corners, np.float64) - (rect.x0, rect.y0) - 0.5
        cv2.fillPoly(canvas, [np.round(points).astype(np.int32)], 1)
    return canvas.astype(np.bool_)


def outline_of(touch: Touch) -> heal.Outline:
    """The outlined place of a touch."""
    return outlined(touch.path, float(touch.values["feather_px"]))


def writes(touch: Touch, bounds: Rect) -> Rect:
    return heal.write_rect(outline_of(touch), bounds)


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    place, source = outline_of(touch), source_of(touch)
    rects = copying.read_rects if touch.values["way"] == "copy" else heal.read_rects
    own = source_reads(rects(place, source, bounds), touch, place, source, bounds)
    return banded_reads(own, settings, bounds)


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    place, source = outline_of(touch), source_of(touch)
    read = banded(read, settings, bounds)
    taken = source_reader(read, touch, place, source, bounds)
    if touch.values["way"] == "copy":
        change = heal.clone(read, place, source, bounds, source_read=taken)
    else:
        change = heal.heal(read, place, source, bounds, source_read=taken)
    return change * (float(touch.values["opacity"]) / 100)


def _hint(read: Reader, touch: Touch, bounds: Rect) -> str | None:
    if touch.values["way"] != "blend" or not heal.crosses_edge(read, outline_of(touch), bounds):
        return None
    return (
        "The outline lies on a strong edge, whose colour can bleed in. "
        "Draw it beside the edge, or copy instead of blending."
    )


PATCH = register(
    PassKind(
        name="patch",
        title="Patch",
        meaning="Outlined areas replaced by another place of the picture.",
        stage="clear",
        settings=BANDED,
        fitted=FITTED,
        usual_name="Patches",
        way=Touches(
            TOUCH,
            writes,
            reads,
            render,
            outline_of,
            proposing(outline_of),
            least_points=3,
            copies=True,
            hint=_hint,
        ),
    )
)

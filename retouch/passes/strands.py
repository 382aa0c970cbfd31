"""Strands: single hairs, threads and lint taken away, each along its own line.

What lies in a touch's ``spare`` outlines stays as it is: strands that are kept where this one crosses them.
"""

from __future__ import annotations

import math

import numpy as np

from retouch.edit.model import Touch
from retouch.fill.thin import BEYOND, replaced
from retouch.geometry import Rect
from retouch.passes.brush import footprint_of
from retouch.passes.patch import spared
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

_TOUCH = (
    Setting("radius_px", "Width", "Half the width that goes.", low=0.5, high=40.0, default=2.5,
            step=0.5, unit="px"),
    Setting("feather_px", "Feather", "Over so many pixels beyond its width and at its ends it fades.",
            low=0.5, high=10.0, default=1.0, step=0.5, unit="px"),
    Setting("opacity", "Strength", "How much of the strand goes.", default=100.0, unit="%"),
)  # fmt: skip


def _feather(touch: Touch) -> float:
    return float(touch.values["feather_px"])


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return footprint_of(touch).bounds.grow(math.ceil(_feather(touch))).clip(bounds)


def _around(touch: Touch, bounds: Rect) -> Rect:
    radius = float(touch.values["radius_px"])
    beside = math.ceil(max(2 * radius + BEYOND, radius + _feather(touch) + 1))
    return footprint_of(touch).bounds.grow(beside).clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_around(touch, bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own, rect = _writes(touch, bounds), _around(touch, bounds)
    if own.empty or rect.width < 2 or rect.height < 2:
        return np.zeros((max(own.height, 0), max(own.width, 0), 3), np.float32)
    area = np.clip(read(rect), 0, 1)
    line = np.asarray(touch.path, np.float64) - (rect.x0, rect.y0)
    made, _ = replaced(area, line, float(touch.values["radius_px"]), _feather(touch))
    change = (made - area) * np.float32(float(touch.values["opacity"]) / 100)
    if touch.spare:
        change[spared(touch, rect)] = 0
    return np.ascontiguousarray(change[own.within(rect)], np.float32)


_WAY = Touches(_TOUCH, _writes, _reads, _render, footprint_of)

STRANDS = register(
    PassKind(
        name="strands",
        title="Strands cleared",
        meaning="Single hairs replaced by what lies on both their sides.",
        stage="shape",
        usual_name="Strands cleared",
        way=_WAY,
    )
)

LINT = register(
    PassKind(
        name="lint",
        title="Lint cleared",
        meaning="Threads on cloth replaced by what lies on both their sides.",
        stage="shape",
        usual_name="Lint cleared",
        way=_WAY,
    )
)

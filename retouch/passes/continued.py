"""Teeth continued: brackets, wires and stains replaced by the teeth that go on behind them."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from retouch.edit.model import Touch
from retouch.face.outlines import outlines
from retouch.features.continued import continued
from retouch.geometry import Rect
from retouch.passes.patch import outlined, spared
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

if TYPE_CHECKING:
    from retouch.face import Analysis
    from retouch.picture import Pyramid

# Surroundings on each side, as a part of the place's larger side, and in pixels.
_AROUND, _LEAST_AROUND = 0.6, 10
# It fades in over so many pixels beyond its outline.
_RIM = 1.5
# Less of a tooth than this is none.
_TOOTH = 0.4

_TOUCH = (
    Setting("opacity", "Strength", "How much of what is continued shows.", default=100.0, unit="%"),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return outlined(touch.path, 0.0).bounds.grow(math.ceil(_RIM)).clip(bounds)


def _around(touch: Touch, bounds: Rect) -> Rect:
    own = outlined(touch.path, 0.0).bounds
    around = max(_LEAST_AROUND, math.ceil(_AROUND * max(own.width, own.height)))
    return own.grow(around).clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_around(touch, bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own = _writes(touch, bounds)
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    rect = _around(touch, bounds)
    area = np.clip(read(rect), 0, 1)
    beyond = outlined(touch.path, 0.0).beyond(rect)
    refused = spared(touch, rect)
    made = continued(np.ascontiguousarray(area, np.float32), beyond <= _RIM, refused)
    cover = np.clip(1 - beyond / np.float32(_RIM), 0, 1)
    # Beside the outline, lips stay whole.
    cover = np.where(refused & (beyond > 0), 0, cover) * float(touch.values["opacity"]) / 100
    change = (made - area) * cover[..., None].astype(np.float32)
    return np.ascontiguousarray(change[own.within(rect)], np.float32)


def _prepare(analysis: Analysis, touch: Touch, pyramid: Pyramid) -> Touch:
    """A touch that is told nothing by what isn't a tooth, as far as teeth are known there."""
    rect = _around(touch, pyramid.picture.bounds)
    if rect.empty or touch.spare:
        return touch
    shape = (rect.height, rect.width)
    teeth = analysis.mask(("teeth",), rect, shape) > _TOOTH
    inside = outlined(touch.path, 0.0).beyond(rect) <= _RIM
    if not (teeth & ~inside).any():
        return touch
    return replace(touch, spare=tuple(outlines(~(teeth | inside), rect, 4.0)[:8]))


CONTINUED = register(
    PassKind(
        name="continued",
        title="Teeth continued",
        meaning="Brackets, wires or stains replaced by the teeth that go on behind them.",
        stage="features",
        usual_name="Teeth continued",
        zone_name="Teeth continued",
        way=Touches(
            _TOUCH, _writes, _reads, _render, lambda t: outlined(t.path, 0.0), least_points=3,
            prepare=_prepare,
        ),
    )
)  # fmt: skip

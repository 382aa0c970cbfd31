"""Stains taken out of cloth: tone and colour of what is around, their own weave."""

from __future__ import annotations

import math

import numpy as np

from retouch.edit.model import Touch
from retouch.features import stain
from retouch.geometry import Rect
from retouch.passes.patch import outlined
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

# It fades in over so many pixels beyond its outline.
_RIM = 2.0

_TOUCH = (
    Setting("weave_px", "Weave", "Width of what counts as weave and stays.", low=1.0, high=100.0,
            default=4.0, step=0.5, unit="px"),
    Setting("opacity", "Strength", "How much of the stain goes.", default=100.0, unit="%"),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return outlined(touch.path, 0.0).bounds.grow(math.ceil(_RIM)).clip(bounds)


def _around(touch: Touch, bounds: Rect) -> Rect:
    beside = stain.reach(float(touch.values["weave_px"]))
    return outlined(touch.path, 0.0).bounds.grow(beside).clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_around(touch, bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own = _writes(touch, bounds)
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    rect = _around(touch, bounds)
    area = np.ascontiguousarray(np.clip(read(rect), 0, 1), np.float32)
    beyond = np.asarray(outlined(touch.path, 0.0).beyond(rect), np.float32)
    made = stain.unstained(area, rect, beyond, float(touch.values["weave_px"]))
    cover = np.clip(1 - beyond / np.float32(_RIM), 0, 1) * float(touch.values["opacity"]) / 100
    change = (made - area) * cover[..., None].astype(np.float32)
    return np.ascontiguousarray(change[own.within(rect)], np.float32)


STAIN = register(
    PassKind(
        name="stain",
        title="Stains taken out",
        meaning="Tone and colour of the cloth around an outlined stain; its weave stays.",
        stage="shape",
        usual_name="Stains taken out",
        way=Touches(
            _TOUCH, _writes, _reads, _render, lambda t: outlined(t.path, 0.0), least_points=3
        ),
    )
)

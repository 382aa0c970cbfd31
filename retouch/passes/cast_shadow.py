"""Cast shadow: the shadow of an outlined thing lifted from the face beside it."""

from __future__ import annotations

import math

import numpy as np

from retouch.edit.model import Touch
from retouch.features import cast_shadow
from retouch.geometry import Rect
from retouch.passes.patch import outlined
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

# A soft shadow ends so many times its softness away.
_REACH = 3.0
_LEAST = 0.01

_TOUCH = (
    Setting("amount", "Lifted", "How much of the light that the shadow takes comes back.",
            default=100.0, unit="%"),
    Setting("dark", "Dark", "The part of the light that the shadow takes.", low=0.0,
            high=100 * cast_shadow.DEEPEST, default=25.0, step=1.0, unit="%"),
    Setting("across_px", "Across", "How far the shadow lies to the right of the thing.", low=-500.0,
            high=500.0, default=0.0, step=0.5, unit="px"),
    Setting("down_px", "Down", "How far the shadow lies below the thing.", low=-500.0, high=500.0,
            default=0.0, step=0.5, unit="px"),
    Setting("soft_px", "Soft", "How softly it ends.", low=0.5, high=200.0, default=10.0, step=0.5,
            unit="px"),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    v = touch.values
    reach = math.ceil(_REACH * float(v["soft_px"])) + 1
    own = outlined(touch.path, 0.0).bounds
    return (
        own.shift(round(float(v["across_px"])), round(float(v["down_px"]))).grow(reach).clip(bounds)
    )


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_writes(touch, bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    rect, v = _writes(touch, bounds), touch.values
    if rect.empty:
        return np.zeros((0, 0, 3), np.float32)
    across, down, soft = (float(v[k]) for k in ("across_px", "down_px", "soft_px"))
    # Worked out beyond what is written, so that a shadow at the border is as soft as elsewhere.
    reach = math.ceil(_REACH * soft) + 1
    wide = rect.grow(reach)
    beyond = outlined(touch.path, 0.0).beyond(wide, across, down)
    cover = np.clip(0.5 - beyond, 0, 1)
    dark = cast_shadow.shadow(cover.astype(np.float32), 0.0, 0.0, soft)[rect.within(wide)]
    part = float(v["amount"]) / 100 * float(v["dark"]) / 100
    # Far from the thing nothing is changed, not even the last digit.
    dark = np.where(dark > _LEAST, dark, 0)
    area = np.clip(read(rect), 0, 1)
    return np.ascontiguousarray(cast_shadow.lifted(area, (dark * part).astype(np.float32)) - area)


CAST_SHADOW = register(
    PassKind(
        name="cast_shadow",
        title="Cast shadow",
        meaning="The shadow that glasses or another thing throws on the face, lifted.",
        stage="features",
        zones=("skin",),
        besides=("eyes",),
        usual_name="Cast shadows",
        zone_name="Cast shadows",
        way=Touches(
            _TOUCH, _writes, _reads, _render, lambda t: outlined(t.path, 0.0), least_points=3
        ),
    )
)

"""Part: an outlined place moved, turned and scaled, with a soft border."""

from __future__ import annotations

import json

import numpy as np

from retouch.edit.model import Pass, Touch
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.parts import Motion, part
from retouch.warp.field import Field

_TOUCH = (
    Setting("across_px", "Across", "Moved to the right.", low=-1000.0, high=1000.0, default=0.0,
            step=0.5, unit="px"),
    Setting("down_px", "Down", "Moved down.", low=-1000.0, high=1000.0, default=0.0, step=0.5,
            unit="px"),
    Setting("turn", "Turned", "Turned around its middle, clockwise.", low=-45.0, high=45.0,
            default=0.0, step=0.1, unit="°"),
    Setting("size", "Size", "Enlarged or reduced around its middle.", low=50.0, high=150.0,
            default=100.0, step=0.5, unit="%"),
    Setting("soft_px", "Soft border", "Pixels outside of it over which the motion fades.", low=2.0,
            high=1500.0, default=60.0, step=1.0, unit="px"),
    Setting("amount", "Amount", "How much of all that is done.", default=100.0, unit="%"),
)  # fmt: skip


def _motion(touch: Touch, share: float = 1.0) -> Motion:
    v = touch.values
    across, down, turn, size, soft, amount = (
        float(v[k]) for k in ("across_px", "down_px", "turn", "size", "soft_px", "amount")
    )
    k = share * amount / 100
    return Motion(k * across, k * down, k * turn, (size / 100) ** k, soft)


def _move(touch: Touch) -> Move:
    outline = np.asarray(touch.path, np.float64)

    def of(below: Composed, share: float) -> Field | None:
        return part(outline, _motion(touch, share), below)

    key = json.dumps(["part", sorted(touch.values.items()), touch.path])
    return Move(touch.id, key, lambda below: of(below, 1.0), part=of)


def _moves(one: Pass, values: Values) -> list[Move]:
    return [_move(t) for t in one.touches if t.enabled]


PART = register(
    PassKind(
        name="part",
        title="Move a part",
        meaning="An outlined place moved, turned and scaled, with a soft border.",
        stage="shape",
        usual_name="Parts moved",
        zone_name="Parts moved",
        way=Shape(_moves, _TOUCH, least_points=3),
    )
)

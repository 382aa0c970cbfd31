"""Part: an outlined place moved, turned and scaled, with a soft border."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from retouch.edit.model import Pass, Touch
from retouch.guidance import hold_features
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.holding import holding
from retouch.shape.parts import Motion, part
from retouch.warp.field import Field

if TYPE_CHECKING:
    from retouch.face import Analysis
    from retouch.picture import Pyramid

# Around what is held the motion begins over this part of the soft border.
_SOFT = 0.6

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
    Setting("hold_features", "Features held", "Eyes, brows, nose and lips that don't go with it "
            "stay where they are.", type="switch", default=True),
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
    spare = touch.spare if touch.values["hold_features"] else ()
    soft = _SOFT * float(touch.values["soft_px"])

    def of(below: Composed, share: float) -> Field | None:
        return holding(part(outline, _motion(touch, share), below), spare, soft, below)

    key = json.dumps(["part", sorted(touch.values.items()), touch.path, spare])
    return Move(touch.id, key, lambda below: of(below, 1.0), part=of)


def _prepare(analysis: Analysis, touch: Touch, pyramid: Pyramid) -> Touch:
    if not touch.values["hold_features"]:
        return replace(touch, spare=())
    v = touch.values
    far = float(np.hypot(float(v["across_px"]), float(v["down_px"])))
    return hold_features(analysis, touch, float(v["soft_px"]) + far, outlined=True)


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
        way=Shape(_moves, _TOUCH, least_points=3, prepare=_prepare),
    )
)

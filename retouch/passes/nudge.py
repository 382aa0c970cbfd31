"""Nudge: strokes that push, widen, narrow, turn, smooth or bring back what lies under the brush."""

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
from retouch.shape.nudge import ACTS, Brush, begun, stroke
from retouch.warp.field import Field

if TYPE_CHECKING:
    from retouch.face import Analysis
    from retouch.picture import Pyramid

# Around what is held the motion begins over this part of the brush's radius.
_SOFT = 0.6

_TOUCH = (
    Setting("act", "Does", "What the stroke does under the brush.", type="choice", default="push",
            choices=ACTS),
    Setting("radius_px", "Size", "Radius of the brush.", low=2.0, high=2000.0, default=80.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "The part of the radius over which it fades.", low=10.0,
            default=70.0, unit="%"),
    Setting("amount", "Amount", "How much of the brush's way, widening or turn is made.",
            default=100.0, unit="%"),
    Setting("hold_features", "Features held", "Eyes, brows, nose and lips that it doesn't go over "
            "stay where they are.", type="switch", default=True),
)  # fmt: skip


def _move(touch: Touch) -> Move:
    v = touch.values
    brush = Brush(float(v["radius_px"]), float(v["softness"]) / 100, float(v["amount"]) / 100)
    act = next(a for a in ACTS if a == v["act"])
    spare = touch.spare if v["hold_features"] else ()
    path = np.asarray(touch.path, np.float64)
    pressure = np.asarray(touch.pressure, np.float64)

    def made(below: Composed, share: float) -> Field | None:
        # What is pushed too far is left behind where it would fold.
        along = begun(np.column_stack([path, pressure]) if len(pressure) else path, share)
        field = stroke(act, along[:, :2], brush, below, along[:, 2] if len(pressure) else None)
        return holding(field, spare, _SOFT * brush.radius, below)

    def field(below: Composed) -> Field | None:
        return made(below, 1.0)

    part = made
    key = json.dumps(["nudge", sorted(v.items()), touch.path, touch.pressure, spare])
    return Move(touch.id, key, field, part=part if act == "push" else None)


def _prepare(analysis: Analysis, touch: Touch, pyramid: Pyramid) -> Touch:
    # What is smoothed or brought back would be held where it was moved to.
    if not touch.values["hold_features"] or touch.values["act"] in ("smooth", "bring_back"):
        return replace(touch, spare=())
    return hold_features(analysis, touch, float(touch.values["radius_px"]), outlined=False)


def _moves(one: Pass, values: Values) -> list[Move]:
    return [_move(t) for t in one.touches if t.enabled]


NUDGE = register(
    PassKind(
        name="nudge",
        title="Nudge",
        meaning="Strokes that push, widen, narrow, turn or smooth what lies under the brush.",
        stage="shape",
        usual_name="Nudged",
        zone_name="Nudged",
        way=Shape(_moves, _TOUCH, prepare=_prepare),
    )
)

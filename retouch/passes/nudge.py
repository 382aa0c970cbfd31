"""Nudge: strokes that push, widen, narrow, turn, smooth or bring back what lies under the brush."""

from __future__ import annotations

import json

import numpy as np

from retouch.edit.model import Pass, Touch
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.nudge import ACTS, Brush, begun, stroke
from retouch.warp.field import Field

_TOUCH = (
    Setting("act", "Does", "What the stroke does under the brush.", type="choice", default="push",
            choices=ACTS),
    Setting("radius_px", "Size", "Radius of the brush.", low=2.0, high=2000.0, default=80.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "The part of the radius over which it fades.", low=10.0,
            default=70.0, unit="%"),
    Setting("amount", "Amount", "How much of the brush's way, widening or turn is made.",
            default=100.0, unit="%"),
)  # fmt: skip


def _move(touch: Touch) -> Move:
    v = touch.values
    brush = Brush(float(v["radius_px"]), float(v["softness"]) / 100, float(v["amount"]) / 100)
    act = next(a for a in ACTS if a == v["act"])

    def field(below: Composed) -> Field | None:
        return stroke(act, np.asarray(touch.path, np.float64), brush, below)

    def part(below: Composed, share: float) -> Field | None:
        # What is pushed too far is left behind where it would fold.
        return stroke(act, begun(np.asarray(touch.path, np.float64), share), brush, below)

    key = json.dumps(["nudge", sorted(v.items()), touch.path])
    return Move(touch.id, key, field, part=part if act == "push" else None)


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
        way=Shape(_moves, _TOUCH),
    )
)

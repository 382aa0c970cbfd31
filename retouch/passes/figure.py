"""Figure: shoulders and waist by millimetres, by the outline of the body."""

from __future__ import annotations

import json

from retouch.edit.model import Pass, Touch
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.figure import Moves, figure_field
from retouch.warp.field import Field

_NAMES = ("shoulder_right", "shoulder_left", "shoulders", "waist")


_TOUCH = (
    Setting("amount", "Amount", "How much of the numbers is made here.", default=100.0, unit="%"),
)


def _move(touch: Touch, scale: float, whole: Moves) -> Move:
    share = float(touch.values["amount"]) / 100
    amounts = Moves(*(share * v for v in (whole.right, whole.left, whole.width, whole.waist)))
    face = touch.spare[0]

    def field(below: Composed) -> Field | None:
        return figure_field(touch.path, face, scale, amounts, below)

    numbers = [amounts.right, amounts.left, amounts.width, amounts.waist]
    return Move(touch.id, json.dumps(["figure", touch.path, face, scale, numbers]), field)


def _moves(one: Pass, values: Values) -> list[Move]:
    amounts = Moves(*(float(values[n]) for n in _NAMES))
    scale = float(values["px_per_mm"])
    return [_move(t, scale, amounts) for t in one.touches if t.enabled and t.spare]


FIGURE = register(
    PassKind(
        name="figure",
        title="Figure",
        meaning="The line of the shoulders and the waist, by millimetres.",
        stage="shape",
        settings=(
            Setting("shoulder_right", "Right shoulder", "Up, or down below 0.", low=-30.0, high=30.0,
                    default=0.0, step=0.5, unit="mm"),
            Setting("shoulder_left", "Left shoulder", "Up, or down below 0.", low=-30.0, high=30.0,
                    default=0.0, step=0.5, unit="mm"),
            Setting("shoulders", "Shoulders' width", "Wider or narrower, both together.", low=-60.0,
                    high=60.0, default=0.0, step=0.5, unit="mm"),
            Setting("waist", "Waist", "Wider or narrower, where the figure shows one.", low=-80.0,
                    high=80.0, default=0.0, step=0.5, unit="mm"),
        ),
        fitted=(PX_PER_MM,),
        # A touch is the body's outline; what it spares is the face.
        way=Shape(_moves, _TOUCH, least_points=3, where="body"),
    )
)  # fmt: skip

"""Hair volume: more or less of it, above the head and on its sides, by the hair's outline."""

from __future__ import annotations

import json

from retouch.edit.model import Pass, Touch
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.volume import Volume, volume_field
from retouch.warp.field import Field

_TOUCH = (
    Setting("amount", "Amount", "How much of the numbers is made here.", default=100.0, unit="%"),
)


def _move(touch: Touch, scale: float, whole: Volume) -> Move:
    share = float(touch.values["amount"]) / 100
    volume = Volume(share * whole.top, share * whole.right, share * whole.left)
    face = touch.spare[0]

    def field(below: Composed) -> Field | None:
        return volume_field(touch.path, face, scale, volume, below)

    key = json.dumps(["volume", touch.path, face, scale, volume.top, volume.right, volume.left])
    return Move(touch.id, key, field)


def _moves(one: Pass, values: Values) -> list[Move]:
    volume = Volume(*(float(values[f"volume_{n}"]) for n in ("top", "right", "left")))
    scale = float(values["px_per_mm"])
    return [_move(t, scale, volume) for t in one.touches if t.enabled and t.spare]


VOLUME = register(
    PassKind(
        name="volume",
        title="Hair volume",
        meaning="Hair fuller or closer to the head; the face stays, the background gives way.",
        stage="shape",
        settings=(
            Setting("volume_top", "On top", "Above the head, upwards.", low=-10.0, high=10.0,
                    default=0.0, step=0.1, unit="mm"),
            Setting("volume_right", "Right side", "On the person's right, outwards.", low=-10.0,
                    high=10.0, default=0.0, step=0.1, unit="mm"),
            Setting("volume_left", "Left side", "On the person's left, outwards.", low=-10.0,
                    high=10.0, default=0.0, step=0.1, unit="mm"),
        ),
        fitted=(PX_PER_MM,),
        # A touch is the hair's outline; what it spares is the face.
        way=Shape(_moves, _TOUCH, least_points=3, where="hair"),
    )
)  # fmt: skip

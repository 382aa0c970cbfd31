"""Proportions: the parts of one person's face wider, higher, further apart, in mm and per cent."""

from __future__ import annotations

import json

import numpy as np

from retouch.edit.model import Pass
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import PX_PER_MM
from retouch.passes.ways import Shape, Values
from retouch.shape.composed import Composed, Move
from retouch.shape.gaze import gaze_field
from retouch.shape.proportions import PROPORTIONS, Proportion, field_of
from retouch.warp.field import Field


def _setting(one: Proportion) -> Setting:
    title = f"{one.side.capitalize()} {one.title.lower()}" if one.side else one.title
    pair = ""
    if one.side:
        stem = one.name.removesuffix(one.side)
        pair = stem + ("left" if one.side == "right" else "right")
    return Setting(
        one.name, title, one.meaning, low=one.low, high=one.most, default=0.0, step=0.1,
        unit=one.unit, group=one.part, pair=pair,
    )  # fmt: skip


def _moves(one: Pass, values: Values) -> list[Move]:
    if not one.fit.points:
        return []
    points = np.asarray(one.fit.points, np.float64)
    amounts = {p.name: float(values[p.name]) for p in PROPORTIONS}
    scale = float(values["px_per_mm"])

    depths = one.fit.depths

    def field(below: Composed) -> Field | None:
        return field_of(points, scale, amounts, below, depths)

    def gaze(below: Composed) -> Field | None:
        return gaze_field(points, scale, *gazes, below)

    gazes = (amounts["gaze_side"], amounts["gaze_up"])
    key = json.dumps([amounts, scale, one.fit.mesh_key])
    moves = [Move(one.id, key, field)]
    if any(gazes):
        moves.append(Move(one.id, f"{key} gaze", gaze))
    return moves


PROPORTION = register(
    PassKind(
        name="proportions",
        title="Proportions",
        meaning="Eyes, brows, nose, mouth, face and head by millimetres and per cent, of one person.",
        stage="shape",
        settings=tuple(_setting(p) for p in PROPORTIONS),
        fitted=(PX_PER_MM,),
        way=Shape(_moves, meshed=True),
    )
)

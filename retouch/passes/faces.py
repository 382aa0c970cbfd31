"""Faces: what the user said about where faces are and how large. Changes no pixel."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Guide

TOUCH = (
    Setting("what", "What", "A face in the box between two places; no face at a place; an iris "
            "of that size; or points of the mesh moved from the first place to the second.",
            type="choice", default="face", choices=("face", "none", "iris", "nudge")),
    Setting("radius_px", "Size", "Radius of the iris.", low=0.5, high=2000.0, default=20.0,
            step=0.1, unit="px"),
)  # fmt: skip

FACES = register(
    PassKind(
        name="faces",
        title="Face",
        meaning="Faces added, removed, or corrected by hand.",
        stage="look",
        usual_name="Faces",
        way=Guide(TOUCH, rezones=True),
    )
)

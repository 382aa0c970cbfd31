"""The outline of the hair: what lies outside of it may be a loose strand."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Guide

FEATHER = "feather_px"
_TOUCH = (
    Setting(FEATHER, "Feather", "Strands found beyond it fade over so many pixels where they leave it.",
            low=0.5, high=10.0, default=1.0, step=0.5, unit="px"),
)  # fmt: skip

HAIR_OUTLINE = register(
    PassKind(
        name="hair_outline",
        title="Hair outline",
        meaning="What lies inside belongs to the hair; strands that leave it are loose.",
        stage="shape",
        usual_name="Hair outline",
        way=Guide(_TOUCH, least_points=3),
    )
)

"""The outline of the hair: what lies outside of it may be a loose strand."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.ways import Guide

HAIR_OUTLINE = register(
    PassKind(
        name="hair_outline",
        title="Hair outline",
        meaning="What lies inside belongs to the hair; strands that leave it are loose.",
        stage="shape",
        usual_name="Hair outline",
        way=Guide((), least_points=3),
    )
)

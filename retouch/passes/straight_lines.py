"""Straight lines: what has to stay straight while parts of the picture move."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.ways import Guide

STRAIGHT_LINES = register(
    PassKind(
        name="straight_lines",
        title="Straight lines",
        meaning="Door frames, shelves, horizons that stay straight while parts of the picture move.",
        stage="shape",
        usual_name="Straight lines",
        way=Guide((), least_points=2),
    )
)

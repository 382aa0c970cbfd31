"""Marks: what the user decided about marks on the skin. Changes no pixel."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Guide

TOUCH = (
    Setting("decision", "Decision", "Clear it, keep it, or ask again.", type="choice",
            default="keep", choices=("clear", "keep", "ask")),
    Setting("radius_px", "Size", "Radius of the mark.", low=0.5, high=2000.0, default=10.0,
            step=0.5, unit="px"),
)  # fmt: skip

MARKS = register(
    PassKind(
        name="marks",
        title="Mark",
        meaning="Decisions about marks on the skin.",
        stage="look",
        usual_name="Marks",
        way=Guide(TOUCH),
    )
)

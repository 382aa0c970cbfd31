"""Zones: what the user said about which pixels belong to which zone. Changes no pixel."""

from __future__ import annotations

from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Guide
from retouch.zone_names import ZONE_NAMES

TOUCH = (
    Setting("zone", "Zone", "The zone that is corrected.", type="choice", default="skin",
            choices=ZONE_NAMES),
    Setting("add", "Add", "Adds to the zone, or else takes from it.", type="switch", default=True),
    Setting("way", "Way", "By brush; by the colours of the touched places; the whole zone inverted; "
            "or its edge softened.", type="choice", default="brush",
            choices=("brush", "colour", "invert", "feather")),
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "Part of the radius over which the brush fades.",
            default=40.0, unit="%"),
    Setting("edges", "Edges", "How strictly the brush stays with the colour under its middle.",
            default=50.0, unit="%"),
    Setting("tolerance", "Tolerance", "How far a colour may be from the touched ones (CIE76).",
            low=1.0, high=60.0, default=12.0, unit="ΔE"),
    Setting("feather_mm", "Feather", "Width over which the edge fades.", low=0.0, high=20.0,
            default=1.0, step=0.1, unit="mm"),
)  # fmt: skip

ZONES = register(
    PassKind(
        name="zones",
        title="Zone",
        meaning="Corrections of the zones that were found.",
        stage="look",
        usual_name="Zones",
        way=Guide(TOUCH, rezones=True),
    )
)

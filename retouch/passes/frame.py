"""Frame: straighten, upright, crop, quarter turns and mirror, as one pass of an edit."""

from __future__ import annotations

from retouch.edit.values import FAR
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Frame, Values
from retouch.warp.frame import Wish
from retouch.warp.warp import Beyond

# What shows beyond the picture, by the setting's choices.
_BEYOND: dict[str, Beyond | None] = {
    "nothing": None,
    "border": "edge",
    "white": 1.0,
    "grey": 0.5,
    "black": 0.0,
}


def wish(values: Values) -> Wish:
    """How the settings want the picture framed."""
    number = {n: float(v) for n, v in values.items() if isinstance(v, (int, float))}
    return Wish(
        angle=number["angle_deg"],
        upright=number["upright"],
        level=number["level"],
        centre=(number["centre_x_px"], number["centre_y_px"]),
        size=(number["width_px"], number["height_px"]),
        turns=int(str(values["turn"])) // 90,
        mirror=bool(values["mirror"]),
        beyond=_BEYOND[str(values["beyond"])],
    )


def _place(name: str, title: str, meaning: str, low: float = 0.0) -> Setting:
    return Setting(name, title, meaning, low=low, high=FAR, step=0.01, unit="px")


FRAME = register(
    PassKind(
        name="frame",
        title="Frame",
        meaning="Straighten, crop, turn and mirror the picture, and set converging lines upright.",
        stage="look",
        settings=(
            Setting(
                "angle_deg", "Angle", "Turns the picture clockwise.",
                low=-45.0, high=45.0, step=0.01, unit="°",
            ),
            Setting(
                "upright", "Upright", "Lines that converge upwards (or downwards) set parallel.",
                low=-100.0, high=100.0,
            ),
            Setting(
                "level", "Level", "Lines that converge to the right (or left) set parallel.",
                low=-100.0, high=100.0,
            ),
            Setting(
                "turn", "Turn", "Quarter turns clockwise, in degrees.",
                type="choice", default="0", choices=("0", "90", "180", "270"),
            ),
            Setting("mirror", "Mirror", "Left and right exchanged.", type="switch", default=False),
            _place("centre_x_px", "Middle, across", "The frame's middle in the original."),
            _place("centre_y_px", "Middle, down", "The frame's middle in the original."),
            _place("width_px", "Width", "Of the frame before quarter turns; 0: as it comes."),
            _place("height_px", "Height", "Of the frame before quarter turns; 0: as it comes."),
            Setting(
                "beyond", "Beyond the picture",
                "What shows where the frame reaches beyond the picture; nothing: it keeps within.",
                type="choice", default="nothing", choices=tuple(_BEYOND),
            ),
        ),
        way=Frame(wish),
    )
)  # fmt: skip

"""What the face gives to passes on skin: its scale, and the colour of this person's skin."""

from __future__ import annotations

import numpy as np

from retouch.edit.values import FAR
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Values
from retouch.skin.own import OwnSkin

PX_PER_MM = Setting(
    "px_per_mm", "Face scale", "Pixels in a millimetre of this face.", low=0.2, high=300.0,
    default=8.0, step=0.1, unit="px/mm", auto="px_per_mm",
)  # fmt: skip
# Of light skin, from memory, where no face is known.
SKIN = (
    Setting("skin_l", "Skin L*", "Lightness of this person's clean skin.", default=65.0,
            low=0.0, high=100.0, step=0.1, auto="skin_l"),
    Setting("skin_a", "Skin a*", "Its place between green and red.", default=14.0,
            low=-60.0, high=60.0, step=0.1, auto="skin_a"),
    Setting("skin_b", "Skin b*", "Its place between blue and yellow.", default=17.0,
            low=-60.0, high=60.0, step=0.1, auto="skin_b"),
)  # fmt: skip

# What is grey in this picture's light: the whites of the eyes without their own yellow and red.
NEUTRAL = (
    Setting("white_l", "Whites L*", "Lightness of this person's whites.", default=70.0, step=0.1,
            auto="white_l"),
    Setting("white_a", "Neutral a*", "What is grey in this light, between green and red.", default=1.0,
            low=-60.0, high=60.0, step=0.1, auto="white_a"),
    Setting("white_b", "Neutral b*", "The same between blue and yellow.", default=1.0, low=-60.0,
            high=60.0, step=0.1, auto="white_b"),
)  # fmt: skip

# Light from one side: what its side adds to the skin's colour, and the line between both sides.
SIDE = (
    Setting("side_l", "Lit side L*", "How much lighter the skin is on the light's side, and darker "
            "on the other.", low=-50.0, high=50.0, step=0.1, auto="side_l"),
    Setting("side_a", "Lit side a*", "The same between green and red.", low=-30.0, high=30.0,
            step=0.1, auto="side_a"),
    Setting("side_b", "Lit side b*", "The same between blue and yellow.", low=-30.0, high=30.0,
            step=0.1, auto="side_b"),
    Setting("side_x", "Line x", "A place on the line between both sides.", low=-FAR, high=FAR,
            step=0.1, unit="px", auto="side_x"),
    Setting("side_y", "Line y", "The same, downwards.", low=-FAR, high=FAR, step=0.1, unit="px",
            auto="side_y"),
    Setting("side_angle", "Light from", "Where the lit side lies: 0 right, 90 below.", low=-180.0,
            high=180.0, step=0.1, unit="°", auto="side_angle"),
    Setting("side_mm", "Line's softness", "From the line to where a side is wholly lit or shaded.",
            low=0.1, high=500.0, default=20.0, step=0.1, unit="mm", auto="side_mm"),
)  # fmt: skip

# What both cheeks have alike.
ROUGE = (
    Setting("rouge_red", "Cheeks' own red", "Redness (a*) that both cheeks have alike.", low=0.0,
            high=60.0, step=0.1, auto="rouge_red"),
    *(
        Setting(f"rouge_{side}_{axis}", f"{side.capitalize()} cheek {axis}", "Its middle.", low=-FAR,
                high=FAR, step=0.1, unit="px", auto=f"rouge_{side}_{axis}")
        for side in ("right", "left")
        for axis in ("x", "y")
    ),
    Setting("rouge_mm", "Cheeks' size", "How far it reaches (one sigma).", low=0.1, high=500.0,
            default=10.0, step=0.1, unit="mm", auto="rouge_mm"),
)  # fmt: skip

# What the face gives to passes on skin.
FITTED = (PX_PER_MM,)
FITTED_SKIN = (*FITTED, *SKIN, *SIDE)


def px_per_mm(settings: Values) -> float:
    """The scale that a pass works at, full size."""
    return float(settings["px_per_mm"])


def part(settings: Values, name: str) -> float:
    """A setting in per cent as a part of one."""
    return float(settings[name]) / 100


def lab_of(values: Values, name: str) -> tuple[float, float, float]:
    """The colour (CIELAB) that the settings ``name_l``, ``name_a`` and ``name_b`` give."""
    light, a, b = (float(values[f"{name}_{c}"]) for c in "lab")
    return light, a, b


def skin_lab(settings: Values) -> Array:
    """CIELAB of the person's clean skin."""
    return np.array(lab_of(settings, "skin"), np.float32)


def own_skin(settings: Values, scale: float, cheeks: float = 0.0) -> OwnSkin:
    """The person's clean skin on both sides of the light, for a picture of ``scale``.

    ``cheeks`` 0..1 is the part of what both cheeks have alike that counts as their own.
    """
    side = np.array(lab_of(settings, "side"), np.float32)
    soft = float(settings["side_mm"]) * px_per_mm(settings) * scale
    angle = np.radians(float(settings["side_angle"]))
    across = (float(np.cos(angle)) / soft, float(np.sin(angle)) / soft)
    x, y = float(settings["side_x"]) * scale, float(settings["side_y"]) * scale
    at = -(across[0] * x + across[1] * y)
    if not cheeks:
        return OwnSkin(skin_lab(settings), side, across, at)
    places = tuple(
        (float(settings[f"rouge_{s}_x"]) * scale, float(settings[f"rouge_{s}_y"]) * scale)
        for s in ("right", "left")
    )
    size = float(settings["rouge_mm"]) * px_per_mm(settings) * scale
    red = cheeks * float(settings["rouge_red"])
    return OwnSkin(skin_lab(settings), side, across, at, places, red, size)


def neutral(values: Values) -> tuple[float, float, float]:
    """CIELAB of what is grey in this picture's light."""
    return lab_of(values, "white")

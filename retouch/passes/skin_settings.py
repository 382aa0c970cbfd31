"""What the face gives to passes on skin: its scale, and the colour of this person's skin."""

from __future__ import annotations

import numpy as np

from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Values

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

# What the face gives to passes on skin.
FITTED = (PX_PER_MM,)
FITTED_SKIN = (*FITTED, *SKIN)


def px_per_mm(settings: Values) -> float:
    """The scale that a pass works at, full size."""
    return float(settings["px_per_mm"])


def part(settings: Values, name: str) -> float:
    """A setting in per cent as a part of one."""
    return float(settings[name]) / 100


def skin_lab(settings: Values) -> Array:
    """CIELAB of the person's clean skin."""
    return np.array([float(settings[f"skin_{c}"]) for c in "lab"], np.float32)

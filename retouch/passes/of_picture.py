"""What the picture itself gives to passes: its size, and the light it was taken in."""

from __future__ import annotations

import numpy as np

from retouch.colour.white import CAT16, Light, Matrix
from retouch.passes.settings import Setting
from retouch.passes.ways import Values

LONG_SIDE = Setting(
    "long_px", "Longer side", "Of the picture.", low=1.0, high=200_000.0, default=2500.0,
    unit="px", auto="long_px",
)  # fmt: skip
HEIGHT, WIDTH = (
    Setting(name, title, "Of the picture.", low=1.0, high=200_000.0, default=usual, unit="px", auto=name)
    for name, title, usual in (("tall_px", "Height", 2500.0), ("wide_px", "Width", 2000.0))
)  # fmt: skip
# The light that the picture is balanced for; for one that is no raw file, sRGB's white (D65).
OWN_LIGHT = (
    Setting(
        "own_kelvin", "Own temperature", "Of the light that the picture is balanced for.",
        low=1000.0, high=40_000.0, default=6500.0, unit="K", auto="own_kelvin",
    ),
    Setting(
        "own_duv", "Own tint", "How far that light lies off the line of glowing bodies (Duv).",
        low=-0.2, high=0.2, default=0.0032, step=0.0001, auto="own_duv",
    ),
)  # fmt: skip
# From XYZ to what adapts: CAT16's cones, or a raw file's camera.
CONES = tuple(
    Setting(
        f"cone_{i + 1}{j + 1}", f"Cone {i + 1}, {j + 1}", "Of the matrix in which light is adapted.",
        low=-100.0, high=100.0, default=float(CAT16[i, j]), step=0.000001, auto=f"cone_{i + 1}{j + 1}",
    )
    for i in range(3)
    for j in range(3)
)  # fmt: skip


def own_light(values: Values) -> Light:
    """The light that the picture is balanced for."""
    return Light(float(values["own_kelvin"]), float(values["own_duv"]))


def cones(values: Values) -> Matrix:
    """The matrix (3, 3) in which light is adapted."""
    flat = [float(values[s.name]) for s in CONES]
    return np.reshape(np.array(flat), (3, 3))

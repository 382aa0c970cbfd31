"""White balance: colour temperature and tint of a light, and the adaptation from one to another."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy  # its parts are loaded when first used: most pictures need none of them
from numpy.typing import NDArray

Matrix = NDArray[np.float64]

# Temperatures that a light may have, kelvin.
COOLEST, WARMEST = 15000.0, 1900.0
# Full warmth, either way, in reciprocal megakelvin: about as much as can just be told apart ten times
# over (steps of 5 to 6 are just visible: D. B. Judd, "Sensibility to color-temperature change as a
# function of temperature", J. Opt. Soc. Am. 23, 1933, from memory).
MOST_WARMTH = 60.0
# Linear sRGB to XYZ (IEC 61966-2-1), as `colour.lab` has it, with its white.
_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
WHITE = _TO_XYZ.sum(1)
XYZ_TO_RGB = np.linalg.inv(_TO_XYZ)
# CAT16: C. Li et al., "Comprehensive color solutions: CAM16, CAT16, and CAM16-UCS", Color Research and
# Application 42, 2017. From XYZ to responses of cones, by rows.
CAT16 = np.array(
    [[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]]
)  # fmt: skip


@dataclass(frozen=True)
class Light:
    """A light's colour: ``kelvin``, and ``duv``, how far it lies above the line of glowing bodies
    in CIE 1960 u, v (greener) or below it (more magenta).
    """

    kelvin: float
    duv: float


def planckian(kelvin: float) -> tuple[float, float]:
    """CIE 1960 u, v of a glowing body.

    M. Krystek, "An algorithm to calculate correlated colour temperature", Color Research and
    Application 10, 1985; good from 1000 to 15000 K.
    """
    t = kelvin
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (
        1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t
    )
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (
        1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t
    )
    return u, v


def xyz_of(light: Light) -> NDArray[np.float64]:
    """XYZ (Y = 1) of a light."""
    u, v = planckian(light.kelvin)
    du, dv = _along(light.kelvin)
    # Across the line, towards green.
    u, v = u + light.duv * dv, v - light.duv * du
    x, y = 3 * u / (2 * u - 8 * v + 4), 2 * v / (2 * u - 8 * v + 4)
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _along(kelvin: float) -> tuple[float, float]:
    """The direction of the line of glowing bodies, towards hotter ones."""
    (u0, v0), (u1, v1) = planckian(kelvin * 0.999), planckian(kelvin * 1.001)
    long = float(np.hypot(u1 - u0, v1 - v0))
    return (u1 - u0) / long, (v1 - v0) / long


def light_of(xyz: NDArray[np.floating]) -> Light:  # type: ignore[type-arg]
    """Temperature and distance of a light from its XYZ: the nearest glowing body in u, v.

    Between `WARMEST` and `COOLEST`.
    """
    x, y, z = (float(v) for v in xyz)
    whole = x + 15 * y + 3 * z
    u, v = 4 * x / whole, 6 * y / whole

    def away(mired: float) -> float:
        pu, pv = planckian(1e6 / mired)
        return (pu - u) ** 2 + (pv - v) ** 2

    low, high = 1e6 / COOLEST, 1e6 / WARMEST
    starts = np.linspace(low, high, 60)
    near = int(np.argmin([away(m) for m in starts]))
    ends = (starts[max(near - 1, 0)], starts[min(near + 1, 59)])
    found = scipy.optimize.minimize_scalar(
        away, bounds=ends, method="bounded", options={"xatol": 1e-7}
    )
    kelvin = 1e6 / float(found.x)
    pu, pv = planckian(kelvin)
    du, dv = _along(kelvin)
    return Light(kelvin, (u - pu) * dv - (v - pv) * du)


def warmed(kelvin: float, warmth: float) -> float:
    """The temperature that a light is taken to have so that a picture gets warmer by -1..1."""
    mired = 1e6 / kelvin - MOST_WARMTH * warmth
    return float(np.clip(1e6 / max(mired, 1.0), WARMEST, COOLEST))


@lru_cache(maxsize=64)
def _own() -> Light:
    return light_of(WHITE)


def own_light() -> Light:
    """The light that sRGB's white stands for (D65)."""
    return _own()


def adaptation(taken: Light, own: Light, cones: Matrix = CAT16) -> Matrix:
    """From linear light of sRGB's primaries to the same, (3, 3), as if the light had been another.

    What had the colour of the light ``taken`` gets that of the picture's ``own`` one, which is its
    white. A von Kries adaptation in the space of ``cones``: CAT16's, or a camera's.
    """
    gain = (cones @ xyz_of(own)) / (cones @ xyz_of(taken))
    xyz = np.linalg.inv(cones) @ np.diag(gain) @ cones
    # White keeps its luminance.
    xyz = xyz * (1 / (np.linalg.inv(_TO_XYZ) @ xyz @ WHITE @ _TO_XYZ[1]))
    return np.asarray(np.linalg.inv(_TO_XYZ) @ xyz @ _TO_XYZ)


def neutralising(
    linear: NDArray[np.floating],
    own: Light,
    cones: Matrix = CAT16,  # type: ignore[type-arg]
) -> Light:
    """The light that a place of this linear colour (3,) would be neutral in.

    ``own`` is the picture's own light, which its white stands for; `adaptation` from the light found
    to it makes the place neutral.
    """
    seen = _TO_XYZ @ np.asarray(linear, np.float64)
    gain = (cones @ xyz_of(own)) / (cones @ WHITE)
    return light_of(np.linalg.inv(cones) @ (gain * (cones @ seen)))

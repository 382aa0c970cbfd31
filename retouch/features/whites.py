"""Eye whites: lighter, less yellow, less red, veins faded; a light grey, never white."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.discs import disc
from retouch.features.toning import blur_reach, blurred, lifted, parts_of, taken_back
from retouch.steps import step_between

Array = NDArray[np.float32]
Colour = tuple[float, float, float]

# Whites stay below this lightness unless asked otherwise (common practice: a light grey, which prints
# darker than paper).
CEILING = 86.0
# Veins are so wide at most (mm): the larger vessels of the conjunctiva, about 0.1 to 0.3 mm with their
# red rim; from memory.
VEIN_MM = 0.55
# A ridge of redness from the first of these on (a*) may be a vein, from the second on it surely is.
_FAINT, _SURE = 0.8, 2.4
_FINE_MM = 0.05
# Skin lies so far on the way from the whites' colour to the skin's: from the first on it fades. The
# ball has shade of its own, so lightness has little say.
_SKIN, _LIGHT_WEIGHT, _AROUND_MM = (0.3, 0.65), 0.25, 0.2


@dataclass(frozen=True)
class WhitesLook:
    """How much of each: 0..1; ``ceiling`` in L*; ``neutral`` CIELAB that whites are brought to the
    colour of; ``skin`` CIELAB of the skin beside them.
    """

    lighter: float
    yellow: float
    red: float
    veins: float
    ceiling: float
    neutral: tuple[float, float, float]
    skin: tuple[float, float, float]


def veins(lab: Lab, px_per_mm: float) -> tuple[Array, Array]:
    """Thin red ridges: how surely one is there (0..1), and how much redder it is (a*); (h, w) each.

    The white top-hat of a* (J. Serra, *Image Analysis and Mathematical Morphology*, 1982): what an
    opening by a disc wider than a vein takes away.
    """
    red = blurred(np.ascontiguousarray(lab[..., 1]), _FINE_MM * px_per_mm)
    ridge = cv2.morphologyEx(red, cv2.MORPH_TOPHAT, disc(VEIN_MM * px_per_mm // 2))
    return step_between(ridge, _FAINT, _SURE), np.asarray(ridge, np.float32)


def pale(lab: Lab, white: Colour, skin: Colour, px_per_mm: float) -> Array:
    """How surely each place is white of an eye and no skin of a lid by its colour, 0..1 (h, w).

    Told from around each place, so that a vein, which is thin, stays white.
    """
    weight = np.array([_LIGHT_WEIGHT, 1, 1], np.float32)
    origin, way = (
        np.array(white, np.float32),
        np.array(skin, np.float32) - np.array(white, np.float32),
    )
    axis = weight * way / max(float(np.dot(weight * way, weight * way)), 1.0)
    wide = blurred(lab, _AROUND_MM * px_per_mm)
    along = ((wide - origin) * weight) @ axis
    return 1 - step_between(along, *_SKIN)


def reach(px_per_mm: float) -> int:
    """Pixels around a place that `brightened` looks at."""
    vein = int(np.ceil(VEIN_MM * px_per_mm)) + blur_reach(_FINE_MM * px_per_mm) + 2
    return max(vein, blur_reach(_AROUND_MM * px_per_mm))


def brightened(image: Working, look: WhitesLook, px_per_mm: float) -> Working:
    """Working values (h, w, 3) of whites as they are to look; the mask says where they are."""
    before = to_lab(image)
    light, a, b = parts_of(before)
    if look.veins:
        sure, ridge = veins(before, px_per_mm)
        a = a - np.float32(look.veins) * sure * ridge
        dark = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, disc(VEIN_MM * px_per_mm // 2))
        light = light + np.float32(look.veins) * sure * dark
    # In cool or greenish light whites aren't made bluer or greener than they are.
    a = taken_back(a, max(look.neutral[1], 0.0), look.red)
    b = taken_back(b, max(look.neutral[2], 0.0), look.yellow)
    if look.lighter:
        # The form is lifted, what is finer stays as it is.
        form = blurred(light, _AROUND_MM * px_per_mm)
        light = light + (lifted(form, look.lighter, look.ceiling) - form)
    white = pale(before, look.neutral, look.skin, px_per_mm)[..., None]
    after = before + white * (np.dstack([light, a, b]) - before)
    return shifted(image, before, after)

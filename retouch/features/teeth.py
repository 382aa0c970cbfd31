"""Teeth: only their yellow taken down, a little lighter, stains and differences evened; ivory stays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import blur_reach, blurred, lifted, parts_of
from retouch.steps import step_between

Array = NDArray[np.float32]

# Natural teeth have this chroma at least: the palest shade of the guide in common use (B1: L* 78.9,
# a* -1.8, b* 12.3) by W. J. O'Brien, C. L. Groh and K. M. Boenke, "A New, Small-color-difference
# Equation for Dental Shades", Journal of Dental Research 69, 1990; from memory.
IVORY = 12.4
# The lightest shades there have L* 79 to 80; lit teeth are photographed lighter (common practice).
CEILING = 88.0
# Whiteness differences that half of people just see, and that half still accept: M. M. Pérez et al.,
# "Whiteness difference thresholds in dentistry", Dental Materials 35, 2019; from memory.
SEEN, ACCEPTED = 0.72, 2.62
# Differences wider than this are between teeth and stains; finer ones are a tooth's own face.
_FINE_MM = 0.9
# Gums and lips are redder than teeth by the second of these (a*) at least; from the first on it fades.
_PINK, _GUM = 7.0, 14.0
# What has less light than these parts of the teeth's own is the dark of the mouth.
_DARK, _TOOTH = 0.45, 0.7
# Dimmer teeth at the corners and stains are lifted to the others' lightness by so much less: form stays.
_FORM = 0.5


def whiteness(lab: NDArray[np.floating]) -> NDArray[np.float64]:  # type: ignore[type-arg]
    """The whiteness index for dentistry, WI_D, of CIELAB (..., 3); higher is whiter.

    M. M. Pérez, R. Ghinea, M. J. Rivas, A. Yebra, A. M. Ionescu, R. D. Paravina and L. J. Herrera,
    "Development of a customized whiteness index for dentistry based on CIELAB color space", Dental
    Materials 32, 2016.
    """
    lab = np.asarray(lab, np.float64)
    return np.asarray(0.511 * lab[..., 0] - 2.324 * lab[..., 1] - 1.1 * lab[..., 2])


@dataclass(frozen=True)
class TeethLook:
    """How much of each: 0..1; ``ceiling`` in L*, ``ivory`` in C*; ``own`` CIELAB of these teeth."""

    yellow: float
    lighter: float
    even: float
    ceiling: float
    ivory: float
    own: tuple[float, float, float]


def reach(px_per_mm: float) -> int:
    """Pixels around a place that `whitened` looks at."""
    return blur_reach(_FINE_MM * px_per_mm)


def tooth(lab: Lab, own: tuple[float, float, float]) -> Array:
    """How surely a place of the mouth is a tooth by its colour, 0..1."""
    pale = 1 - step_between(lab[..., 1] - np.float32(own[1]), _PINK, _GUM)
    lit = step_between(lab[..., 0], _DARK * own[0], _TOOTH * own[0])
    return np.asarray(pale * lit)


def whitened(image: Working, look: TeethLook, px_per_mm: float) -> Working:
    """Working values (h, w, 3) of teeth as they are to look; the mask says where they are."""
    before = to_lab(image)
    light, a, b = parts_of(before)
    sure = tooth(before, look.own)
    if look.even:
        # A mean over teeth alone: lips and gums beside them have no say.
        weight = blurred(sure, _FINE_MM * px_per_mm)
        wide = [
            np.asarray(
                blurred(c * sure, _FINE_MM * px_per_mm) / np.maximum(weight, 1e-3), np.float32
            )
            for c in (light, a, b)
        ]
        part = np.float32(look.even) * sure
        dim = np.maximum(np.float32(min(look.own[0], look.ceiling)) - wide[0], np.float32(0))
        light = np.asarray(light + np.float32(_FORM) * part * dim, np.float32)
        a = a + part * (np.float32(look.own[1]) - wide[1])
        b = b + part * np.minimum(np.float32(look.own[2]) - wide[2], 0)
    if look.yellow:
        # Yellow goes no further than where the chroma would be less than ivory.
        least = np.sqrt(np.maximum(np.float32(look.ivory**2) - a * a, 0))
        b = b - np.float32(look.yellow) * sure * np.maximum(b - least, 0)
    if look.lighter:
        light = light + sure * (lifted(light, look.lighter, look.ceiling) - light)
    return shifted(image, before, np.dstack([light, a, b]))

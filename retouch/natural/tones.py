"""Where a picture's tones lie: of the face, the hair, the clothing; and the reading of the skin's hue."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import from_srgb
from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.render import Renderer
from retouch.zone_names import SKIN_OF_FACE

# Pixels on the longer side that are looked at.
_SIDE = 500
_SURE = 0.7
_LEAST = 60
# What is told apart, with the zones it is made of.
PARTS: dict[str, tuple[str, ...]] = {
    "face": SKIN_OF_FACE,
    "hair": ("hair", "beard"),
    "clothing": ("clothing",),
    "background": ("background",),
}
# Classes of skin by the individual typology angle, degrees, from the lightest: A. Chardon, I. Cretois
# and C. Hourseau, "Skin colour typology and suntanning pathways", International Journal of Cosmetic
# Science 13, 1991; the last limit by S. Del Bino and F. Bernerd, British Journal of Dermatology 169,
# 2013. From memory.
ITA_LIMITS = (55.0, 41.0, 28.0, 10.0, -30.0)
ITA_CLASSES = ("very light", "light", "intermediate", "tan", "brown", "dark")


@dataclass(frozen=True)
class Spread:
    """Where the tones of a part lie, encoded luma 0..1: a tenth is darker than ``low``, a tenth lighter
    than ``high``.
    """

    part: str
    low: float
    middle: float
    high: float


@dataclass(frozen=True)
class Skin:
    """The colour of a face's skin: CIELAB hue angle and typology angle in degrees, and its class."""

    face: int
    hue: float
    ita: float
    kind: str


def overview(renderer: Renderer, edit: Edit) -> tuple[NDArray[np.float32], tuple[int, int]]:
    """Working values of the whole original with all pixel passes, small, and its shape."""
    level = 0
    bounds = renderer.bounds
    while (
        max(bounds.width, bounds.height) / (2 << level) >= _SIDE
        and level < renderer.pyramid.highest
    ):
        level += 1
    image = renderer.plan(edit).view(bounds.reduced(level), level)
    return image, (image.shape[0], image.shape[1])


def spreads(image: NDArray[np.float32], analysis: Analysis, bounds: Rect) -> list[Spread]:
    """Where the tones of each part lie; parts that are hardly seen are left out."""
    luma = image @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    out = []
    for part, zones in PARTS.items():
        there = analysis.mask(zones, bounds, luma.shape) > _SURE  # type: ignore[arg-type]
        if int(there.sum()) >= _LEAST:
            low, middle, high = np.clip(np.quantile(luma[there], (0.1, 0.5, 0.9)), 0, 1)
            out.append(Spread(part, float(low), float(middle), float(high)))
    return out


def skins(image: NDArray[np.float32], analysis: Analysis, bounds: Rect) -> list[Skin]:
    """The skin's colour of each face, by its median."""
    out = []
    for face in range(len(analysis.faces)):
        there = analysis.mask(SKIN_OF_FACE, bounds, image.shape[:2], face) > _SURE  # type: ignore[arg-type]
        if int(there.sum()) >= _LEAST:
            lab = from_srgb(np.clip(np.median(image[there], 0), 0, 1)[None])[0]
            out.append(skin_of(face, lab))
    return out


def skin_of(face: int, lab: NDArray[np.float64]) -> Skin:
    """What CIELAB (3,) of skin tells: ITA = arctan((L* - 50) / b*)."""
    hue = float(np.degrees(np.arctan2(lab[2], lab[1])) % 360)
    ita = float(np.degrees(np.arctan2(lab[0] - 50, lab[2])))
    kind = ITA_CLASSES[sum(ita <= limit for limit in ITA_LIMITS)]
    return Skin(face, hue, ita, kind)

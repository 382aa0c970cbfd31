"""The colour of a person's clean skin."""

from __future__ import annotations

import numpy as np

from retouch.colour.lab import to_lab
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.picture import Pyramid
from retouch.zone_names import SKIN_OF_FACE

# The face is looked at with so many pixels across at most.
_SIDE = 400
_SURE = 0.9
# Red places, highlights and deep shade are left out: the middle of the rest is the skin.
_REDDEST, _DARKEST, _LIGHTEST = 0.75, 0.2, 0.85


def complexion(
    analysis: Analysis,
    pyramid: Pyramid,
    face: int = 0,
    zones: tuple[str, ...] = SKIN_OF_FACE,
) -> tuple[float, float, float]:
    """CIELAB of a person's clean skin in this light, or of other zones; of the largest face as a
    rule.

    Raises
    ------
    IndexError
        When there is no such face.
    """
    x, y, w, h = analysis.faces[face].box
    rect = Rect(int(x), int(y), int(x + w) + 1, int(y + h) + 1).clip(pyramid.picture.bounds)
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    skin = analysis.mask(zones, rect, shape, face) > _SURE
    lab = to_lab(pyramid.sampled(rect, shape))
    colours = lab[skin] if skin.any() else lab.reshape(-1, 3)
    light = colours[:, 0]
    low, high = np.quantile(light, (_DARKEST, _LIGHTEST))
    middle = colours[(light >= low) & (light <= high)]
    calm = middle[middle[:, 1] <= np.quantile(middle[:, 1], _REDDEST)]
    light, a, b = np.median(calm, 0)
    return float(light), float(a), float(b)

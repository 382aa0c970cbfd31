"""The colour of a person's clean skin."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

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
    colours, _ = seen(analysis, pyramid, face, zones)
    light = colours[:, 0]
    low, high = np.quantile(light, (_DARKEST, _LIGHTEST))
    middle = colours[(light >= low) & (light <= high)]
    calm = middle[middle[:, 1] <= np.quantile(middle[:, 1], _REDDEST)]
    light, a, b = np.median(calm, 0)
    return float(light), float(a), float(b)


def seen(
    analysis: Analysis, pyramid: Pyramid, face: int, zones: tuple[str, ...]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """CIELAB (n, 3) and places (n, 2), pixels of the original, of what surely is in some zones.

    Where nothing is, all of the face's box.
    """
    x, y, w, h = analysis.faces[face].box
    rect = Rect(int(x), int(y), int(x + w) + 1, int(y + h) + 1).clip(pyramid.picture.bounds)
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    there = analysis.mask(zones, rect, shape, face) > _SURE
    if not there.any():
        there[:] = True
    rows, cols = np.nonzero(there)
    places = np.stack(
        [
            rect.x0 + (cols + 0.5) * rect.width / shape[1],
            rect.y0 + (rows + 0.5) * rect.height / shape[0],
        ],
        -1,
    )
    return to_lab(pyramid.sampled(rect, shape))[there], places.astype(np.float32)

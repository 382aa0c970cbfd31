"""Frames that suit a face: what a portrait is usually cut to, and a document photo.

Sizes are told in heights of the head, from the chin to the crown. The crown is seldom seen for hair:
the eyes lie about halfway between it and the chin (common practice in drawing heads; no source).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from retouch.edit.values import Value
from retouch.face import Analysis
from retouch.face import landmarks as lm
from retouch.geometry import Rect
from retouch.passes.frame import wish
from retouch.warp.frame import framed
from retouch.warp.steps import moved


@dataclass(frozen=True)
class Cut:
    """How a frame lies around a head.

    Parameters
    ----------
    ratio : float
        Width per height; 0: that of the picture.
    head : float
        The head's height as a part of the frame's.
    eyes : float
        Where the line of the eyes lies, as a part of the frame's height from its top.
    """

    name: str
    title: str
    meaning: str
    ratio: float
    head: float
    eyes: float


# The first three: common practice, no source. The last one: ICAO Doc 9303 "Machine Readable Travel
# Documents", part 3, portrait: from chin to crown 70 to 80 % of its height, upright, centred, in the
# proportions of a print of 35 x 45 mm; the height of the eyes, 50 to 70 % from the lower edge, is
# that of ISO/IEC 19794-5, which it follows. Figures from memory.
CUTS = (
    Cut(
        "half_length", "Half-length", "To about the waist, with room above the head.", 0, 0.24, 0.3
    ),
    Cut("head_shoulders", "Head and shoulders", "The usual portrait.", 0.8, 0.42, 0.38),
    Cut("close_up", "Close-up", "The face fills the frame.", 0.8, 0.66, 0.44),
    Cut("document", "Document photo", "35 x 45 mm, head 75 % of the height.", 35 / 45, 0.75, 0.45),
)
# A frame that the picture's edge makes smaller than this part of what it should be doesn't fit.
_FITS = 0.985


@dataclass(frozen=True)
class Proposal:
    """Settings of a frame around a face; ``fits``: the picture is large enough for it."""

    cut: Cut
    settings: dict[str, Value]
    fits: bool


def proposals(
    analysis: Analysis, settings: dict[str, Value], bounds: Rect, face: int = 0
) -> list[Proposal]:
    """All cuts around a face, in a picture straightened as ``settings`` say."""
    if not 0 <= face < len(analysis.faces):
        return []
    one = analysis.faces[face]
    plane = framed(wish(settings), bounds).plane
    places = np.array(
        [(one.right_iris.x, one.right_iris.y), (one.left_iris.x, one.left_iris.y),
         one.points[lm.CHIN, :2]], np.float64,
    )  # fmt: skip
    right, left, chin = moved(np.linalg.inv(plane), places)
    # As seen in a picture that lies on its side: the head's own upright is the nearest axis.
    down = chin - (right + left) / 2
    turns = round(math.degrees(math.atan2(-down[0], down[1])) / 90)
    c, s = round(math.cos(turns * math.pi / 2)), round(math.sin(turns * math.pi / 2))
    upright = np.array([[c, -s], [s, c]]).T
    eyes, chin = ((right + left) / 2) @ upright.T, chin @ upright.T
    head = 2 * (chin[1] - eyes[1])
    out = []
    for cut in CUTS:
        height = head / cut.head
        ratio = cut.ratio or min(bounds.width, bounds.height) / max(bounds.width, bounds.height)
        size = np.array([height * ratio, height])
        centre = np.array([eyes[0], eyes[1] + (0.5 - cut.eyes) * height])
        back = moved(plane, (centre @ upright)[None])[0]
        across, tall = size if turns % 2 == 0 else size[::-1]
        own: dict[str, Value] = {
            **settings,
            "centre_x_px": _within(back[0], bounds.width),
            "centre_y_px": _within(back[1], bounds.height),
            "width_px": round(float(across), 2),
            "height_px": round(float(tall), 2),
        }
        got = framed(wish(own), bounds).warp
        share = got.width * got.height / (float(across) * float(tall))
        out.append(Proposal(cut, own, share >= _FITS**2))
    return out


def _within(value: float, size: int) -> float:
    return round(float(min(max(value, 0.0), float(size))), 2)

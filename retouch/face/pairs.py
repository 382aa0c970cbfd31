"""How far the make-up of both sides of a face differs, beside what the light makes of its skin."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from retouch.colour.lab import to_lab
from retouch.face import regions
from retouch.face.analysis import Analysis
from retouch.face.landmarks import CHIN, TOP
from retouch.geometry import Rect
from retouch.picture import Pyramid
from retouch.zone_names import SKIN_OF_FACE

Lab = tuple[float, float, float]

# A face is looked at with so many pixels on its longer side; fewer in a region say nothing.
_SIDE, _LEAST = 500, 30
_SURE = 0.5


@dataclass(frozen=True)
class Pair:
    """The middle line of a face: a place on it, and the direction to the person's right (degrees); and
    by name of its regions, how the right side differs from the left one (CIELAB), beside their skin.
    """

    x: float
    y: float
    angle: float
    differs: dict[str, Lab]


def pair_of(
    analysis: Analysis, pyramid: Pyramid, face: int, named: dict[str, tuple[str, ...]]
) -> Pair:
    """What differs between both sides, for regions that belong together under a name."""
    one = analysis.faces[face]
    (tx, ty), (cx, cy) = (one.points[n, :2] for n in (TOP, CHIN))
    down = np.array([cx - tx, cy - ty]) / max(float(np.hypot(cx - tx, cy - ty)), 1e-6)
    right = np.array([-down[1], down[0]])
    if (one.right_iris.x - one.left_iris.x) * right[0] + (
        one.right_iris.y - one.left_iris.y
    ) * right[1] < 0:
        right = -right
    x, y, w, h = one.box
    rect = Rect(int(x), int(y), int(x + w) + 1, int(y + h) + 1).clip(pyramid.picture.bounds)
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(1, round(rect.height * scale)), max(1, round(rect.width * scale)))
    lab = to_lab(pyramid.sampled(rect, shape))
    xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
    ys = rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
    on_right = (xs[None] - tx) * right[0] + (ys[:, None] - ty) * right[1] > 0
    skin = analysis.mask(SKIN_OF_FACE, rect, shape, face) > _SURE
    differs: dict[str, Lab] = {}
    for name, parts in named.items():
        there = np.maximum.reduce([regions.cover(analysis, p, rect, shape, face) for p in parts])
        sides = []
        for half in (on_right, ~on_right):
            own, beside = lab[(there > _SURE) & half], lab[skin & (there < 0.05) & half]
            if min(len(own), len(beside)) < _LEAST:
                break
            sides.append(np.median(own, 0) - np.median(beside, 0))
        gap = sides[0] - sides[1] if len(sides) == 2 else np.zeros(3)
        differs[name] = (float(gap[0]), float(gap[1]), float(gap[2]))
    angle = float(np.degrees(np.arctan2(right[1], right[0])))
    return Pair(float(tx), float(ty), angle, differs)

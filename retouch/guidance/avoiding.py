"""Where touches must not take from."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Touch
from retouch.face import ALL_SKIN, Analysis, Mark
from retouch.geometry import Rect
from retouch.guidance.groups import APART, beside, group_of_zone
from retouch.heal import Footprint, Outline

# Marks surer than this aren't copied; places less surely skin than this don't serve skin.
_SURE_MARK, _LEAST_SKIN = 0.3, 0.4
# Zones around a touch are looked at in so many cells along the longer side.
_MOST_AVOIDED = 256
# Sources lie within this many radii (retouch.heal.source.FARTHEST, and the brush itself).
_SEARCHED = 6.5


def avoidance(
    analysis: Analysis,
    touch: Touch,
    place: Footprint,
    gone: Callable[[Sequence[Mark]], NDArray[np.bool_]],
) -> Callable[[Rect], NDArray[np.uint8]]:
    """Where a touch must not take from: other marks, what is no skin if it lies on skin, and what is
    no tooth, lip or eye if it lies on one.

    Parameters
    ----------
    analysis : Analysis
        Of the picture; all places are pixels of the upright original.
    touch : Touch
        A brush's touch, or one with an outline.
    place : Footprint
        What it covers.
    gone : callable
        Tells of marks which of them have been healed already: those may be taken from.

    Returns
    -------
    callable
        Gives for a rectangle an (h, w) uint8, other than 0 where no source may lie.
    """
    x, y = touch.path[len(touch.path) // 2]
    radius = place.radius
    if isinstance(place, Outline):
        x, y = place.nodes(radius, 1)[0]
    face, zone = analysis.zone_at(x, y)
    on_skin = face >= 0 and zone in ALL_SKIN
    group = group_of_zone(zone) if face >= 0 else "skin"
    reach = _SEARCHED * radius
    near = [
        m
        for of_face in analysis.marks
        for m in of_face
        if m.confidence > _SURE_MARK and radius < math.hypot(m.x - x, m.y - y) < reach + m.reach
    ]
    marks = [m for m, done in zip(near, gone(near), strict=True) if not done]

    def avoid(rect: Rect) -> NDArray[np.uint8]:
        out = np.zeros((rect.height, rect.width), np.uint8)
        if on_skin:
            skin = analysis.overview
            kx, ky = skin.shape[1] / analysis.width, skin.shape[0] / analysis.height
            matrix = np.array(
                [
                    [kx, 0, (rect.x0 + 0.5) * kx - 0.5],
                    [0, ky, (rect.y0 + 0.5) * ky - 0.5],
                ]
            )
            here = cv2.warpAffine(
                skin, matrix, (rect.width, rect.height),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
            )  # fmt: skip
            out = (here < _LEAST_SKIN).astype(np.uint8)
        elif group in APART:
            k = min(1.0, _MOST_AVOIDED / max(rect.width, rect.height))
            cells = (max(1, round(rect.height * k)), max(1, round(rect.width * k)))
            other = (analysis.mask(beside(group), rect, cells) > 0.5).astype(np.uint8)
            out = cv2.resize(other, (rect.width, rect.height), interpolation=cv2.INTER_NEAREST)
        for mark in marks:
            place = (round(mark.x - rect.x0 - 0.5), round(mark.y - rect.y0 - 0.5))
            if -mark.reach < place[0] < rect.width + mark.reach:
                cv2.circle(out, place, max(1, round(mark.reach)), 1, -1)
        return out

    return avoid

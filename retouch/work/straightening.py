"""Which angle sets a picture straight: by the pupils, or by long lines in what is behind the person."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_integers
from retouch.face import Analysis
from retouch.geometry import Rect
from retouch.picture import Pyramid
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]

# Lines are looked for at these sizes of the longer side (what is out of focus shows in small ones),
# and count from this part of it on.
_SIDES, _LEAST = (1400, 500, 180), 0.06
# A picture is held so far out of level at most; lines further off are meant to slope.
_MOST_DEGREES = 15.0
# Angles within so many degrees of one another agree; in steps of so many.
_AGREE, _STEP = 0.25, 0.02
# Agreeing lines together have to be so long, as a part of the longer side.
_ENOUGH = 0.5
# What surely belongs to the person: lines in it tell nothing.
_PERSON = (*SKIN_OF_FACE, "neck", "other_skin", "hair", "clothing", "worn")


@dataclass(frozen=True)
class Levelling:
    """An angle (degrees clockwise) that levels a picture, and what it is told from."""

    angle: float
    by: str


def from_pupils(analysis: Analysis, face: int = 0) -> Levelling | None:
    """The angle that levels the line through both pupils; None where the face isn't known."""
    if not 0 <= face < len(analysis.faces):
        return None
    one = analysis.faces[face]
    dx, dy = one.left_iris.x - one.right_iris.x, one.left_iris.y - one.right_iris.y
    return Levelling(_turned(math.degrees(math.atan2(dy, dx))), "eyes")


def from_lines(pyramid: Pyramid, analysis: Analysis | None) -> Levelling | None:
    """The angle on which long straight lines around the person agree; None where too few do.

    Segments of OpenCV's detector (R. Grompone von Gioi et al., "LSD: a Line Segment Detector", Image
    Processing On Line 2, 2012), each weighted by its length squared: short ones are texture.
    """
    bounds = pyramid.picture.bounds
    found = [_segments(pyramid, analysis, side) for side in _SIDES]
    ends = np.concatenate(found)
    ways = ends[:, 2:] - ends[:, :2]
    lengths = np.hypot(*ways.T) / max(bounds.width, bounds.height)
    off = np.array([_off_level(math.degrees(math.atan2(y, x))) for x, y in ways])
    counts = (lengths > _LEAST) & (np.abs(off) <= _MOST_DEGREES)
    if not counts.any():
        return None
    off, lengths = off[counts], lengths[counts]
    angles = np.arange(-_MOST_DEGREES, _MOST_DEGREES + _STEP, _STEP)
    near = np.maximum(1 - np.abs(angles[:, None] - off[None]) / _AGREE, 0)
    best = int(np.argmax(near @ lengths**2))
    agreeing = near[best] > 0
    if lengths[agreeing].sum() < _ENOUGH:
        return None
    weights = (near[best] * lengths**2)[agreeing]
    return Levelling(-float(np.average(off[agreeing], weights=weights)), "lines")


def _segments(pyramid: Pyramid, analysis: Analysis | None, side: int) -> NDArray[np.float64]:
    """Straight segments around the person (n, 4) in pixels of the original, found at a size."""
    bounds = pyramid.picture.bounds
    scale = min(1.0, side / max(bounds.width, bounds.height))
    shape = (max(1, round(bounds.height * scale)), max(1, round(bounds.width * scale)))
    small = to_integers(np.clip(pyramid.sampled(bounds, shape), 0, 1), 8)
    found = cv2.createLineSegmentDetector().detect(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY))[0]
    if found is None:
        return np.empty((0, 4))
    ends = np.asarray(found, np.float64).reshape(-1, 4)
    return ends[~_on_person(analysis, bounds, shape, ends)] / scale


def _off_level(degrees: float) -> float:
    """How far a direction is from the nearest level or upright one, -45..45."""
    return (degrees + 45) % 90 - 45


def _turned(degrees: float) -> float:
    """The turn that brings a direction to the nearest level or upright one."""
    return -_off_level(degrees)


def _on_person(
    analysis: Analysis | None, bounds: Rect, shape: tuple[int, int], ends: NDArray[np.float64]
) -> NDArray[np.bool_]:
    """Which segments lie on the person, by their middles."""
    if analysis is None or not analysis.faces:
        return np.zeros(len(ends), np.bool_)
    middles = ((ends[:, :2] + ends[:, 2:]) / 2).astype(int)
    x, y = np.clip(middles[:, 0], 0, shape[1] - 1), np.clip(middles[:, 1], 0, shape[0] - 1)
    return np.asarray(analysis.mask(_PERSON, bounds, shape)[y, x] > 0.5)

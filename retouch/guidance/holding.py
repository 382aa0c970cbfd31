"""Features beside a move that stay where they are while it is made."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Touch
from retouch.edit.values import MOST_SPARED
from retouch.face import Analysis
from retouch.shape.mesh import Mesh

# A feature is held so far (mm) beyond the points of its mesh.
_BEYOND_MM = 1.5
# A feature that an outline holds this part of goes with it.
_TAKEN = 0.3
_FEATURES = ("eye_right", "eye_left", "brow_right", "brow_left", "nose", "lips")

_Line = NDArray[np.float32]


def hold_features(analysis: Analysis, touch: Touch, reach: float, outlined: bool) -> Touch:
    """The touch with outlines of eyes, brows, noses and lips that it reaches but isn't about.

    What a stroke goes over, or an outline takes with it, is what it is about.

    Parameters
    ----------
    reach : float
        Pixels around its path in which it moves anything.
    outlined : bool
        The path is a closed line around what is moved.
    """
    path = np.asarray(touch.path, np.float32)
    low, high = path.min(0) - reach, path.max(0) + reach
    found = []
    for face in analysis.faces:
        mesh = Mesh(face.points[:, :2].astype(np.float64), face.scale.px_per_mm)
        for name in _FEATURES:
            own = mesh.handles[mesh.groups[name]].astype(np.float32)
            line = _grown(cv2.convexHull(own)[:, 0], _BEYOND_MM * face.scale.px_per_mm)
            apart = (line.max(0) < low).any() or (line.min(0) > high).any()
            if not apart and not _about(path, line, outlined):
                found.append(tuple((round(float(x), 1), round(float(y), 1)) for x, y in line))
    return replace(touch, spare=tuple(found[:MOST_SPARED]))


def _grown(line: _Line, by: float) -> _Line:
    """A convex line moved outwards by about so many pixels."""
    middle = line.mean(0)
    away = line - middle
    far = np.maximum(np.hypot(*away.T), 1e-6)[:, None]
    return np.asarray(middle + away * (1 + by / far), np.float32)


def _about(path: _Line, feature: _Line, outlined: bool) -> bool:
    def within(line: _Line, points: _Line) -> list[bool]:
        return [cv2.pointPolygonTest(line, (float(x), float(y)), False) >= 0 for x, y in points]

    if not outlined:
        return any(within(feature, path))
    middle = path.mean(0, keepdims=True)
    return any(within(feature, middle)) or float(np.mean(within(path, feature))) > _TAKEN

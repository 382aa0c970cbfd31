"""The mirrored place on the other side of a face."""

from __future__ import annotations

import numpy as np

from retouch.face import landmarks as lm
from retouch.face.find import Face

_RIGHT_OUTER, _RIGHT_INNER, _LEFT_INNER, _LEFT_OUTER = 33, 133, 362, 263
# Closer to the middle than this part of the face's height there is no other side.
_MIDDLE = 0.02


def mirrored_place(face: Face, x: float, y: float) -> tuple[float, float, float] | None:
    """Where a place lies on the other side, and how a source from there has to be turned.

    The face's middle runs from between the eyes as its long axis does; on a face that looks
    aside the far side is narrower, so distances are scaled by those of the outer eye corners.

    Returns
    -------
    (x, y, degrees), or None too near to the middle. The source has to be mirrored left to right
    and turned by ``degrees``.
    """
    points = face.points[:, :2].astype(np.float64)
    down = points[lm.CHIN] - points[lm.TOP]
    down /= np.linalg.norm(down)
    across = np.array([-down[1], down[0]])
    middle = (points[_RIGHT_INNER] + points[_LEFT_INNER]) / 2
    place = np.array([x, y])
    away = float((place - middle) @ across)
    if abs(away) < _MIDDLE * face.height:
        return None
    sides = [float((points[i] - middle) @ across) for i in (_RIGHT_OUTER, _LEFT_OUTER)]
    own = next((s for s in sides if s * away > 0), None)
    other = next((s for s in sides if s * away < 0), None)
    ratio = abs(other / own) if own and other else 1.0
    there = place - (1 + ratio) * away * across
    # A reflection at the axis is a mirroring left to right and a turn by twice its lean.
    lean = np.degrees(np.arctan2(down[0], down[1]))
    degrees = (-2 * lean + 180) % 360 - 180
    return float(there[0]), float(there[1]), float(degrees)

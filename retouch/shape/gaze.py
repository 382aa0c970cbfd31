"""The gaze: both irises moved within the opening of the lids, the whites closed behind them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.shape.mesh import Mesh
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

# Nodes lie so far apart at most (mm); lids stay, and from so far inside them (mm) all goes along.
_NODE_MM, _LID_MM = 0.35, 0.8
# An iris is moved whole, with so much around it (mm).
_WHOLE_MM = 0.4
_EYES = ((lm.EYE_R, 468), (lm.EYE_L, 473))


def gaze_field(
    points: Points, px_per_mm: float, side_mm: float, up_mm: float, below: Composed
) -> Field | None:
    """The field of both eyes on top of what was moved before; None: nothing moves.

    It is one field, so that both go equally far where one of them is stopped.

    Parameters
    ----------
    points : ndarray (478, 2)
        A face's mesh, pixels of the original.
    side_mm, up_mm : float
        Towards the person's left, and up.
    """
    if not side_mm and not up_mm:
        return None
    mesh = Mesh(below.forth(np.asarray(points, np.float64)), px_per_mm)
    shift = mesh.pixels(np.array([[side_mm, -up_mm]]))[0]
    lines = np.concatenate([mesh.points[list(ring)] for ring, _ in _EYES])
    margin = 2 * px_per_mm + float(np.abs(shift).max())
    low, high = lines.min(0) - margin, lines.max(0) + margin
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    step = float(2.0 ** max(0, np.floor(np.log2(max(_NODE_MM * px_per_mm, 1.0)))))
    x, y, places = nodes_of(rect, step)
    flat = places.reshape(-1, 2)
    weight = np.max([_eye(mesh, ring, iris, shift, flat) for ring, iris in _EYES], axis=0)
    return from_places(x, y, step, (flat - weight[:, None] * shift).reshape(places.shape))


def _eye(
    mesh: Mesh, ring: tuple[int, ...], iris: int, shift: Points, places: Points
) -> NDArray[np.float64]:
    """How much of the shift each place (n, 2) makes."""
    line, mm = mesh.points[list(ring)], mesh.px_per_mm
    radius = float(np.hypot(*(mesh.points[iris + 1 : iris + 5] - mesh.points[iris]).T).mean())
    # Where it goes: a field says of each place where it comes from.
    middle = mesh.points[iris] + shift
    outline = line.astype(np.float32)
    inside = [cv2.pointPolygonTest(outline, (float(a), float(b)), True) for a, b in places]
    within = smooth_step(np.array(inside) / (_LID_MM * mm))
    whole = radius + _WHOLE_MM * mm
    away = np.hypot(*(places - middle).T)
    # From the iris to the corner of the eye on either side the whites give way evenly.
    along = (line - middle) @ (shift / max(float(np.hypot(*shift)), 1e-9))
    ahead, behind = max(float(along.max()), whole * 1.2), max(float(-along.min()), whole * 1.2)
    reach = np.where((places - middle) @ shift > 0, ahead, behind)
    around = np.clip((reach - away) / np.maximum(reach - whole, 1e-6), 0, 1)
    return np.asarray(within * around)

"""The head turned by a few degrees, as its mesh in depth would, and hair and neck with it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.shape.mesh import RINGS, Mesh
from retouch.steps import smooth_step
from retouch.warp.steps import Points

# The head turns about an axis so far behind the corners of the eyes (mm): near the joint of skull and
# neck (from memory).
_AXIS_MM = 85.0
# The rings' outline is as deep as the face's edge, and half-way to the axis from this ring on.
_DEEP = 0.5
# So far out (parts of the face's outline) all goes along, and from here on nothing.
_WITH, _STILL = 1.3, RINGS[-1] - 0.1
# The mesh falls off steeply at its edge, and from point to point by different depths: within so many mm
# of it, depth is the mean over so many (sigma), or the outline of cheek and ear would come out wavy.
_EDGE_MM, _MEAN_MM = 22.0, 9.0


def turned(
    mesh: Mesh, depths: NDArray[np.float64], yaw: float, pitch: float, roll: float
) -> Points:
    """Where a turn takes the handles, as shifts in mm.

    Orthographic projection of a rotation about three axes through the joint of head and neck.

    Parameters
    ----------
    depths : ndarray (478,)
        How far each point of the mesh lies behind the picture's plane, pixels.
    yaw, pitch, roll : float
        Degrees: towards the person's left, up, and tilted towards the person's left shoulder.

    Returns
    -------
    ndarray (handles, 2)
    """
    deep = depths / mesh.px_per_mm
    corners = float(deep[[lm.CORNER_R, lm.CORNER_L]].mean())
    oval = deep[list(lm.OVAL)]
    axis = corners + _AXIS_MM
    rings = [oval + (axis - oval) * _DEEP * min(1.0, (size - 1) / (_WITH - 1)) for size in RINGS]
    z = _without_ridges(mesh, np.concatenate([deep, *rings])) - axis
    sides = mesh.own[[lm.SIDE_R, lm.SIDE_L]].mean(0)
    chin = mesh.own[lm.CHIN]
    u, v = mesh.own[:, 0] - sides[0], mesh.own[:, 1] - sides[1]
    a, b, c = np.radians([yaw, pitch, roll])
    side, back = u * np.cos(a) - z * np.sin(a), u * np.sin(a) + z * np.cos(a)
    down = v * np.cos(b) + back * np.sin(b)
    # Tilted about the chin, below which the neck bends.
    x, y = side + sides[0] - chin[0], down + sides[1] - chin[1]
    # Clockwise in the picture: the top of the head goes to the person's left.
    x, y = x * np.cos(c) - y * np.sin(c), x * np.sin(c) + y * np.cos(c)
    goal = np.stack([x + chin[0], y + chin[1]], 1)
    fade = smooth_step((_STILL - mesh.outward) / (_STILL - _WITH))
    return np.asarray((goal - mesh.own) * fade[:, None])


def _without_ridges(mesh: Mesh, deep: NDArray[np.float64]) -> NDArray[np.float64]:
    """Depths of all handles, smooth along and across the face's edge."""
    places = mesh.own
    away = np.linalg.norm(places[:, None] - places[None], axis=-1)
    weight = np.exp(-0.5 * (away / _MEAN_MM) ** 2)
    mean = weight @ deep / weight.sum(1)
    part = smooth_step(1 - away[:, list(lm.OVAL)].min(1) / _EDGE_MM)
    return np.asarray(deep + (mean - deep) * part)

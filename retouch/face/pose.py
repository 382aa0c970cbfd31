"""Which way a head is turned, from the depth of its mesh."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm

Array = NDArray[np.float32]


@dataclass(frozen=True)
class Pose:
    """Degrees. ``yaw``: towards the picture's right; ``pitch``: down; ``roll``: clockwise."""

    yaw: float
    pitch: float
    roll: float


def pose(points: Array) -> Pose:
    """The pose of a mesh (478, 3): the axes from eye to eye and from hairline to chin.

    The corners of the eyes and the sides of the face count together, so that a single misplaced
    point turns nothing.
    """
    across = points[lm.CORNER_L] - points[lm.CORNER_R] + points[lm.SIDE_L] - points[lm.SIDE_R]
    down = points[lm.CHIN] - points[lm.TOP]
    across = across / np.linalg.norm(across)
    down = down - across * float(down @ across)
    down = down / np.linalg.norm(down)
    roll = np.degrees(np.arctan2(across[1], across[0]))
    yaw = np.degrees(np.arcsin(np.clip(across[2], -1, 1)))
    pitch = np.degrees(np.arcsin(np.clip(-down[2], -1, 1)))
    return Pose(float(yaw), float(pitch), float(roll))

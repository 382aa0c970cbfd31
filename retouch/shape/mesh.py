"""A face's mesh in its own millimetres, with what lies around it, for moves of its parts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.warp.steps import Points

Weights = NDArray[np.float64]

# Rings of handles around the face, as parts of its own outline: what moves with it, and where all stands
# still.
RINGS = (1.12, 1.3, 1.6, 2.1)
# Points of the nose besides its outline.
_NOSE = (
    1, 2, 3, 4, 5, 6, 19, 20, 44, 45, 48, 49, 51, 59, 60, 64, 75, 79, 94, 97, 98, 99, 102, 115, 122, 125,
    129, 131, 134, 141, 166, 168, 174, 188, 193, 195, 196, 197, 198, 218, 219, 220, 235, 236, 237, 241,
    242, 245, 248, 250, 274, 275, 278, 279, 281, 289, 290, 294, 305, 309, 326, 327, 328, 331, 344, 351,
    354, 358, 360, 363, 370, 392, 399, 412, 417, 419, 420, 438, 439, 440, 455, 456, 457, 461, 462, 465,
)  # fmt: skip
# How far beyond their outlines eyes and lips are held.
_LID, _LIP = 1.35, 1.1


@dataclass(frozen=True, eq=False)
class Mesh:
    """The handles of a face.

    Parameters
    ----------
    points : ndarray (478, 2)
        The mesh in pixels of what is shown.
    px_per_mm : float
    """

    points: Points
    px_per_mm: float

    @cached_property
    def handles(self) -> Points:
        """The mesh and the rings around it, in pixels."""
        oval = self.points[list(lm.OVAL)]
        middle = oval.mean(0)
        rings = [middle + (oval - middle) * size for size in RINGS]
        return np.concatenate([self.points, *rings])

    @cached_property
    def axes(self) -> Points:
        """The person's left and down, as units."""
        across = self.points[lm.CORNER_L] - self.points[lm.CORNER_R]
        across = across / max(float(np.hypot(*across)), 1e-9)
        down = np.array([-across[1], across[0]])
        if (self.points[lm.CHIN] - self.points[lm.TOP]) @ down < 0:
            down = -down
        return np.stack([across, down])

    @cached_property
    def own(self) -> Points:
        """The handles in mm: to the person's left and down from the middle of the face."""
        middle = self.points[list(lm.OVAL)].mean(0)
        return (self.handles - middle) @ self.axes.T / self.px_per_mm

    def pixels(self, shifts: Points) -> Points:
        """Shifts in mm as pixels."""
        return np.asarray(shifts @ self.axes * self.px_per_mm)

    @cached_property
    def outward(self) -> Weights:
        """How far out each handle lies: 0 in the middle, 1 on the face's outline."""
        oval = self.own[list(lm.OVAL)]
        turn = np.arctan2(oval[:, 1], oval[:, 0])
        order = np.argsort(turn)
        reach = np.interp(
            np.arctan2(self.own[:, 1], self.own[:, 0]), turn[order], np.hypot(*oval.T)[order],
            period=2 * np.pi,
        )  # fmt: skip
        return np.asarray(np.hypot(*self.own.T) / np.maximum(reach, 1e-6))

    @cached_property
    def groups(self) -> dict[str, NDArray[np.bool_]]:
        """Handles by feature: eyes with their lids and irises, brows, nose, lips."""
        own: dict[str, NDArray[np.bool_]] = {}
        for name, ring, more, size in (
            ("eye_right", lm.EYE_R, range(468, 473), _LID),
            ("eye_left", lm.EYE_L, range(473, 478), _LID),
            ("lips", lm.LIPS_OUT, range(0), _LIP),
        ):
            inside = self._within(ring, size)
            inside[list(more)] = True
            own[name] = inside
        for name, points in (("brow_right", lm.BROW_R), ("brow_left", lm.BROW_L), ("nose", (*lm.NOSE, *_NOSE))):  # fmt: skip
            chosen = np.zeros(len(self.handles), np.bool_)
            chosen[list(points)] = True
            own[name] = chosen
        for side in ("right", "left"):
            own[f"brow_{side}"] &= ~own[f"eye_{side}"]
        return own

    def _within(self, ring: tuple[int, ...], size: float) -> NDArray[np.bool_]:
        line = self.own[list(ring)].astype(np.float32)
        middle = line.mean(0)
        hull = cv2.convexHull(middle + (line - middle) * np.float32(size))
        inside = [cv2.pointPolygonTest(hull, (float(x), float(y)), False) >= 0 for x, y in self.own]
        return np.array(inside)

    def near(
        self, chosen: NDArray[np.bool_], sigma_mm: float, free: tuple[str, ...] = ()
    ) -> Weights:
        """1 on chosen handles, less around them, nothing on other features but those that are ``free``."""
        away = np.min(
            np.linalg.norm(self.own[:, None] - self.own[chosen][None], axis=2), axis=1
        )  # fmt: skip
        weight = np.exp(-((away / sigma_mm) ** 2))
        weight[chosen] = 1
        for name, other in self.groups.items():
            if name not in free:
                weight[other & ~chosen] = 0
        # What lies far outside stands still, and the outline moves only if it is meant.
        weight[self.outward > 1.4] = 0
        return np.asarray(weight)

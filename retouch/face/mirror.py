"""The mirrored place on the other side of a face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.face.find import Face

# Closer to the middle than this part of the face's height there is no other side.
_MIDDLE = 0.02
# An eye reaches so many radii of its iris from the iris's middle.
_IN_EYE = 2.4
# Points of both sides that belong together, and how far around a place they tell about it, in
# face heights; with less than so many of them there, the whole face decides.
_PAIRS_RIGHT = (*lm.EYE_R, *lm.BROW_R)
_PAIRS_LEFT = (*lm.EYE_L, *lm.BROW_L)
_NEAR = 0.08
_LEAST_WEIGHT = 3.0


def mirrored_place(face: Face, x: float, y: float) -> tuple[float, float, float, float] | None:
    """Where a place lies on the other side, and how a source from there has to be turned.

    Near eyes and brows the points of the mesh there decide. Elsewhere the face's middle runs from
    between the eyes as its long axis does; on a face that looks aside the far side is narrower, so
    distances are scaled by those of the outer eye corners.

    Returns
    -------
    (x, y, degrees, size), or None too near to the middle. The source has to be mirrored left to
    right, turned by ``degrees`` and enlarged by ``size``.
    """
    points = face.points[:, :2].astype(np.float64)
    across, degrees = _axis(points)
    middle = (points[lm.INNER_R] + points[lm.INNER_L]) / 2
    place = np.array([x, y])
    away = float((place - middle) @ across)
    if abs(away) < _MIDDLE * face.height:
        return None
    sides = [float((points[i] - middle) @ across) for i in (lm.CORNER_R, lm.CORNER_L)]
    own = next((s for s in sides if s * away > 0), None)
    other = next((s for s in sides if s * away < 0), None)
    ratio = abs(other / own) if own and other else 1.0
    there = place - (1 + ratio) * away * across
    on_right = away * float((points[lm.CORNER_R] - middle) @ across) > 0
    near = _by_pairs(points, place, on_right, _NEAR * face.height, degrees)
    return near or (float(there[0]), float(there[1]), degrees, 1.0)


def within_eye(face: Face, x: float, y: float) -> tuple[float, float, float, float] | None:
    """Where a place in an eye lies on the other side of its own iris: as `mirrored_place`; None
    outside of the eyes.

    Iris and white go on alike to both sides; corners and lids less so.
    """
    iris = face.right_iris if _on_right(face, x, y) else face.left_iris
    if np.hypot(iris.x - x, iris.y - y) > _IN_EYE * iris.radius:
        return None
    place, middle = np.array([x, y]), np.array([iris.x, iris.y])
    across, degrees = _axis(face.points[:, :2].astype(np.float64))
    there = place - 2 * float((place - middle) @ across) * across
    return float(there[0]), float(there[1]), degrees, 1.0


def _axis(points: NDArray[np.float64]) -> tuple[NDArray[np.float64], float]:
    """Which way lies across a face (2,), and the degrees by which what is mirrored at its long axis is turned."""
    down = points[lm.CHIN] - points[lm.TOP]
    down /= np.linalg.norm(down)
    # A reflection at the axis is a mirroring left to right and a turn by twice its lean.
    lean = np.degrees(np.arctan2(down[0], down[1]))
    return np.array([-down[1], down[0]]), float((-2 * lean + 180) % 360 - 180)


def _on_right(face: Face, x: float, y: float) -> bool:
    """Whether a place is nearer to the person's right iris than to the left one."""
    away = [float(np.hypot(i.x - x, i.y - y)) for i in (face.right_iris, face.left_iris)]
    return away[0] < away[1]


def _by_pairs(
    points: NDArray[np.float64],
    place: NDArray[np.float64],
    on_right: bool,
    reach: float,
    degrees: float,
) -> tuple[float, float, float, float] | None:
    """The mirrored place by the pairs of points around it; None where there are too few.

    Their middle and their extent count; how they lean differs between the sides of a face that
    looks aside, and the turn is that of the whole face.
    """
    sides = [points[list(side)] @ (1, 1j) for side in (_PAIRS_RIGHT, _PAIRS_LEFT)]
    here, there = sides if on_right else sides[::-1]
    z = complex(place[0], place[1])
    weight = np.exp(-0.5 * (np.abs(here - z) / reach) ** 2)
    if weight.sum() < _LEAST_WEIGHT:
        return None
    weight /= weight.sum()
    p, q = (weight * here).sum(), (weight * there).sum()
    spread = [(weight * np.abs(s - m) ** 2).sum() for s, m in ((here, p), (there, q))]
    size = float(np.sqrt(spread[0] / max(spread[1], 1e-9)))
    found = q - np.exp(1j * np.radians(degrees)) / size * np.conj(z - p)
    return float(found.real), float(found.imag), degrees, size

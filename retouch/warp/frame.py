"""The frame: straightened, upright, cropped, turned, mirrored.

The frame is a rectangle on the **plane**: the picture with its perspective set right, turned by the
angle about its middle, which is the plane's origin. The frame's own middle is named by its place in
the original, so it stays on the same thing whatever the angle. Quarter turns and mirroring come last,
of the framed part.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from retouch.geometry import Rect
from retouch.warp.steps import Matrix, Points, Projective, moved
from retouch.warp.warp import Beyond, Warp

# Full amounts of perspective: by so much the scale changes from the picture's middle to the middle
# of its longer side, as a camera of twice that side's half as focal length does when tilted by 45°.
_MOST_TILT = 0.5
# The least side of a frame, as that of a picture that can be opened; and the most pixels.
LEAST_SIDE, MOST_PIXELS = 16, 100_000_000
_HALVINGS = 50
_EDGE = 1e-6
# Steps from a frame's middle to the picture's, and how near to the horizon of a tilted plane a
# frame may come.
_INWARDS, _HORIZON = 21, 0.05
# Frames that are kept: what a map tells of itself is worked out once.
_KEPT = 32


@dataclass(frozen=True)
class Wish:
    """How a picture is to be framed.

    Parameters
    ----------
    angle : float
        Degrees by which the picture is turned clockwise.
    upright, level : float
        -100..100: lines that converge upwards (positive) or downwards, and to the right or left, are
        set parallel.
    centre : (x, y)
        The frame's middle in pixels of the original.
    size : (width, height)
        Of the frame in its pixels, before quarter turns. (0, 0): as large as the picture allows, in
        its own proportions.
    turns : int
        Quarter turns clockwise, 0..3.
    mirror : bool
        Left and right exchanged, after the turns.
    beyond : "edge" or float, optional
        What shows beyond the picture; None: the frame keeps within it.
    """

    angle: float = 0.0
    upright: float = 0.0
    level: float = 0.0
    centre: tuple[float, float] = (0.0, 0.0)
    size: tuple[float, float] = (0.0, 0.0)
    turns: int = 0
    mirror: bool = False
    beyond: Beyond | None = None


@dataclass(frozen=True, eq=False)
class Framing:
    """A frame as it comes out.

    Attributes
    ----------
    warp : Warp
    plane : ndarray (3, 3)
        From places of the plane to those of the original, homogeneous.
    rect : (x0, y0, x1, y1)
        The frame on the plane, before quarter turns and mirroring.
    """

    warp: Warp
    plane: Matrix
    rect: tuple[float, float, float, float]


@lru_cache(_KEPT)
def framed(wish: Wish, bounds: Rect) -> Framing:
    """The frame that a wish gives on a picture.

    A frame that would reach beyond the picture and may not is made smaller about its middle, in its
    proportions, until it lies within.
    """
    plane = _plane(wish, bounds)
    back = np.linalg.inv(plane)
    given = wish.size[0] > 0 and wish.size[1] > 0
    middle = np.array([bounds.width / 2, bounds.height / 2])
    wanted = np.clip(wish.centre, 0, 2 * middle) if given else middle
    centre = moved(back, np.asarray(wanted, np.float64)[None])[0]
    size = np.array(wish.size if given else (bounds.width, bounds.height), np.float64)
    if not given and wish.beyond is not None:
        corners = moved(back, _corners(0, 0, bounds.width, bounds.height))
        size, centre = np.ptp(corners, 0), (corners.min(0) + corners.max(0)) / 2
    if wish.beyond is None:
        centre, share = _within(plane, centre, size, bounds)
        size = size * share
    size *= min(1.0, math.sqrt(MOST_PIXELS / max(size[0] * size[1], 1)))
    width, height = (max(1, math.floor(v + 0.5 * given + _EDGE)) for v in size)
    corner = centre - [width / 2, height / 2]
    still = wish.angle == 0 and wish.upright == 0 and wish.level == 0
    if still:
        # Whole pixels of the original; the plane's origin may lie between two of them.
        corner = np.floor(corner + middle + 0.5) - middle
        if wish.beyond is None:
            width, height = min(width, bounds.width), min(height, bounds.height)
            corner = np.clip(corner, -middle, middle - [width, height])
    to_plane = np.array([[1, 0, corner[0]], [0, 1, corner[1]], [0, 0, 1.0]])
    matrix = plane @ to_plane @ _unturned(wish, width, height)
    if wish.turns % 2:
        warp_size = (height, width)
    else:
        warp_size = (width, height)
    beyond: Beyond = "edge" if wish.beyond is None else wish.beyond
    warp = Warp(bounds, *warp_size, (Projective(matrix),), beyond)
    rect = (*corner, corner[0] + width, corner[1] + height)
    return Framing(warp, plane, tuple(float(v) for v in rect))  # type: ignore[arg-type]


def _plane(wish: Wish, bounds: Rect) -> Matrix:
    """From places of the plane to those of the original."""
    half = max(bounds.width, bounds.height) / 2
    x, y = (wish.level * _MOST_TILT / 100 / half, wish.upright * _MOST_TILT / 100 / half)
    tilt = np.array([[1, 0, 0], [0, 1, 0], [x, y, 1.0]])
    a = math.radians(-wish.angle)
    turn = np.array([[math.cos(a), -math.sin(a), 0], [math.sin(a), math.cos(a), 0], [0, 0, 1]])
    place = np.array([[1, 0, bounds.width / 2], [0, 1, bounds.height / 2], [0, 0, 1]])
    return np.asarray(place @ tilt @ turn)


def _unturned(wish: Wish, width: int, height: int) -> Matrix:
    """From places of the framed picture to those before it was turned and mirrored."""
    back = np.eye(3)
    w, h = width, height
    for _ in range(wish.turns % 4):
        # Clockwise: (x, y) of a picture of height h goes to (h - y, x).
        back = back @ np.array([[0, 1, 0], [-1, 0, h], [0, 0, 1.0]])
        w, h = h, w
    if wish.mirror:
        back = back @ np.array([[-1, 0, w], [0, 1, 0], [0, 0, 1.0]])
    return back


def _within(plane: Matrix, centre: Points, size: Points, bounds: Rect) -> tuple[Points, float]:
    """A middle on the plane and how much of a size fits around it into the picture.

    The middle is the given one, unless so little fits there that it has to go inwards.
    """
    least = min(1.0, LEAST_SIDE / float(size.min()))
    share = 0.0
    for way in np.linspace(0, 1, _INWARDS):
        place = centre * (1 - way)
        share = _share_within(plane, place, size, bounds)
        if share >= least:
            break
    return place, share


def _share_within(plane: Matrix, centre: Points, size: Points, bounds: Rect) -> float:
    """How much of a size fits around a place of the plane with all its corners in the picture."""

    def fits(share: float) -> bool:
        half = share * size / 2
        corners = _corners(*(centre - half), *(centre + half))
        # Beyond the horizon of a tilted plane there is no picture.
        if (corners @ plane[2, :2] + plane[2, 2]).min() <= _HORIZON:
            return False
        ends = moved(plane, corners)
        return bool(
            ends.min() >= -_EDGE and (ends <= np.array([bounds.width, bounds.height]) + _EDGE).all()
        )

    if fits(1.0):
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low


def _corners(x0: float, y0: float, x1: float, y1: float) -> Points:
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)], np.float64)

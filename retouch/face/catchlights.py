"""Where the light shows in an eye."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.discs import disc
from retouch.face.analysis import Analysis
from retouch.face.feature_colours import whites_of
from retouch.face.iris import Iris
from retouch.geometry import Rect
from retouch.picture import Pyramid

# A catchlight is lighter than the whites of the eyes by so much, and than the iris by so much (L*).
_OVER_WHITES, _OVER_IRIS = 2.0, 18.0
# It has this part of the iris' area at least and at most, and its middle lies within so much of the radius.
_LEAST, _MOST, _WITHIN = 0.002, 0.2, 0.92
# What is seen of an iris is closed over notches so wide: lights and lashes at its rim (radii).
_NOTCH = 0.5
# A light goes with so much of its soft edge (radii of the iris).
_EDGE = 0.05


@dataclass(frozen=True)
class Catchlight:
    """A light in an eye as a stroke along it: ``path`` and ``radius`` in pixels of the original."""

    path: tuple[tuple[float, float], ...]
    radius: float


def seen_iris(analysis: Analysis, face: int, iris: Iris) -> tuple[Rect, NDArray[np.bool_]]:
    """What lids leave free of an iris and its pupil, lights in it too: a rectangle and the places in it."""
    r = iris.radius
    rect = Rect(int(iris.x - r) - 1, int(iris.y - r) - 1, int(iris.x + r) + 2, int(iris.y + r) + 2)
    shape = (rect.height, rect.width)
    cover = analysis.mask(("irises", "pupils"), rect, shape, face) > 0.5
    element = disc(_NOTCH * r / 2)
    padded = np.pad(cover.astype(np.uint8), side := len(element))
    closed = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, element)[side:-side, side:-side] > 0
    ys, xs = np.mgrid[rect.y0 : rect.y1, rect.x0 : rect.x1] + 0.5
    return rect, closed & (np.hypot(xs - iris.x, ys - iris.y) < r)


def catchlight(analysis: Analysis, pyramid: Pyramid, face: int, iris: Iris) -> Catchlight | None:
    """The clearest light in what is seen of an iris; None without one."""
    rect, seen = seen_iris(analysis, face, iris)
    inner = rect.clip(pyramid.picture.bounds)
    if inner != rect or not seen.any():
        return None
    light = to_lab(pyramid.crop(rect, 0))[..., 0]
    least = float(np.median(light[seen])) + _OVER_IRIS
    whites = whites_of(analysis, pyramid, face)
    if whites is not None:
        least = max(least, whites.light + _OVER_WHITES)
    bright = (seen & (light > least)).astype(np.uint8)
    count, parts, stats, middles = cv2.connectedComponentsWithStats(bright)
    whole = np.pi * iris.radius**2
    best, clearest = None, 0.0
    for k in range(1, count):
        x, y = middles[k] + 0.5 + (rect.x0, rect.y0)
        size = stats[k, cv2.CC_STAT_AREA] / whole
        inside = np.hypot(x - iris.x, y - iris.y) < _WITHIN * iris.radius
        clear = float((light[parts == k] - least).sum())
        if inside and _LEAST < size < _MOST and clear > clearest:
            best, clearest = parts == k, clear
    return None if best is None else _stroke(best, rect, _EDGE * iris.radius)


def _stroke(part: NDArray[np.bool_], rect: Rect, edge: float) -> Catchlight:
    """A part as a stroke along its longer axis, as wide as the part is."""
    inner = cv2.distanceTransform(np.pad(part.astype(np.uint8), 1), cv2.DIST_L2, 5)
    thick = float(inner.max())
    at = np.argwhere(part)[:, ::-1] + 0.5
    middle = at.mean(0)
    _, _, axes = (
        np.linalg.svd(at - middle, full_matrices=False) if len(at) > 1 else (0, 0, np.eye(2))
    )
    along = (at - middle) @ axes[0]
    # The ends of the brush lie at the ends of the part.
    low, high = float(along.min()) + thick, float(along.max()) - thick
    path = [tuple(middle)]
    if high > low:
        stops = np.linspace(low, high, max(2, round((high - low) / max(thick, 1.0)) + 1))
        near = [at[np.abs(along - s) <= max(thick, 1.0) / 2] for s in stops]
        path = [tuple(n.mean(0)) for n in near if len(n)]
    places = tuple((round(float(x) + rect.x0, 1), round(float(y) + rect.y0, 1)) for x, y in path)
    return Catchlight(places, max(1.0, round(2 * (thick + edge)) / 2))

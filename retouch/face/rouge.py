"""The colour that both cheeks have alike: rouge, or a living flush that belongs to the face.

Irritated skin is red in patches of its own on each side. What lies at mirrored places on both cheeks, as
broad and as red, was put on or belongs there (common practice: it stays, or the face goes grey).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face.analysis import Analysis
from retouch.face.complexion import seen
from retouch.face.find import Face
from retouch.picture import Pyramid
from retouch.skin.own import OwnSkin
from retouch.skin.redness import erythema
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]

# Points of the mesh in the middle of each cheek; what is looked at around them, on cells so large.
_CHEEKS = (50, 280)
_REACH_MM, _CELL_MM = 24.0, 3.0
# Sizes that are tried (one sigma), and the least redness (a*) that both must have.
_SIZES_MM = (7.0, 10.0, 14.0)
_LEAST = 2.0


@dataclass(frozen=True)
class Rouge:
    """``red`` (a*) is what both cheeks have in their middles ``at`` (right, left; pixels of the
    original), falling off as a Gaussian of ``size_mm``; 0 where they aren't alike."""

    red: float
    at: tuple[tuple[float, float], tuple[float, float]]
    size_mm: float


def rouge(analysis: Analysis, pyramid: Pyramid, own: OwnSkin, face: int = 0) -> Rouge:
    """What the cheeks of a face have alike.

    Raises
    ------
    IndexError
        When there is no such face.
    """
    one = analysis.faces[face]
    colours, places = seen(analysis, pyramid, face, SKIN_OF_FACE)
    red = erythema(colours[None], own.at_places(places)[None])[0]
    sides = [
        _cells(one, red, places, point, way) for point, way in zip(_CHEEKS, (1, -1), strict=True)
    ]
    alike = np.minimum(sides[0], sides[1])
    middle = alike.shape[0] // 2
    nothing = Rouge(0.0, _at(one, 0.0, 0.0), _SIZES_MM[0])
    if np.isnan(alike).mean() > 0.5:
        return nothing
    alike = np.nan_to_num(np.maximum(alike, 0), nan=0.0)
    best: tuple[float, Rouge] | None = None
    ys, xs = np.mgrid[: alike.shape[0], : alike.shape[1]] - float(middle)
    for size in _SIZES_MM:
        # A Gaussian answers most to one of its own size.
        answer = cv2.GaussianBlur(alike, (0, 0), size / _CELL_MM)
        i, j = np.unravel_index(int(answer.argmax()), answer.shape)
        dx, dy = (j - middle) * _CELL_MM, (i - middle) * _CELL_MM
        shape = np.exp(-((xs * _CELL_MM - dx) ** 2 + (ys * _CELL_MM - dy) ** 2) / (2 * size * size))
        height = float((alike * shape).sum() / (shape * shape).sum())
        error = float(((alike - height * shape) ** 2).mean())
        if height > _LEAST and (best is None or error < best[0]):
            best = (error, Rouge(height, _at(one, dx, dy), size))
    return best[1] if best is not None else nothing


def _axes(face: Face) -> tuple[Array, Array]:
    """One millimetre to the left of the picture's upright face, and one down."""
    roll = np.radians(face.pose.roll)
    mm = face.scale.px_per_mm
    return (
        np.array([np.cos(roll), np.sin(roll)], np.float32) * mm,
        np.array([-np.sin(roll), np.cos(roll)], np.float32) * mm,
    )


def _at(face: Face, dx: float, dy: float) -> tuple[tuple[float, float], tuple[float, float]]:
    across, down = _axes(face)
    out = []
    for point, way in zip(_CHEEKS, (1, -1), strict=True):
        x, y = face.points[point, :2] + way * dx * across + dy * down
        out.append((float(x), float(y)))
    return out[0], out[1]


def _cells(face: Face, red: Array, places: Array, point: int, way: int) -> Array:
    """Mean redness on cells around a cheek, mirrored for the other; NaN where no skin is."""
    across, down = _axes(face)
    mm = face.scale.px_per_mm**2
    away = places - face.points[point, :2]
    half = int(_REACH_MM / _CELL_MM)
    cols = np.rint(way * (away @ across) / mm / _CELL_MM).astype(int) + half
    rows = np.rint((away @ down) / mm / _CELL_MM).astype(int) + half
    side = 2 * half + 1
    there = (cols >= 0) & (cols < side) & (rows >= 0) & (rows < side)
    at = rows[there] * side + cols[there]
    counts = np.bincount(at, minlength=side * side)
    sums = np.bincount(at, red[there].astype(np.float64), side * side)
    with np.errstate(invalid="ignore", divide="ignore"):
        return (sums / counts).reshape(side, side).astype(np.float32)

"""Masks as outlines: what an edit keeps of a place that was found."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Points = tuple[tuple[float, float], ...]
Mask = NDArray[np.bool_]
_Line = NDArray[np.float64]
# At how many pixels across a place within an outline is looked for, at most.
_ACROSS = 80


def outlines(mask: Mask, rect: Rect, least: float = 9.0, fine: float = 0.4) -> list[Points]:
    """The parts of a mask, one closed outline each, the largest first.

    A part with holes (the rim of glasses) is one outline, too: it runs in to each hole and back on
    the same way, so that what lies between is inside by the even-odd rule.

    Parameters
    ----------
    mask : ndarray (h, w) bool
    rect : Rect
        What it covers of the original.
    least : float
        Pixels of the mask that a part or a hole has at least.
    fine : float
        How far outlines may leave the mask's edge, in its pixels.
    """
    found, tree = cv2.findContours(mask.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    if tree is None:
        return []
    h, w = mask.shape
    lines = [cv2.approxPolyDP(c, fine, True)[:, 0].astype(np.float64) for c in found]
    out = []
    for n, (_, _, child, parent) in enumerate(tree[0]):
        if parent >= 0 or cv2.contourArea(found[n]) < least or len(lines[n]) < 3:
            continue
        whole = lines[n]
        while child >= 0:
            if cv2.contourArea(found[child]) >= least and len(lines[child]) >= 3:
                whole = _with_hole(whole, lines[child])
            child = tree[0][child][0]
        x = rect.x0 + (whole[:, 0] + 0.5) * rect.width / w
        y = rect.y0 + (whole[:, 1] + 0.5) * rect.height / h
        points = tuple((round(float(a), 1), round(float(b), 1)) for a, b in zip(x, y, strict=True))
        out.append((cv2.contourArea(found[n]), points))
    out.sort(key=lambda part: -part[0])
    return [points for _, points in out]


def place_within(line: Points) -> tuple[float, float]:
    """The place inside of a closed outline that lies farthest from it, to half a pixel of the original or an
    eightieth of its size."""
    points = np.asarray(line, np.float64)
    low = points.min(0)
    scale = min(2.0, _ACROSS / max(float((points.max(0) - low).max()), 1e-6))
    inner = np.round((points - low) * scale).astype(np.int32) + 1
    mask = np.zeros(inner.max(0)[::-1] + 2, np.uint8)
    cv2.fillPoly(mask, [inner], 1)
    y, x = np.unravel_index(int(cv2.distanceTransform(mask, cv2.DIST_L2, 5).argmax()), mask.shape)
    at = low + (np.array([x, y]) - 1) / scale
    return round(float(at[0]), 1), round(float(at[1]), 1)


def _with_hole(line: _Line, hole: _Line) -> _Line:
    """A line that goes around a hole on its way, by the shortest bridge."""
    away = np.linalg.norm(line[:, None] - hole[None], axis=2)
    i, j = np.unravel_index(int(away.argmin()), away.shape)
    around = np.concatenate([hole[j:], hole[: j + 1]])
    return np.concatenate([line[: i + 1], around, line[i:]])

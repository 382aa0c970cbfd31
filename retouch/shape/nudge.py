"""Strokes that push, widen, narrow, turn, smooth or bring back what lies under a brush.

A stroke is many small moves one after the other, each smooth and too small to fold (A. Gustafson,
*Interactive Image Warping*, 1993, moves in the same local manner); their composition is worked out at the
nodes of one field.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

Act = Literal["push", "widen", "narrow", "turn_right", "turn_left", "smooth", "bring_back"]
ACTS: tuple[Act, ...] = (
    "push", "widen", "narrow", "turn_right", "turn_left", "smooth", "bring_back",
)  # fmt: skip
_NUMBER = {name: n for n, name in enumerate(ACTS)}

# Nodes per radius of the brush; and no closer than so many pixels.
_FINE, _CLOSEST = 14.0, 1.0
# A step of a push is this part of the brush's soft rim at most, so that none folds.
_STEP = 0.12
# A dab of the other ways lies so many radii after the one before; at full strength it widens by this
# part or turns by so many radians.
_SPACED, _WIDER, _TURNED = 0.25, 0.05, 0.06
# Smoothing averages over this part of the radius.
_BROAD = 0.35


@dataclass(frozen=True)
class Brush:
    """``radius`` in pixels; ``soft`` 0..1: the part of it over which it fades; ``strength`` 0..1."""

    radius: float
    soft: float
    strength: float


def stroke(
    act: Act, path: Points, brush: Brush, below: Composed, pressure: Points | None = None
) -> Field | None:
    """The field of a stroke along places (n, 2) of the original, on top of what was moved before.

    ``pressure`` (n,) 0..1 makes it weaker along its way.
    """
    line = below.forth(np.asarray(path, np.float64).reshape(-1, 2))
    if brush.strength <= 0 or (act == "push" and len(line) < 2):
        return None
    force = np.ones(len(line)) if pressure is None else np.asarray(pressure, np.float64)
    step = max(_CLOSEST, float(2.0 ** np.floor(np.log2(max(brush.radius / _FINE, 1.0)))))
    low, high = line.min(0) - brush.radius, line.max(0) + brush.radius
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    x, y, places = nodes_of(rect, step)
    flat = np.ascontiguousarray(places.reshape(-1, 2), np.float64)
    soft = max(brush.soft, 0.1)
    if act in ("smooth", "bring_back"):
        at = _levelled(act, line, brush, soft, below, places, step, force)
    else:
        dabs = _pushes(line, brush, soft, force) if act == "push" else _dabs(line, brush, force)
        at = _through(flat, dabs, _NUMBER[act], brush.radius, soft).reshape(places.shape)
    return from_places(x, y, step, at)


def begun(path: Points, share: float) -> Points:
    """The first part of a path (n, 2 or more), by its length; what else its rows hold goes along."""
    line = np.asarray(path, np.float64)
    far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line[:, :2], axis=0).T))])
    end = share * far[-1]
    n = int(np.searchsorted(far, end, side="right"))
    if n >= len(line):
        return line
    t = (end - far[n - 1]) / max(far[n] - far[n - 1], 1e-9)
    return np.concatenate([line[:n], (line[n - 1] + t * (line[n] - line[n - 1]))[None]])


def _pushes(line: Points, brush: Brush, soft: float, force: Points) -> NDArray[np.float64]:
    """Small moves (x, y, dx, dy) along a line, each by its force."""
    most = _STEP * soft * brush.radius / max(brush.strength, 0.05)
    out = []
    for (a, f), (b, g) in pairwise(zip(line, force, strict=True)):
        count = max(1, int(np.ceil(np.hypot(*(b - a)) / most)))
        for n in range(count):
            pressed = brush.strength * (f + (g - f) * (n + 0.5) / count)
            out.append((*(a + (b - a) * n / count), *((b - a) / count * pressed)))
    return np.array(out, np.float64)


def _dabs(line: Points, brush: Brush, force: Points) -> NDArray[np.float64]:
    """Places (x, y, strength, 0) a part of the radius apart along a line."""
    return np.array(
        [
            (x, y, brush.strength * f, 0.0)
            for x, y, f in _spaced(line, _SPACED * brush.radius, force)
        ]
    )


def _spaced(line: Points, apart: float, force: Points) -> list[Points]:
    """Places (x, y, force) so far apart along a line."""
    rows = np.column_stack([line, force])
    out, left = [rows[0]], apart
    for a, b in pairwise(rows):
        long = float(np.hypot(*(b - a)[:2]))
        while long >= left:
            a = a + (b - a) * left / long
            out.append(a)
            long, left = float(np.hypot(*(b - a)[:2])), apart
        left -= long
    return out


@compiled
def _through(
    places: NDArray[np.float64], dabs: NDArray[np.float64], act: int, radius: float, soft: float
) -> NDArray[np.float64]:
    """Where places come from, through all dabs, the last one first."""
    out = places.copy()
    for n in range(len(out)):
        x, y = out[n, 0], out[n, 1]
        for m in range(len(dabs) - 1, -1, -1):
            cx, cy = dabs[m, 0], dabs[m, 1]
            if act == 0:
                # What is shown here after a push lay under the brush before it.
                cx, cy = cx + dabs[m, 2], cy + dabs[m, 3]
            dx, dy = x - cx, y - cy
            r = np.sqrt(dx * dx + dy * dy) / radius
            if r >= 1:
                continue
            t = min((1 - r) / soft, 1.0)
            w = t * t * (3 - 2 * t)
            if act == 0:
                x -= w * dabs[m, 2]
                y -= w * dabs[m, 3]
            elif act <= 2:
                part = w * dabs[m, 2] * _WIDER
                k = 1 - part if act == 1 else 1 + part
                x, y = cx + dx * k, cy + dy * k
            else:
                angle = w * dabs[m, 2] * _TURNED
                # Turned clockwise on the screen, it comes from the other way round.
                angle = -angle if act == 3 else angle
                c, s = np.cos(angle), np.sin(angle)
                x, y = cx + c * dx - s * dy, cy + s * dx + c * dy
        out[n, 0], out[n, 1] = x, y
    return out


def _weights(
    line: Points, brush: Brush, soft: float, places: Points, force: Points
) -> NDArray[np.float64]:
    """How much of a brush there was at each place, 0..1."""
    out = np.zeros(places.shape[:2])
    for x, y, f in _spaced(line, _SPACED * brush.radius, force):
        r = np.hypot(*np.moveaxis(places - (x, y), -1, 0)) / brush.radius
        out = np.maximum(out, f * smooth_step((1 - r) / soft))
    return out * brush.strength


def _levelled(
    act: Act,
    line: Points,
    brush: Brush,
    soft: float,
    below: Composed,
    places: Points,
    step: float,
    force: Points,
) -> Points:
    """Where nodes come from, so that the whole map is smoother or less there."""
    at = below.back(places.reshape(-1, 2)).reshape(places.shape)
    moved = at - places
    goal = np.zeros_like(moved)
    if act == "smooth":
        sigma = max(_BROAD * brush.radius / step, 0.8)
        goal = cv2.GaussianBlur(moved, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    weight = _weights(line, brush, soft, places, force)[..., None]
    wanted = places + moved + weight * (goal - moved)
    return below.forth(wanted.reshape(-1, 2)).reshape(places.shape)

"""An outlined part moved, turned and scaled, with a soft border around it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

# Nodes over the soft border; and no closer than so many pixels.
_FINE, _CLOSEST = 8.0, 1.0
# Corners of an outline are carried along with so many places between them.
_BETWEEN = 8


@dataclass(frozen=True)
class Motion:
    """``across``, ``down`` in pixels; ``turn`` in degrees clockwise and ``size`` 1 for as it is, around the
    middle of the outline; ``soft``: pixels outside of it over which the motion fades."""

    across: float
    down: float
    turn: float
    size: float
    soft: float


def part(outline: Points, motion: Motion, below: Composed) -> Field | None:
    """The field of an outlined part (n, 2) of the original, on top of what was moved before."""
    line = below.forth(_dense(np.asarray(outline, np.float64)))
    middle = (line.min(0) + line.max(0)) / 2
    angle = np.radians(motion.turn)
    turn = motion.size * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    back = np.linalg.inv(turn)
    shift = np.array([motion.across, motion.down])
    there = (line - middle) @ turn.T + middle + shift
    soft = max(motion.soft, 1.0)
    step = max(_CLOSEST, float(2.0 ** np.floor(np.log2(max(soft / _FINE, 1.0)))))
    both = np.concatenate([line, there])
    low, high = both.min(0) - soft, both.max(0) + soft
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    x, y, places = nodes_of(rect, step)
    # The border fades around where the part was and where it goes: in between, all of it moves.
    cover = np.maximum(
        *(_fading(one, soft, (x, y), step, places.shape[:2]) for one in (line, there))
    )
    sources = (places - middle - shift) @ back.T + middle
    return from_places(x, y, step, places + (sources - places) * cover[..., None])


def _dense(outline: Points) -> Points:
    """An outline with places between its corners."""
    after = np.roll(outline, -1, axis=0)
    t = np.arange(_BETWEEN)[None, :, None] / _BETWEEN
    return np.asarray((outline[:, None] + (after - outline)[:, None] * t).reshape(-1, 2))


def _fading(
    line: Points, soft: float, corner: tuple[float, float], step: float, shape: tuple[int, ...]
) -> NDArray[np.float64]:
    """1 inside of a closed line, fading to 0 so many pixels outside, at nodes."""
    inside = np.zeros(shape, np.uint8)
    at = np.round((line - corner) / step).astype(np.int32)
    cv2.fillPoly(inside, [at], 1)
    away = cv2.distanceTransform(1 - inside, cv2.DIST_L2, 5) * step
    return smooth_step((1 - away / soft).astype(np.float64))

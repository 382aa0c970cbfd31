"""Places within outlines held still while what lies around them is moved."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.shape.composed import Composed, held
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.places import at_places
from retouch.warp.steps import Points

# Distances from what is held are kept on so many cells along the longer side.
_CELLS = 640


def holding(
    field: Field | None,
    outlines: Sequence[Sequence[tuple[float, float]]],
    soft: float,
    below: Composed,
) -> Field | None:
    """A field that leaves what lies within outlines exactly where it is.

    Parameters
    ----------
    outlines : sequence of closed lines
        In pixels of the original.
    soft : float
        Pixels outside of them over which the motion begins.
    """
    if field is None or not outlines:
        return field
    return field.scaled(held(field, below, _away(outlines, max(soft, 1.0))))


def _away(
    outlines: Sequence[Sequence[tuple[float, float]]], soft: float
) -> Callable[[Points], NDArray[np.float64]]:
    """How freely places of the original move, 0..1."""
    lines = [np.asarray(line, np.float64) for line in outlines]
    both = np.concatenate(lines)
    low, high = both.min(0) - soft - 2, both.max(0) + soft + 2
    cell = max(1.0, float((high - low).max()) / _CELLS)
    width, height = (int(np.ceil(v / cell)) + 2 for v in high - low)
    inside = np.zeros((height, width), np.uint8)
    for line in lines:
        at = np.round((line - low) / cell * 16 - 8).astype(np.int32)
        cv2.fillPoly(inside, [at], 1, cv2.LINE_8, 4)
    # A cell is held whole if a part of it is.
    inside = cv2.dilate(inside, np.ones((3, 3), np.uint8))
    away = cv2.distanceTransform(1 - inside, cv2.DIST_L2, 5) * np.float32(cell)

    def free(points: Points) -> NDArray[np.float64]:
        x, y = ((points - low) / cell - 0.5).astype(np.float32).T
        found = at_places(away, x, y, beyond=soft)
        return smooth_step((found / soft).astype(np.float64))

    return free

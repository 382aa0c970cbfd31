"""How wide a hole is for the most part: what it is at its widest says little of a long one."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

_SQUARE = np.ones((3, 3), np.uint8)


def usual_half(hole: NDArray[np.bool_]) -> float:
    """Half the usual width of a hole (h, w) in pixels, at least 1: its area by the length of its edge."""
    inner = cv2.erode(hole.astype(np.uint8), _SQUARE) > 0
    edge = int(np.count_nonzero(hole & ~inner))
    return max(1.0, int(np.count_nonzero(hole)) / max(1, edge))

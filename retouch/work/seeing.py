"""The picture as an edit makes it, for what looks for things in it."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.work.bench import Bench

Array = NDArray[np.float32]


def sees(bench: Bench, edit: Edit) -> Callable[[Rect, tuple[int, int]], Array]:
    """What gives working values of a rectangle of the original on (rows, cols), (rows, cols, 3)."""
    plan = bench.renderer.plan(edit)

    def read(rect: Rect, shape: tuple[int, int]) -> Array:
        made = np.ascontiguousarray(plan.view(rect, 0), np.float32)
        if made.shape[:2] == shape:
            return made
        small = cv2.resize(made, shape[::-1], interpolation=cv2.INTER_AREA)
        return np.asarray(small, np.float32)

    return read

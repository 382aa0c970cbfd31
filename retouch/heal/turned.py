"""Sources that are turned, resized or mirrored before they are used."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]


@dataclass(frozen=True)
class Turn:
    """How a source is turned around its middle.

    What is taken is first mirrored left to right on wish, then turned by ``degrees`` clockwise as
    seen, then enlarged by ``size``.
    """

    degrees: float = 0.0
    size: float = 1.0
    mirror: bool = False

    @property
    def nothing(self) -> bool:
        return not self.mirror and self.size == 1 and self.degrees % 360 == 0

    def matrix(self) -> NDArray[np.float64]:
        """From places beside the target's middle to places beside the source's, (2, 2)."""
        angle = np.radians(self.degrees)
        c, s = np.cos(angle), np.sin(angle)
        back = np.array([[c, s], [-s, c]]) / self.size
        flip = np.diag([-1.0 if self.mirror else 1.0, 1.0])
        return flip @ back


def turned(read: Reader, middle: tuple[float, float], turn: Turn, bounds: Rect) -> Reader:
    """A reader of the source's surroundings as they look turned around ``middle``.

    Places beyond the picture are mirrored at its border.
    """
    if turn.nothing:
        return read
    matrix = turn.matrix()

    def of_turned(rect: Rect) -> Array:
        wide = _covered(rect, middle, matrix)
        inner = wide.clip(bounds)
        if inner.empty:
            x = min(max(wide.x0, bounds.x0), bounds.x1 - 1)
            y = min(max(wide.y0, bounds.y0), bounds.y1 - 1)
            inner = Rect(x, y, x + 1, y + 1)
        area = np.ascontiguousarray(read(inner))
        centre = np.asarray(middle)
        corner = np.array([rect.x0 + 0.5, rect.y0 + 0.5])
        first = matrix @ (corner - centre) + centre - (inner.x0 + 0.5, inner.y0 + 0.5)
        return cv2.warpAffine(
            area,
            np.concatenate([matrix, first[:, None]], 1),
            (rect.width, rect.height),
            flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REFLECT,
        )

    return of_turned


def turned_reads(rects: list[Rect], middle: tuple[float, float], turn: Turn) -> list[Rect]:
    """What has to be read to know rectangles of the turned source."""
    if turn.nothing:
        return rects
    return [_covered(r, middle, turn.matrix()) for r in rects]


def _covered(rect: Rect, middle: tuple[float, float], matrix: NDArray[np.float64]) -> Rect:
    corners = np.array(
        [[rect.x0, rect.y0], [rect.x1, rect.y0], [rect.x0, rect.y1], [rect.x1, rect.y1]], float
    )
    places = (corners - middle) @ matrix.T + middle
    low, high = np.floor(places.min(0)).astype(int), np.ceil(places.max(0)).astype(int)
    return Rect(int(low[0]), int(low[1]), int(high[0]), int(high[1])).grow(3)

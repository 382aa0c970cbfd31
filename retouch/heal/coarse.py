"""A reduced grid around a touch, on which tone and sources are judged.

Tone varies slowly compared with the brush, so it is worked out on a grid with a fixed number of
cells per brush radius: the cost of a heal hardly depends on the size of the brush.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Array = NDArray[np.float32]

CELLS_PER_RADIUS = 6.5


@dataclass(frozen=True)
class Grid:
    """Cells laid over ``rect``; ``rows`` x ``cols`` cells of ``step_x`` x ``step_y`` pixels."""

    rect: Rect
    rows: int
    cols: int

    @classmethod
    def over(cls, rect: Rect, radius: float, cells: float = CELLS_PER_RADIUS) -> Grid:
        """A grid over ``rect`` with so many cells per ``radius``, of one pixel at least."""
        step = max(1.0, radius / cells)
        return cls(rect, max(1, round(rect.height / step)), max(1, round(rect.width / step)))

    @property
    def step_x(self) -> float:
        return self.rect.width / self.cols

    @property
    def step_y(self) -> float:
        return self.rect.height / self.rows

    @property
    def x(self) -> Array:
        """Centres of the columns in pixels of the original, shape (1, cols)."""
        cells = (np.arange(self.cols, dtype=np.float32) + 0.5) * self.step_x + self.rect.x0
        return cells.astype(np.float32)[None, :]

    @property
    def y(self) -> Array:
        """Centres of the rows, shape (rows, 1)."""
        cells = (np.arange(self.rows, dtype=np.float32) + 0.5) * self.step_y + self.rect.y0
        return cells.astype(np.float32)[:, None]

    def cell(self, x: float, y: float) -> tuple[int, int]:
        """Row and column of the cell that holds a place (not clipped to the grid)."""
        return int((y - self.rect.y0) // self.step_y), int((x - self.rect.x0) // self.step_x)

    def reduce(self, area: Array) -> Array:
        """Pixels of ``rect`` averaged into the cells."""
        return cv2.resize(area, (self.cols, self.rows), interpolation=cv2.INTER_AREA)

    def spread(self, cells: Array, rect: Rect) -> Array:
        """Values of the cells interpolated at every pixel of ``rect``, linearly."""
        mx = (np.arange(rect.x0, rect.x1) + 0.5 - self.rect.x0) / self.step_x - 0.5
        my = (np.arange(rect.y0, rect.y1) + 0.5 - self.rect.y0) / self.step_y - 0.5
        shape = (rect.height, rect.width)
        return cv2.remap(
            cells,
            np.broadcast_to(mx.astype(np.float32), shape),
            np.broadcast_to(my.astype(np.float32)[:, None], shape),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )


def blur(image: Array, sigma: float) -> Array:
    """Gaussian blur with mirrored borders; ``sigma`` in pixels of ``image``, cut at 3 sigma."""
    if sigma <= 0:
        return image
    size = 2 * int(np.ceil(3 * sigma)) + 1
    return cv2.GaussianBlur(image, (size, size), sigma, borderType=cv2.BORDER_REFLECT)

"""A reduced grid around a touch, on which tone and sources are judged.

Tone varies slowly compared with the brush, so it is worked out on a grid with a fixed number of
cells per brush radius: the cost of a heal hardly depends on the size of the brush.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect

Array = NDArray[np.float32]

CELLS_PER_RADIUS = 6.5
# Bits after the point of an outline's corners, in cells.
_FRACTION = 4


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

    @cached_property
    def x(self) -> Array:
        """Centres of the columns in pixels of the original, shape (1, cols)."""
        cells = (np.arange(self.cols, dtype=np.float32) + 0.5) * self.step_x + self.rect.x0
        return cells.astype(np.float32)[None, :]

    @cached_property
    def y(self) -> Array:
        """Centres of the rows, shape (rows, 1)."""
        cells = (np.arange(self.rows, dtype=np.float32) + 0.5) * self.step_y + self.rect.y0
        return cells.astype(np.float32)[:, None]

    def cell(self, x: float, y: float) -> tuple[int, int]:
        """Row and column of the cell that holds a place (not clipped to the grid)."""
        return int((y - self.rect.y0) // self.step_y), int((x - self.rect.x0) // self.step_x)

    def inside(self, outlines: Sequence[Sequence[tuple[float, float]]]) -> NDArray[np.bool_]:
        """Cells whose middles lie in one of the closed outlines, given in pixels of the original."""
        canvas = np.zeros((self.rows, self.cols), np.uint8)
        step, origin = (self.step_x, self.step_y), (self.rect.x0, self.rect.y0)
        for corners in outlines:
            cells = (np.asarray(corners, np.float64) - origin) / step - 0.5
            fixed = np.round(cells * (1 << _FRACTION)).astype(np.int32)
            cv2.fillPoly(canvas, [fixed], 1, shift=_FRACTION)
        return canvas.astype(np.bool_)

    def reduce(self, area: Array) -> Array:
        """Pixels of ``rect``, perhaps reduced themselves, averaged into the cells."""
        depth = 1 if area.ndim == 2 else area.shape[2]
        lines = np.ascontiguousarray(area, np.float32).reshape(len(area), -1)
        out = area_means(lines, depth, self.rows, self.cols)
        return out[..., 0] if area.ndim == 2 else out

    def spread(self, cells: Array, rect: Rect) -> Array:
        """Values of the cells interpolated at every pixel of ``rect``, linearly."""
        deep = cells[..., None] if cells.ndim == 2 else cells
        out = interpolated(
            np.ascontiguousarray(deep, np.float32),
            rect.height,
            rect.width,
            (rect.y0 + 0.5 - self.rect.y0) / self.step_y - 0.5,
            (rect.x0 + 0.5 - self.rect.x0) / self.step_x - 0.5,
            1 / self.step_y,
            1 / self.step_x,
        )
        return out[..., 0] if cells.ndim == 2 else out


@compiled
def area_means(lines: Array, depth: int, rows: int, cols: int) -> Array:
    """Means over ``rows`` x ``cols`` cells, each pixel shared between the cells it lies in.

    ``lines`` is (h, w * depth); returns (rows, cols, depth). A cell is a pixel at least.
    """
    h, wide = lines.shape
    w = wide // depth
    step_x, step_y = w / cols, h / rows
    out = np.empty((rows, cols, depth), np.float32)
    gathered = np.zeros((rows, wide), np.float32)  # whole lines first: they fill the registers
    for y in range(h):
        row = min(int(y / step_y), rows - 1)
        upper = np.float32(1 if row == rows - 1 else min(1.0, (row + 1) * step_y - y))
        line, sums = lines[y], gathered[row]
        for i in range(wide):
            sums[i] += upper * line[i]
        if upper < 1:
            lower, rest = np.float32(1) - upper, gathered[row + 1]
            for i in range(wide):
                rest[i] += lower * line[i]
    scale = np.float32(1 / (step_x * step_y))
    for j in range(cols):
        start, end = j * step_x, (j + 1) * step_x
        first, last = int(start), min(int(np.ceil(end - 1e-9)), w) - 1
        head = np.float32(min(first + 1.0, end) - start)
        tail = np.float32(end - last)
        for row in range(rows):
            sums = gathered[row]
            for k in range(depth):
                total = head * sums[first * depth + k]
                for x in range(first + 1, last):
                    total += sums[x * depth + k]
                if last > first:
                    total += tail * sums[last * depth + k]
                out[row, j, k] = scale * total
    return out


@compiled
def interpolated(
    cells: Array, h: int, w: int, y0: float, x0: float, step_y: float, step_x: float
) -> Array:
    """Bilinear interpolation at ``(y0 + i step_y, x0 + j step_x)``, the border repeated.

    ``cells`` is (rows, cols, depth), a cell's middle at whole numbers; returns (h, w, depth).
    """
    rows, cols, depth = cells.shape
    out = np.empty((h, w, depth), np.float32)
    left = np.empty(w, np.int64)
    part = np.empty(w, np.float32)
    for j in range(w):
        at = min(max(x0 + j * step_x, 0.0), cols - 1.0)
        left[j] = min(int(at), max(cols - 2, 0))
        part[j] = at - left[j]
    for i in range(h):
        at = min(max(y0 + i * step_y, 0.0), rows - 1.0)
        top = min(int(at), max(rows - 2, 0))
        low = np.float32(at - top)
        above, below = cells[top], cells[min(top + 1, rows - 1)]
        for j in range(w):
            a, b, t = left[j], min(left[j] + 1, cols - 1), part[j]
            for k in range(depth):
                upper = above[a, k] + t * (above[b, k] - above[a, k])
                lower = below[a, k] + t * (below[b, k] - below[a, k])
                out[i, j, k] = upper + low * (lower - upper)
    return out


def halved(image: Array) -> Array:
    """A picture of one or three channels at half size: means of two by two pixels.

    Pixel i of the result covers pixels 2i and 2i + 1; an odd last one stands for two.
    """
    h = len(image)
    depth = 1 if image.ndim == 2 else image.shape[2]
    lines = np.ascontiguousarray(image, np.float32).reshape(h, -1)
    out = _halved(lines, depth)
    return out if image.ndim == 2 else out.reshape(len(out), -1, depth)


@compiled
def _halved(lines: Array, depth: int) -> Array:
    h, wide = lines.shape
    w = wide // depth
    half = (w + 1) // 2
    out = np.empty(((h + 1) // 2, half * depth), np.float32)
    sums = np.empty(2 * half * depth, np.float32)
    for i in range(len(out)):
        upper, lower = lines[2 * i], lines[min(2 * i + 1, h - 1)]
        for j in range(wide):
            sums[j] = upper[j] + lower[j]
        if w % 2:
            sums[wide:] = sums[wide - depth : wide]
        row = out[i]
        if depth == 1:
            for j in range(half):
                row[j] = np.float32(0.25) * (sums[2 * j] + sums[2 * j + 1])
        else:
            for j in range(half):
                for k in range(depth):
                    at = 2 * j * depth + k
                    row[j * depth + k] = np.float32(0.25) * (sums[at] + sums[at + depth])
    return out


@compiled
def doubled(half: Array, h: int, w: int) -> Array:
    """A picture (rows, cols) made by `halved`, interpolated at its first (h, w) pixels."""
    rows, cols = half.shape
    out = np.empty((h, w), np.float32)
    mixed = np.empty(cols + 2, np.float32)
    near, far = np.float32(0.75), np.float32(0.25)
    for i in range(h):
        line = half[i // 2]
        other = half[min(max(i // 2 + (1 if i % 2 else -1), 0), rows - 1)]
        for j in range(cols):
            mixed[j + 1] = near * line[j] + far * other[j]
        mixed[0], mixed[cols + 1] = mixed[1], mixed[cols]
        row = out[i]
        for j in range(w // 2):
            row[2 * j] = near * mixed[j + 1] + far * mixed[j]
            row[2 * j + 1] = near * mixed[j + 1] + far * mixed[j + 2]
        if w % 2:
            row[w - 1] = near * mixed[w // 2 + 1] + far * mixed[w // 2]
    return out


def blur(image: Array, sigma: float) -> Array:
    """Gaussian blur with mirrored borders; ``sigma`` in pixels of ``image``, cut at 3 sigma."""
    if sigma <= 0:
        return image
    size = 2 * int(np.ceil(3 * sigma)) + 1
    return cv2.GaussianBlur(image, (size, size), sigma, borderType=cv2.BORDER_REFLECT)

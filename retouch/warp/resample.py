"""Resampling: pixels of the original as a warp lays them.

The map is worked out at nodes a cell apart, fixed to the framed picture, and lies straight between
them. The kernel is Lanczos' with three lobes, stretched where the picture is made smaller, so that
nothing aliases.

References
----------
K. Turkowski, "Filters for Common Resampling Tasks", in Graphics Gems I, 1990 (the Lanczos-windowed
sinc, and stretching it to reduce).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import PARTS, at_once, edges
from retouch.warp.steps import Points

Array = NDArray[np.float32]

# Screen pixels between two nodes of a map without fields.
CELL = 16
# Lobes of the kernel, and its steps from one pixel to the next.
LOBES = 3
_PHASES = 1024
# Values of a line that it looks at, for three channels.
_TAPS = 6 * LOBES
# Reductions up to this one are taken for none.
_NONE = 1.02
# Pictures of so many pixels or more are done in strips at the same time.
_WORTH_PARTING = 60_000
# Pixels around a place that the kernel looks at where nothing is made smaller.
REACH = LOBES + 1


@dataclass(frozen=True, eq=False)
class Nodes:
    """A map at nodes ``cell`` pixels apart.

    Parameters
    ----------
    places : ndarray (rows, cols, 2), float64
        Where each node comes from, in continuous coordinates of what is sampled.
    across : ndarray (rows, cols), float64
        Pixels of what is sampled per pixel of the result there, 1 or more.
    left, top : int
        The first pixel of the result, counted from the first node.
    width, height : int
        Pixels of the result.
    """

    places: Points
    across: NDArray[np.floating[Any]]
    left: int
    top: int
    width: int
    height: int
    cell: int = CELL

    def spread(self) -> tuple[Array, Array]:
        """Where each pixel comes from: x and y as (height, width)."""
        x, y = (np.empty((self.height, self.width), np.float32) for _ in range(2))
        for k, out in enumerate((x, y)):
            _spread(np.ascontiguousarray(self.places[..., k]), self.left, self.top, self.cell, out)
        return x, y


Back = Callable[[Points], Points]


def nodes(
    back: Back, start: tuple[int, int], size: tuple[int, int], step: float, cell: int = CELL
) -> Nodes:
    """The map at its nodes.

    Parameters
    ----------
    back : (points) -> points
        From places in the framed picture to places in what is sampled.
    start : (column, row)
        The first pixel of the result, counted from the framed picture's corner.
    size : (width, height)
        Pixels of the result.
    step : float
        Pixels of the framed picture per pixel of the result.
    cell : int
        Pixels of the result from one node to the next, a power of two.
    """
    first = [s // cell for s in start]
    last = [(s + n - 1) // cell + 1 for s, n in zip(start, size, strict=True)]
    cols, rows = (np.arange(a, b + 1) * cell for a, b in zip(first, last, strict=True))
    at = (np.stack(np.meshgrid(cols, rows), -1) + 0.5) * step
    flat = at.reshape(-1, 2)
    places = back(flat).reshape(at.shape)
    # How far the map goes over one pixel at each node, the longer of both ways.
    ways = [back(flat + d).reshape(at.shape) - places for d in ([step, 0], [0, step])]
    right, down = (np.hypot(w[..., 0], w[..., 1]) for w in ways)
    left, top = (s - f * cell for s, f in zip(start, first, strict=True))
    return Nodes(places, np.maximum(np.maximum(right, down), 1.0), left, top, *size, cell)


def resampled(area: NDArray[Any], corner: tuple[float, float], at: Nodes) -> NDArray[Any]:
    """An area sampled at the places of a map; its border is continued.

    Parameters
    ----------
    area : ndarray (h, w, 3) or (h, w), float32, uint8 or uint16
    corner : (x, y)
        Where the area's corner lies in the coordinates of the map.

    Returns
    -------
    ndarray (height, width, …), of the area's type; integers are rounded and clipped.
    """
    flat = area.ndim == 2
    picture = np.ascontiguousarray(area[..., None] if flat else area)
    out = np.empty((at.height, at.width, picture.shape[2]), picture.dtype)
    x, y = (np.ascontiguousarray(at.places[..., k] - corner[k] - 0.5) for k in range(2))
    across = np.where(at.across > _NONE, at.across, 1.0)
    top = 0.0 if picture.dtype == np.float32 else float(np.iinfo(picture.dtype).max)

    def strip(rows: tuple[int, int]) -> None:
        part = out[rows[0] : rows[1]]
        _sample(
            picture, x, y, across, at.left, at.top + rows[0], at.cell, _KERNEL, _FINE, top, part
        )

    count = 2 * PARTS if at.width * at.height >= _WORTH_PARTING else 1
    at_once(strip, edges(0, at.height, count))
    return out[..., 0] if flat else out


def resampled_quickly(area: NDArray[Any], corner: tuple[float, float], at: Nodes) -> NDArray[Any]:
    """The same, linear between pixels: for what moves."""
    x, y = at.spread()
    x -= np.float32(corner[0] + 0.5)
    y -= np.float32(corner[1] + 0.5)
    return np.asarray(cv2.remap(area, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))


def _lanczos(x: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(np.where(np.abs(x) < LOBES, np.sinc(x) * np.sinc(x / LOBES), 0.0))


def _kernel() -> Array:
    """Weights (phases + 1, 6) for places between two pixels; each row sums to 1."""
    part = np.arange(_PHASES + 1)[:, None] / _PHASES
    weights = _lanczos(np.arange(1 - LOBES, LOBES + 1)[None] - part)
    return np.asarray(weights / weights.sum(1, keepdims=True), np.float32)


_KERNEL = _kernel()
# The kernel's one side, for stretching it.
_FINE = np.asarray(_lanczos(np.arange(LOBES * _PHASES + 2) / _PHASES), np.float32)


@compiled
def _spread(grid: NDArray[np.float64], left: int, top: int, cell: int, out: Array) -> None:
    h, w = out.shape
    for i in range(h):
        row = (i + top) // cell
        fy = ((i + top) - row * cell) / cell
        for j in range(w):
            col = (j + left) // cell
            fx = ((j + left) - col * cell) / cell
            a = grid[row, col] + (grid[row + 1, col] - grid[row, col]) * fy
            b = grid[row, col + 1] + (grid[row + 1, col + 1] - grid[row, col + 1]) * fy
            out[i, j] = a + (b - a) * fx


@compiled
def _sample(
    area: NDArray[Any],
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    across: NDArray[np.float64],
    left: int,
    top: int,
    cell: int,
    kernel: Array,
    fine: Array,
    most: float,
    out: NDArray[Any],
) -> None:
    """Sample into ``out``; ``most`` is the largest value of integers, 0 for floats."""
    h, w, depth = out.shape
    rows, cols = area.shape[:2]
    sums = np.empty(depth, np.float32)
    wx, wy = np.empty(64, np.float32), np.empty(64, np.float32)
    flat = area.reshape(rows, cols * depth)
    down = np.empty(2 * LOBES * depth, np.float32)
    for i in range(h):
        row = (i + top) // cell
        fy = ((i + top) - row * cell) / cell
        j = 0
        while j < w:
            col = (j + left) // cell
            end = min(w, (col + 1) * cell - left)
            ax = x[row, col] + (x[row + 1, col] - x[row, col]) * fy
            bx = x[row, col + 1] + (x[row + 1, col + 1] - x[row, col + 1]) * fy
            ay = y[row, col] + (y[row + 1, col] - y[row, col]) * fy
            by = y[row, col + 1] + (y[row + 1, col + 1] - y[row, col + 1]) * fy
            stretch = max(
                max(across[row, col], across[row + 1, col]),
                max(across[row, col + 1], across[row + 1, col + 1]),
            )
            stretch = min(stretch, 10.0)
            while j < end:
                f = ((j + left) - col * cell) / cell
                u, v = ax + (bx - ax) * f, ay + (by - ay) * f
                u = min(max(u, -1.0), float(cols))
                v = min(max(v, -1.0), float(rows))
                if stretch == 1.0:
                    n = 2 * LOBES
                    iu, iv = int(np.floor(u)), int(np.floor(v))
                    pu = int((u - iu) * _PHASES + 0.5)
                    pv = int((v - iv) * _PHASES + 0.5)
                    iu -= LOBES - 1
                    iv -= LOBES - 1
                    for c in range(n):
                        wx[c] = kernel[pu, c]
                        wy[c] = kernel[pv, c]
                else:
                    n = 2 * int(np.ceil(LOBES * stretch))
                    iu = int(np.floor(u)) - n // 2 + 1
                    iv = int(np.floor(v)) - n // 2 + 1
                    su, sv = np.float32(0), np.float32(0)
                    for c in range(n):
                        du = abs(u - (iu + c)) / stretch * _PHASES + 0.5
                        dv = abs(v - (iv + c)) / stretch * _PHASES + 0.5
                        wx[c] = fine[min(int(du), LOBES * _PHASES + 1)]
                        wy[c] = fine[min(int(dv), LOBES * _PHASES + 1)]
                        su += wx[c]
                        sv += wy[c]
                    for c in range(n):
                        wx[c] /= su
                        wy[c] /= sv
                for k in range(depth):
                    sums[k] = 0
                inside = iu >= 0 and iv >= 0 and iu + n <= cols and iv + n <= rows
                if inside and n == 2 * LOBES and depth == 3:
                    # The same with numbers that the compiler knows: it fills vector registers.
                    start = np.uint64(iu * 3)
                    r0, r1, r2 = flat[iv, start:], flat[iv + 1, start:], flat[iv + 2, start:]
                    r3, r4, r5 = flat[iv + 3, start:], flat[iv + 4, start:], flat[iv + 5, start:]
                    w0, w1, w2, w3, w4, w5 = wy[0], wy[1], wy[2], wy[3], wy[4], wy[5]
                    for k in range(_TAPS):
                        down[k] = (
                            w0 * np.float32(r0[k])
                            + w1 * np.float32(r1[k])
                            + w2 * np.float32(r2[k])
                            + w3 * np.float32(r3[k])
                            + w4 * np.float32(r4[k])
                            + w5 * np.float32(r5[k])
                        )
                    for k in range(3):
                        sums[k] = (
                            wx[0] * down[k]
                            + wx[1] * down[3 + k]
                            + wx[2] * down[6 + k]
                            + wx[3] * down[9 + k]
                            + wx[4] * down[12 + k]
                            + wx[5] * down[15 + k]
                        )
                elif inside and n == 2 * LOBES:
                    # Down the columns first: what lies side by side is added at once.
                    start = iu * depth
                    for k in range(2 * LOBES * depth):
                        down[k] = wy[0] * np.float32(flat[iv, start + k])
                    for r in range(1, 2 * LOBES):
                        part = wy[r]
                        line = flat[iv + r, start : start + 2 * LOBES * depth]
                        for k in range(2 * LOBES * depth):
                            down[k] += part * np.float32(line[k])
                    for c in range(2 * LOBES):
                        for k in range(depth):
                            sums[k] += wx[c] * down[c * depth + k]
                elif inside:
                    for r in range(n):
                        line = flat[iv + r]
                        for c in range(n):
                            m = wx[c] * wy[r]
                            for k in range(depth):
                                sums[k] += m * np.float32(line[(iu + c) * depth + k])
                else:
                    for r in range(n):
                        line = area[min(max(iv + r, 0), rows - 1)]
                        for c in range(n):
                            m = wx[c] * wy[r]
                            at = min(max(iu + c, 0), cols - 1)
                            for k in range(depth):
                                sums[k] += m * np.float32(line[at, k])
                for k in range(depth):
                    value = sums[k]
                    if most > 0:
                        value = min(max(value + np.float32(0.5), np.float32(0)), np.float32(most))
                    out[i, j, k] = value
                j += 1

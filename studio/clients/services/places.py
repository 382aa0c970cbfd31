"""Which place of the original lies where on a picture that a client sees."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.warp import Warp

# Nodes along each side; what is moved moves far more slowly than from one to the next.
_NODES = 97


def nodes_of(warp: Warp) -> list[list[float]]:
    """Places of a grid on the framed picture, by rows, in pixels of the original."""
    at = np.linspace(0, 1, _NODES)
    u, v = np.meshgrid(at * warp.width, at * warp.height)
    places = warp.to_original(np.stack([u.ravel(), v.ravel()], axis=1))
    return [[round(float(x), 1), round(float(y), 1)] for x, y in places]


def original_of(nodes: Any, u: float, v: float) -> tuple[float, float]:
    """The place in the original (px) of one on the picture, given as parts (0..1) of its width and height."""
    side = math.isqrt(len(nodes))
    grid: NDArray[np.float64] = np.asarray(nodes, np.float64).reshape(side, side, 2)
    x, y = u * (side - 1), v * (side - 1)
    i, j = min(int(x), side - 2), min(int(y), side - 2)
    fx, fy = x - i, y - j
    above = grid[j, i] * (1 - fx) + grid[j, i + 1] * fx
    below = grid[j + 1, i] * (1 - fx) + grid[j + 1, i + 1] * fx
    px, py = above * (1 - fy) + below * fy
    return float(px), float(py)


def shown_at(warp: Warp, x_px: float, y_px: float) -> tuple[float, float]:
    """Where a place of the original lies on the picture, as parts of its width and height; beyond 0..1: cut off."""
    x, y = warp.to_result(np.asarray([[x_px, y_px]], np.float64))[0]
    return float(x / warp.width), float(y / warp.height)

"""The direction in which strands lie, and means along it, so that nothing is blurred across them.

The structure tensor (J. Bigün, G. H. Granlund, *Optimal orientation detection of linear symmetry*, 1987)
and line integral convolution (B. Cabral, L. C. Leedom, *Imaging vector fields using line integral
convolution*, SIGGRAPH 1993).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import at_once

Array = NDArray[np.float32]

# Gradients stronger than so much (encoded a pixel) count as so strong: a highlight's rim is no strand.
_STRONG = 0.03
_ROWS = 64


def flow(light: Array, sigma: float) -> Array:
    """Unit vectors (x, y) along the strands, (h, w, 2) float32.

    Parameters
    ----------
    light : ndarray (h, w) float32
        Encoded 0..1.
    sigma : float
        How wide a place tells the direction, pixels.
    """
    gx = cv2.Sobel(light, cv2.CV_32F, 1, 0, scale=0.125, borderType=cv2.BORDER_REPLICATE)
    gy = cv2.Sobel(light, cv2.CV_32F, 0, 1, scale=0.125, borderType=cv2.BORDER_REPLICATE)
    size = np.sqrt(gx * gx + gy * gy) + np.float32(1e-6)
    share = np.minimum(size, np.float32(_STRONG)) / size
    gx, gy = gx * share, gy * share
    xx, yy, xy = (
        cv2.GaussianBlur(g, (0, 0), max(sigma, 0.5), borderType=cv2.BORDER_REPLICATE)
        for g in (gx * gx, gy * gy, gx * gy)
    )
    angle = 0.5 * np.arctan2(2 * xy, xx - yy) + np.float32(np.pi / 2)
    return np.ascontiguousarray(np.stack([np.cos(angle), np.sin(angle)], -1), np.float32)


def along(values: Array, way: Array, half: int) -> Array:
    """Means of values (h, w, 3) along the strands through each place, ``half`` pixels to each side."""
    if half < 1:
        return values
    out = np.empty_like(values)
    high = values.shape[0]
    parts = [(y, min(y + _ROWS, high)) for y in range(0, high, _ROWS)]
    at_once(lambda rows: _along(values, way, half, out, *rows), parts)
    return out


def flow_reach(sigma: float, half: int) -> int:
    """Pixels around a place that both look at."""
    return int(np.ceil(4 * max(sigma, 0.5))) + half + 2


@compiled
def _along(values: Array, way: Array, half: int, out: Array, start: int, end: int) -> None:
    h, w = values.shape[:2]
    for y in range(start, end):
        for x in range(w):
            a, b, c = values[y, x, 0], values[y, x, 1], values[y, x, 2]
            n = np.float32(1)
            for side in (-1.0, 1.0):
                dx, dy = side * way[y, x, 0], side * way[y, x, 1]
                px, py = x + 0.5, y + 0.5
                for _ in range(half):
                    px += dx
                    py += dy
                    j, k = int(py), int(px)
                    if px < 0 or py < 0 or j >= h or k >= w:
                        break
                    a += values[j, k, 0]
                    b += values[j, k, 1]
                    c += values[j, k, 2]
                    n += np.float32(1)
                    # Vectors have no sense of their own: go on as before.
                    u, v = way[j, k, 0], way[j, k, 1]
                    if u * dx + v * dy < 0:
                        u, v = -u, -v
                    dx, dy = u, v
            out[y, x, 0], out[y, x, 1], out[y, x, 2] = a / n, b / n, c / n

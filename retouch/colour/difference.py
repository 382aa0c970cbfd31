"""Colour difference CIEDE2000.

Source: G. Sharma, W. Wu, E. N. Dalal, *The CIEDE2000 Color-Difference Formula: Implementation
Notes, Supplementary Test Data, and Mathematical Observations*, Color Research and Application
30(1), 2005; equations (2) to (22), with kL = kC = kH = 1.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled


def ciede2000(lab1: NDArray[Any], lab2: NDArray[Any]) -> NDArray[np.float64]:
    """Difference of two arrays of Lab colours, shape (..., 3) each; returns (...,), 0 or more."""
    one, two = np.broadcast_arrays(np.asarray(lab1, np.float64), np.asarray(lab2, np.float64))
    flat = _differences(
        np.ascontiguousarray(one).reshape(-1, 3), np.ascontiguousarray(two).reshape(-1, 3)
    )
    return flat.reshape(one.shape[:-1])


@compiled
def _differences(one: NDArray[np.float64], two: NDArray[np.float64]) -> NDArray[np.float64]:
    out = np.empty(len(one), np.float64)
    for n in range(len(one)):
        l1, a1, b1 = one[n, 0], one[n, 1], one[n, 2]
        l2, a2, b2 = two[n, 0], two[n, 1], two[n, 2]
        if l1 == l2 and a1 == a2 and b1 == b2:
            out[n] = 0.0
            continue
        mean_c7 = ((np.sqrt(a1 * a1 + b1 * b1) + np.sqrt(a2 * a2 + b2 * b2)) / 2) ** 7
        g = 0.5 * (1 - np.sqrt(mean_c7 / (mean_c7 + 25.0**7)))
        a1, a2 = (1 + g) * a1, (1 + g) * a2
        c1, c2 = np.sqrt(a1 * a1 + b1 * b1), np.sqrt(a2 * a2 + b2 * b2)
        h1 = np.degrees(np.arctan2(b1, a1)) % 360
        h2 = np.degrees(np.arctan2(b2, a2)) % 360

        apart = h2 - h1
        h_sum = h1 + h2
        if c1 * c2 == 0:
            dh, h_mean = 0.0, h_sum
        elif abs(apart) <= 180:
            dh, h_mean = apart, h_sum / 2
        else:
            dh = apart - 360 if apart > 180 else apart + 360
            h_mean = (h_sum + 360) / 2 if h_sum < 360 else (h_sum - 360) / 2
        d_l, d_c = l2 - l1, c2 - c1
        d_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))

        l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
        t = (
            1
            - 0.17 * np.cos(np.radians(h_mean - 30))
            + 0.24 * np.cos(np.radians(2 * h_mean))
            + 0.32 * np.cos(np.radians(3 * h_mean + 6))
            - 0.20 * np.cos(np.radians(4 * h_mean - 63))
        )
        theta = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
        c7 = c_mean**7
        r_c = 2 * np.sqrt(c7 / (c7 + 25.0**7))
        s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
        s_c = 1 + 0.045 * c_mean
        s_h = 1 + 0.015 * c_mean * t
        r_t = -np.sin(np.radians(2 * theta)) * r_c
        x, y, z = d_l / s_l, d_c / s_c, d_h / s_h
        out[n] = np.sqrt(max(x * x + y * y + z * z + r_t * y * z, 0.0))
    return out

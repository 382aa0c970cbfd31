"""Colour difference CIEDE2000.

Source: G. Sharma, W. Wu, E. N. Dalal, *The CIEDE2000 Color-Difference Formula: Implementation
Notes, Supplementary Test Data, and Mathematical Observations*, Color Research and Application
30(1), 2005; equations (2) to (22), with kL = kC = kH = 1.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray


def ciede2000(lab1: NDArray[Any], lab2: NDArray[Any]) -> NDArray[np.float64]:
    """Difference of two arrays of Lab colours, shape (..., 3) each; returns (...,), 0 or more."""
    l1, a1, b1 = np.moveaxis(np.asarray(lab1, np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(lab2, np.float64), -1, 0)
    mean_c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(mean_c7 / (mean_c7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1 = np.degrees(np.arctan2(b1, a1)) % 360
    h2 = np.degrees(np.arctan2(b2, a2)) % 360

    neutral = c1 * c2 == 0
    dh = (h2 - h1 + 180) % 360 - 180
    # (x + 180) mod 360 - 180 turns a difference of +180 into -180; equation (10) keeps it.
    dh = np.where(np.abs(h2 - h1) == 180, h2 - h1, dh)
    dh = np.where(neutral, 0, dh)
    d_l, d_c = l2 - l1, c2 - c1
    d_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))

    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    h_sum = h1 + h2
    h_mean = np.where(
        np.abs(h1 - h2) <= 180,
        h_sum / 2,
        np.where(h_sum < 360, (h_sum + 360) / 2, (h_sum - 360) / 2),
    )
    h_mean = np.where(neutral, h_sum, h_mean)
    rad = np.radians
    t = (
        1
        - 0.17 * np.cos(rad(h_mean - 30))
        + 0.24 * np.cos(rad(2 * h_mean))
        + 0.32 * np.cos(rad(3 * h_mean + 6))
        - 0.20 * np.cos(rad(4 * h_mean - 63))
    )
    theta = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
    c7 = c_mean**7
    r_c = 2 * np.sqrt(c7 / (c7 + 25.0**7))
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c = 1 + 0.045 * c_mean
    s_h = 1 + 0.015 * c_mean * t
    r_t = -np.sin(rad(2 * theta)) * r_c
    x, y, z = d_l / s_l, d_c / s_c, d_h / s_h
    return np.sqrt(np.maximum(x * x + y * y + z * z + r_t * y * z, 0))

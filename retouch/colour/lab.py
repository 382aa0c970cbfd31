"""CIELAB from encoded sRGB (CIE 15:2018; sRGB primaries and D65 of IEC 61966-2-1)."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.colour.transfer import to_linear

_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
# The white that the matrix gives for R = G = B = 1, so that neutral greys have a* = b* = 0.
_WHITE = _TO_XYZ.sum(1)
_EPSILON = (6 / 29) ** 3


def from_srgb(encoded: NDArray[Any]) -> NDArray[np.float64]:
    """Lab of encoded sRGB values.

    Parameters
    ----------
    encoded : ndarray (..., 3)
        0..1.

    Returns
    -------
    ndarray (..., 3)
        L* 0..100, a*, b*.
    """
    xyz = to_linear(np.asarray(encoded, np.float64)) @ _TO_XYZ.T / _WHITE
    f = np.where(xyz > _EPSILON, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack(
        [116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1
    )

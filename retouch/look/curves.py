"""Curves of light: exposure, contrast about a pivot, lifted blacks, and curves through points."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy
from numpy.typing import NDArray

from retouch.colour.transfer import to_encoded, to_linear

Array = NDArray[np.float32]

# At full contrast the pivot's slope is 2 to this power.
_MOST_CONTRAST = 1.5
# The blackest black at full lift, encoded.
_MOST_LIFT = 0.18


def exposed(values: Array, stops: float) -> Array:
    """Encoded values with so many stops more light; not clipped."""
    return np.asarray(to_encoded(to_linear(values) * np.float32(2.0**stops)))


def contrasted(values: Array, amount: float, pivot: float) -> Array:
    """Encoded values with more (amount above 0) or less contrast about a pivot.

    Black, white and the pivot stay; on each side of it runs a rational curve whose slopes at its two
    ends are each other's inverse, so no value is crushed. Beyond 0..1 it goes on straight.

    Parameters
    ----------
    amount : float
        -1..1.
    pivot : float
        Encoded, above 0 and below 1.

    References
    ----------
    C. Schlick, "Fast Alternatives to Perlin's Bias and Gain Functions", in Graphics Gems IV, 1994
    (the rational curve).
    """
    k = 2.0 ** (_MOST_CONTRAST * amount)
    low = np.clip(values / pivot, 0, 1)
    high = np.clip((1 - values) / (1 - pivot), 0, 1)
    below = pivot * _rational(low, k)
    above = 1 - (1 - pivot) * _rational(high, k)
    out = np.where(values < pivot, below, above)
    beyond = np.maximum(values - 1, 0) + np.minimum(values, 0)
    return np.asarray(out + beyond / k, np.float32)


def _rational(t: Array, k: float) -> Array:
    """0 and 1 stay; the slope is 1/k at 0 and k at 1."""
    return np.asarray(t / (t + (1 - t) * k))


def lifted(values: Array, amount: float) -> Array:
    """Encoded values with blacks lifted to a matte grey, ``amount`` 0..1; lights hardly change."""
    inside = np.clip(values, 0, 1)
    return np.asarray(values + np.float32(_MOST_LIFT * amount) * (1 - inside) ** 3, np.float32)


def through_points(points: Sequence[tuple[float, float]], values: Array) -> Array:
    """Values of the smooth curve through points that doesn't swing beyond them.

    Monotone between neighbours that rise (F. N. Fritsch and J. Butland, "A Method for Constructing
    Local Monotone Piecewise Cubic Interpolants", SIAM J. Sci. Stat. Comput. 5, 1984; SciPy's). Before
    the first and after the last point their values stay, beyond 0..1 the curve goes on with a slope
    of 1.

    Parameters
    ----------
    points : sequence of (x, y)
        0..1, x rising; two at least.
    """
    x, y = np.asarray(points, np.float64).T
    inside = np.clip(values, x[0], x[-1])
    out = scipy.interpolate.PchipInterpolator(x, y)(inside)
    return np.asarray(out + np.maximum(values - 1, 0) + np.minimum(values, 0), np.float32)

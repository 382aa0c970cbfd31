"""A smooth surface of tone fitted robustly to the skin around a touch.

The surface is a polynomial of the second degree per channel, fitted by iteratively reweighted
least squares with Tukey's biweight (F. R. Hampel et al., *Robust Statistics*, 1986), so that
neighbouring blemishes, hairs and edges in the ring don't pull it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]

# Biweight cut-off in units of the median residual: a compromise between using all the skin and
# ignoring marks, chosen on several skins; Tukey's 4.685 sigma equals about 3.2 of these units
# for the length of a three-channel residual.
_CUTOFF = 3.5
_ROUNDS = 4
# Residuals below this are grain of an 8-bit file; it keeps flat synthetic areas well-posed.
_SCALE_FLOOR = 2e-3
# Two populations (skin and lip, skin and hair) are told apart when their means are this many of
# their own standard deviations apart, and visibly so.
_SPLIT_SIGMAS = 3.0
_SPLIT_LEAST = 0.06


@dataclass(frozen=True)
class Surface:
    """Fitted coefficients around a centre, with what the fit made of its samples.

    ``weights`` (n,) are the final robust weights of the samples; ``scale`` is the median length
    of their residuals (encoded values): small on plain skin, large where edges cross the ring.
    """

    coefficients: NDArray[np.float64]
    centre: tuple[float, float]
    radius: float
    weights: Array
    scale: float

    def at(self, x: Array, y: Array) -> Array:
        """Values at places of any shape; returns that shape plus a channel axis."""
        basis = _basis(x, y, self.centre, self.radius, len(self.coefficients))
        flat = self.coefficients.T @ basis.reshape(len(basis), -1)
        return np.ascontiguousarray(flat.T.reshape(*x.shape, -1), np.float32)


def _basis(
    x: Array, y: Array, centre: tuple[float, float], radius: float, terms: int
) -> NDArray[np.float64]:
    """Terms of the polynomial at each place, shape (terms, …)."""
    basis = np.empty((terms, *x.shape))
    basis[0] = 1
    np.subtract(x, centre[0], out=basis[1])
    np.subtract(y, centre[1], out=basis[2])
    basis[1:3] /= radius
    if terms > 3:
        np.multiply(basis[1], basis[1:3], out=basis[3:5])
        np.multiply(basis[2], basis[2], out=basis[5])
    return basis


def _median(values: NDArray[np.float64]) -> float:
    """Upper median; 0 of nothing. Several times as fast as numpy's on a few hundred values."""
    if not values.size:
        return 0.0
    middle = values.size // 2
    return float(np.partition(values, middle)[middle])


def _nearer_population(values: NDArray[np.float64], near: NDArray[np.float64]) -> Array | None:
    """Start weights that keep only the nearer of two clearly different populations, or None."""
    centred = values - values.mean(1, keepdims=True)
    axis = np.linalg.eigh(centred @ centred.T)[1][:, -1]
    t = axis @ centred
    spread = float(np.sqrt(t @ t / t.size))
    if spread < _SPLIT_LEAST / 6:
        return None  # even a tenth of the ring could not differ visibly
    low, high = -1.5 * spread, 1.5 * spread
    upper = t > 0
    for _ in range(4):
        upper = t > (low + high) / 2
        above = int(np.count_nonzero(upper))
        if above in (0, t.size):
            return None
        total = float(t[upper].sum())
        low, high = -total / (t.size - above), total / above  # t has mean 0
    if high - low <= _SPLIT_LEAST:
        return None
    within = np.where(upper, t - high, t - low).std()
    if high - low <= _SPLIT_SIGMAS * within:
        return None
    keep = upper if near[upper].sum() > near[~upper].sum() else ~upper
    return keep.astype(np.float32)


def fit(
    x: Array,
    y: Array,
    values: Array,
    weights: Array,
    centre: tuple[float, float],
    radius: float,
    degree: int = 2,
) -> Surface:
    """Fit a surface to scattered samples.

    Parameters
    ----------
    x, y : ndarray (n,)
        Places in pixels.
    values : ndarray (n, channels)
        Encoded values at the places.
    weights : ndarray (n,)
        Trust in each sample before the fit, 0 or more.
    centre, radius
        Where the surface is needed most, and the unit of length that conditions the fit.
    degree : {1, 2}
        Plane or quadratic.
    """
    terms = 6 if degree == 2 else 3
    basis = _basis(x, y, centre, radius, terms)
    data = values.T.astype(np.float64)
    both = np.concatenate([basis, data])
    trust = weights.astype(np.float64)
    start = None
    if len(x) > 24:
        near = 1.0 / np.maximum(basis[1] ** 2 + basis[2] ** 2, 1e-3)
        start = _nearer_population(data, near)
    w = trust
    if start is not None and np.count_nonzero(trust * start) >= 2 * terms:
        w = trust * start
    # The curvature is held back a little, so that a ring seen from one side doesn't run away.
    ridge = np.diag([1e-6] * 3 + [2e-3] * (terms - 3)) * max(float(trust.sum()), 1e-9)
    scale = _SCALE_FLOOR
    coefficients = np.zeros((terms, len(data)))
    for _ in range(_ROUNDS):
        normal = (basis * w) @ both.T
        coefficients = np.linalg.solve(normal[:, :terms] + ridge, normal[:, terms:])
        residual = data - coefficients.T @ basis
        square = np.einsum("ij,ij->j", residual, residual)
        scale = max(math.sqrt(_median(square[w > 0])), _SCALE_FLOOR)
        t = np.maximum(1 - square * (1 / (_CUTOFF * scale) ** 2), 0)
        w = trust * t * t
        if not w.any():
            w = trust
    return Surface(coefficients, centre, radius, w.astype(np.float32), scale)

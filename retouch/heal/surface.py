"""A smooth surface of tone fitted robustly to the skin around a touch.

The surface is a polynomial of the second degree per channel, fitted by iteratively reweighted
least squares with Tukey's biweight (F. R. Hampel et al., *Robust Statistics*, 1986), so that
neighbouring blemishes, hairs and edges in the ring don't pull it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

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
        return np.asarray(basis @ self.coefficients, np.float32)


def _basis(
    x: Array, y: Array, centre: tuple[float, float], radius: float, terms: int
) -> NDArray[np.float64]:
    u = ((x - centre[0]) / radius).astype(np.float64)
    v = ((y - centre[1]) / radius).astype(np.float64)
    basis = np.empty((*u.shape, terms))
    basis[..., 0], basis[..., 1], basis[..., 2] = 1, u, v
    if terms > 3:
        basis[..., 3], basis[..., 4], basis[..., 5] = u * u, u * v, v * v
    return basis


def _median(values: NDArray[np.float64]) -> float:
    """Upper median; 0 of nothing. Several times as fast as numpy's on a few hundred values."""
    if not values.size:
        return 0.0
    middle = values.size // 2
    return float(np.partition(values, middle)[middle])


def _nearer_population(values: NDArray[np.float64], near: NDArray[np.float64]) -> Array | None:
    """Start weights that keep only the nearer of two clearly different populations, or None."""
    mean = values.mean(0)
    axis = np.linalg.eigh((values - mean).T @ (values - mean))[1][:, -1]
    t = (values - mean) @ axis
    spread = float(t.std())
    low, high = -1.5 * spread, 1.5 * spread
    upper = t > 0
    for _ in range(6):
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
    data = values.astype(np.float64)
    near = 1.0 / np.maximum((x - centre[0]) ** 2 + (y - centre[1]) ** 2, 1.0).astype(np.float64)
    start = _nearer_population(data, near) if len(data) > 24 else None
    trust = weights.astype(np.float64)
    w: NDArray[Any] = (
        trust if start is None or (trust * start > 0).sum() < 2 * terms else trust * start
    )
    # The curvature is held back a little, so that a ring seen from one side doesn't run away.
    ridge = np.diag([1e-6] * 3 + [2e-3] * (terms - 3)) * max(float(trust.sum()), 1e-9)
    scale = _SCALE_FLOOR
    coefficients = np.zeros((terms, data.shape[1]))
    for _ in range(_ROUNDS):
        bw = basis * w[:, None]
        coefficients = np.linalg.solve(basis.T @ bw + ridge, bw.T @ data)
        residual = data - basis @ coefficients
        length = np.sqrt(np.einsum("ij,ij->i", residual, residual))
        scale = max(_median(length[w > 0]), _SCALE_FLOOR)
        t = length / (_CUTOFF * scale)
        w = trust * np.where(t < 1, (1 - t * t) ** 2, 0)
        if not w.any():
            w = trust
    return Surface(coefficients, centre, radius, w.astype(np.float32), scale)

"""A smooth surface of tone fitted robustly to the skin around a touch.

The surface is a polynomial of the second degree per channel, fitted by iteratively reweighted
least squares with Tukey's biweight (F. R. Hampel et al., *Robust Statistics*, 1986), so that
neighbouring blemishes, hairs and edges in the ring don't pull it.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

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
        wide, high = np.broadcast_arrays(x, y)
        flat = _values(np.ravel(wide), np.ravel(high), self.coefficients, *self.centre, self.radius)
        return flat.reshape(*wide.shape, -1)


@compiled
def _values(
    x: Array, y: Array, coefficients: NDArray[np.float64], cx: float, cy: float, radius: float
) -> Array:
    terms, depth = coefficients.shape
    out = np.empty((len(x), depth), np.float32)
    for i in range(len(x)):
        u, v = (x[i] - cx) / radius, (y[i] - cy) / radius
        for c in range(depth):
            value = coefficients[0, c] + coefficients[1, c] * u + coefficients[2, c] * v
            if terms > 3:
                value += u * u * coefficients[3, c]
                value += u * v * coefficients[4, c] + v * v * coefficients[5, c]
            out[i, c] = value
    return out


def _basis(x: Array, y: Array, centre: tuple[float, float], radius: float, terms: int) -> Array:
    """Terms of the polynomial at each place, shape (terms, …)."""
    basis = np.empty((terms, *x.shape), np.float32)
    basis[0] = 1
    np.subtract(x, centre[0], out=basis[1])
    np.subtract(y, centre[1], out=basis[2])
    basis[1:3] /= radius
    if terms > 3:
        np.multiply(basis[1], basis[1:3], out=basis[3:5])
        np.multiply(basis[2], basis[2], out=basis[5])
    return basis


@compiled
def _middle(values: Array) -> float:
    """Upper median; 0 of nothing."""
    if len(values) == 0:
        return 0.0
    return float(np.partition(values, len(values) // 2)[len(values) // 2])


@compiled
def _nearer_population(
    values: Array, near: Array, least: float, sigmas: float
) -> tuple[bool, NDArray[np.bool_]]:
    """Whether there are two clearly different populations, and which samples are the nearer."""
    depth, n = values.shape
    upper = np.zeros(n, np.bool_)
    centred = np.empty_like(values)
    for c in range(depth):
        centred[c] = values[c] - values[c].mean()
    covariance = np.empty((depth, depth))
    for a in range(depth):
        for b in range(depth):
            covariance[a, b] = (centred[a] * centred[b]).sum()
    axis = np.linalg.eigh(covariance)[1][:, depth - 1].astype(np.float32)
    t = np.ascontiguousarray(axis) @ centred
    spread = np.sqrt((t * t).sum() / n)
    if spread < least / 6:
        return False, upper  # even a tenth of the ring could not differ visibly
    low, high = -1.5 * spread, 1.5 * spread
    middle = 0.0
    for _ in range(4):
        total, above = 0.0, 0
        for i in range(n):
            upper[i] = t[i] > middle
            if upper[i]:
                total += t[i]
                above += 1
        if above == 0 or above == n:
            return False, upper
        low, high = -total / (n - above), total / above  # t has mean 0
        middle = (low + high) / 2
    if high - low <= least:
        return False, upper
    square, nearer, farther = 0.0, 0.0, 0.0
    for i in range(n):
        if upper[i]:
            square += (t[i] - high) ** 2
            nearer += near[i]
        else:
            square += (t[i] - low) ** 2
            farther += near[i]
    if high - low <= sigmas * np.sqrt(square / n):
        return False, upper
    if nearer <= farther:
        upper = ~upper
    return True, upper


@compiled
def _robust(
    basis: Array,
    data: Array,
    trust: Array,
    rounds: int,
    cutoff: float,
    floor: float,
    split_least: float,
    split_sigmas: float,
) -> tuple[NDArray[np.float64], Array, float]:
    """Coefficients (terms, channels), final weights and scale of the reweighted fit."""
    terms, n = basis.shape
    depth = len(data)
    w = trust.copy()
    if n > 24:
        near = np.empty(n, np.float32)
        for i in range(n):
            near[i] = 1 / max(basis[1, i] ** 2 + basis[2, i] ** 2, 1e-3)
        two, nearer = _nearer_population(data, near, split_least, split_sigmas)
        if two:
            count = 0
            for i in range(n):
                if nearer[i] and trust[i] > 0:
                    count += 1
            if count >= 2 * terms:
                w = trust * nearer.astype(np.float32)
    # The curvature is held back a little, so that a ring seen from one side doesn't run away.
    ridge = np.zeros((terms, terms))
    for i in range(terms):
        ridge[i, i] = (1e-6 if i < 3 else 2e-3) * max(trust.sum(), 1e-9)
    coefficients = np.zeros((terms, depth))
    scale = floor
    square = np.empty(n, np.float32)
    weighted = np.empty(n, np.float32)
    normal = np.empty((terms, terms))
    right = np.empty((terms, depth))
    for _ in range(rounds):
        for i in range(terms):
            line = basis[i]
            for k in range(n):
                weighted[k] = line[k] * w[k]
            for j in range(i, terms):
                other, total = basis[j], np.float32(0)
                for k in range(n):
                    total += weighted[k] * other[k]
                normal[i, j] = total
                normal[j, i] = total
            for j in range(depth):
                other, total = data[j], np.float32(0)
                for k in range(n):
                    total += weighted[k] * other[k]
                right[i, j] = total
        coefficients[:] = np.linalg.solve(normal + ridge, right)
        square[:] = 0
        for j in range(depth):
            line = data[j]
            for k in range(n):
                weighted[k] = line[k]
            for i in range(terms):
                line, factor = basis[i], np.float32(coefficients[i, j])
                for k in range(n):
                    weighted[k] -= factor * line[k]
            for k in range(n):
                square[k] += weighted[k] * weighted[k]
        before = scale
        scale = max(np.sqrt(_middle(square[w > 0])), floor)
        limit = np.float32(1 / (cutoff * scale) ** 2)
        some = np.float32(0)
        for k in range(n):
            t = max(np.float32(1) - square[k] * limit, np.float32(0))
            w[k] = trust[k] * t * t
            some += w[k]
        if some <= 0:
            w = trust.copy()
        if abs(scale - before) < 0.01 * scale:
            break
    return coefficients, w, scale


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
    basis = _basis(x, y, centre, radius, 6 if degree == 2 else 3)
    data = np.ascontiguousarray(values.T, np.float32)
    coefficients, w, scale = _robust(
        basis,
        data,
        weights.astype(np.float32),
        _ROUNDS,
        _CUTOFF,
        _SCALE_FLOOR,
        _SPLIT_LEAST,
        _SPLIT_SIGMAS,
    )
    return Surface(coefficients, centre, radius, w.astype(np.float32), float(scale))


@compiled
def dab_field(
    x: Array,
    y: Array,
    values: Array,
    trust: Array,
    cx: float,
    cy: float,
    radius: float,
    degree: int,
) -> tuple[Array, Array, float]:
    """`fit` over all trusted cells of a grid, and its surface at every cell.

    Parameters
    ----------
    x, y : ndarray (cols,), (rows,)
        Places of the cells.
    values, trust : ndarray (rows, cols, channels), (rows, cols)
        What to fit, and how far each cell is trusted; cells of trust 0 are left out.

    Returns
    -------
    field (rows, cols, channels), weights (rows, cols), scale
    """
    rows, cols, depth = values.shape
    terms = 6 if degree == 2 else 3
    count = 0
    for i in range(rows):
        for j in range(cols):
            count += trust[i, j] > 0
    basis = np.empty((terms, count), np.float32)
    data = np.empty((depth, count), np.float32)
    weights = np.empty(count, np.float32)
    n = 0
    for i in range(rows):
        for j in range(cols):
            if trust[i, j] <= 0:
                continue
            u, v = (x[j] - cx) / radius, (y[i] - cy) / radius
            basis[0, n], basis[1, n], basis[2, n] = 1, u, v
            if terms > 3:
                basis[3, n], basis[4, n], basis[5, n] = u * u, u * v, v * v
            for k in range(depth):
                data[k, n] = values[i, j, k]
            weights[n] = max(trust[i, j], 1e-3)
            n += 1
    coefficients, w, scale = _robust(
        basis, data, weights, _ROUNDS, _CUTOFF, _SCALE_FLOOR, _SPLIT_LEAST, _SPLIT_SIGMAS
    )
    trusted = np.zeros((rows, cols), np.float32)
    field = np.empty((rows, cols, depth), np.float32)
    n = 0
    for i in range(rows):
        for j in range(cols):
            u, v = (x[j] - cx) / radius, (y[i] - cy) / radius
            for k in range(depth):
                value = coefficients[0, k] + coefficients[1, k] * u + coefficients[2, k] * v
                if terms > 3:
                    value += u * u * coefficients[3, k]
                    value += u * v * coefficients[4, k] + v * v * coefficients[5, k]
                field[i, j, k] = value
            if trust[i, j] > 0:
                trusted[i, j] = w[n]
                n += 1
    return field, trusted, scale

"""Closed-form matting: how much of each unknown pixel is the person, all of them at once.

Within a small window alpha is taken for a line in the colours; of all alphas that keep what is known, the one that
fits such lines best solves a sparse system (A. Levin, D. Lischinski, Y. Weiss, *A Closed-Form Solution to Natural
Image Matting*, PAMI 30, 2008). It is solved on a reduced picture, and its lines give alpha on the full one, as
there in section 5.1 ("coarse-to-fine").
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]
Wide = NDArray[np.float64]

# Variance below which colours of a window tell nothing (encoded, squared): of the system, and of the lines, whose
# slopes meet the full picture's noise.
_FLAT, _FLAT_LINE = 1e-6, 1e-5
# Neighbours of a pixel that share a window with it lie in so many rows and columns.
_SIDE = 5
# Solved once what is left is this part of the beginning, or after so many steps.
_LEFT, _MOST_STEPS = 1e-5, 1000
# Windows are so wide.
LEAST_SIZE = 3


def solved(image: Array, kinds: NDArray[np.uint8], rough: Array, trust: Array) -> Array:
    """Alpha of the unknown pixels, (h, w) 0..1.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1; at least 3 pixels to each side, else ``rough`` is given back.
    kinds : ndarray (h, w) uint8
        0 surely behind, 1 unknown, 2 surely the person.
    rough : ndarray (h, w) float32
        How surely each place is the person, 0..1.
    trust : ndarray (h, w) float32
        What ``rough`` counts there beside one window, above 0.
    """
    out = np.where(kinds == 1, rough, np.float32(0.5) * kinds).astype(np.float32)
    if min(kinds.shape) < LEAST_SIZE or not (kinds == 1).any():
        return out
    number = np.full(kinds.shape, -1, np.int32)
    unknown = kinds == 1
    number[unknown] = np.arange(int(unknown.sum()), dtype=np.int32)
    rows, right = _system(np.ascontiguousarray(image, np.float32), kinds, number)
    ys, xs = (a.astype(np.int32) for a in np.nonzero(unknown))
    begun, held = (a[unknown].astype(np.float64) for a in (rough, trust))
    found = _descended(rows, right, number, ys, xs, begun, held)
    out[unknown] = np.clip(found, 0, 1)
    return out


@compiled
def _system(image: Array, kinds: NDArray[np.uint8], number: NDArray[np.int32]) -> tuple[Wide, Wide]:
    """The matting Laplacian among the unknown pixels, (n, 25) by their neighbours, and the right side, (n,)."""
    h, w = kinds.shape
    count = number.max() + 1
    rows = np.zeros((count, _SIDE * _SIDE))
    right = np.zeros(count)
    apart = np.empty((9, 3))
    turned = np.empty((9, 3))
    for cy in range(1, h - 1):
        for cx in range(1, w - 1):
            any_unknown = False
            for n in range(9):
                any_unknown |= kinds[cy + n // 3 - 1, cx + n % 3 - 1] == 1
            if not any_unknown:
                continue
            m0 = m1 = m2 = 0.0
            for n in range(9):
                y, x = cy + n // 3 - 1, cx + n % 3 - 1
                apart[n, 0], apart[n, 1], apart[n, 2] = (
                    image[y, x, 0],
                    image[y, x, 1],
                    image[y, x, 2],
                )
                m0 += apart[n, 0] / 9
                m1 += apart[n, 1] / 9
                m2 += apart[n, 2] / 9
            a = b = c = d = e = f = 0.0
            for n in range(9):
                apart[n, 0] -= m0
                apart[n, 1] -= m1
                apart[n, 2] -= m2
                a += apart[n, 0] * apart[n, 0] / 9
                b += apart[n, 0] * apart[n, 1] / 9
                c += apart[n, 0] * apart[n, 2] / 9
                d += apart[n, 1] * apart[n, 1] / 9
                e += apart[n, 1] * apart[n, 2] / 9
                f += apart[n, 2] * apart[n, 2] / 9
            a, d, f = a + _FLAT / 9, d + _FLAT / 9, f + _FLAT / 9
            # The inverse of the window's covariance.
            i00, i01, i02 = d * f - e * e, c * e - b * f, b * e - c * d
            i11, i12, i22 = a * f - c * c, b * c - a * e, a * d - b * b
            whole = a * i00 + b * i01 + c * i02
            for n in range(9):
                p, q, r = apart[n, 0] / whole, apart[n, 1] / whole, apart[n, 2] / whole
                turned[n, 0] = i00 * p + i01 * q + i02 * r
                turned[n, 1] = i01 * p + i11 * q + i12 * r
                turned[n, 2] = i02 * p + i12 * q + i22 * r
            for n in range(9):
                ny, nx = n // 3, n % 3
                own = number[cy + ny - 1, cx + nx - 1]
                if own < 0:
                    continue
                for k in range(9):
                    ky, kx = k // 3, k % 3
                    near = (
                        apart[k, 0] * turned[n, 0]
                        + apart[k, 1] * turned[n, 1]
                        + apart[k, 2] * turned[n, 2]
                    )
                    value = (1.0 if k == n else 0.0) - (1 + near) / 9
                    kind = kinds[cy + ky - 1, cx + kx - 1]
                    if kind == 1:
                        rows[own, (ky - ny + 2) * _SIDE + kx - nx + 2] += value
                    elif kind == 2:
                        right[own] -= value
    return rows, right


@compiled
def _descended(
    rows: Wide, right: Wide, number: NDArray[np.int32], ys: NDArray[np.int32], xs: NDArray[np.int32], rough: Wide,
    trust: Wide,
) -> Wide:  # fmt: skip
    """The system's solution near ``rough``: conjugate gradients, scaled by the diagonal (M. Hestenes, E. Stiefel, 1952)."""
    h, w = number.shape
    count = len(right)
    middle = _SIDE * _SIDE // 2
    near = np.full((count, _SIDE * _SIDE), -1, np.int32)
    for i in range(count):
        rows[i, middle] += trust[i]
        for k in range(_SIDE * _SIDE):
            y, x = ys[i] + k // _SIDE - 2, xs[i] + k % _SIDE - 2
            if 0 <= y < h and 0 <= x < w and rows[i, k] != 0:
                near[i, k] = number[y, x]
    at = rough.copy()
    left = np.empty(count)
    way = np.empty(count)
    moved = np.empty(count)
    first = size = 0.0
    for i in range(count):
        total = right[i] + trust[i] * rough[i]
        for k in range(_SIDE * _SIDE):
            j = near[i, k]
            if j >= 0:
                total -= rows[i, k] * at[j]
        left[i] = total
        way[i] = total / rows[i, middle]
        size += total * way[i]
    first = size
    for _ in range(_MOST_STEPS):
        if size <= _LEFT * _LEFT * first or size == 0:
            break
        along = 0.0
        for i in range(count):
            total = 0.0
            for k in range(_SIDE * _SIDE):
                j = near[i, k]
                if j >= 0:
                    total += rows[i, k] * way[j]
            moved[i] = total
            along += total * way[i]
        step = size / along
        now = 0.0
        for i in range(count):
            at[i] += step * way[i]
            left[i] -= step * moved[i]
            now += left[i] * left[i] / rows[i, middle]
        for i in range(count):
            way[i] = left[i] / rows[i, middle] + now / size * way[i]
        size = now
    return at


@compiled
def lines(image: Array, alpha: Array) -> Array:
    """Alpha near each pixel as a line in the colours: slopes of red, green, blue, and what is added; (h, w, 4).

    The line that fits the window best, and the mean of those of the windows that hold the pixel (K. He, J. Sun,
    X. Tang, *Guided Image Filtering*, PAMI 35, 2013).
    """
    h, w = alpha.shape
    own = np.empty((h, w, 4), np.float32)
    for y in range(h):
        top, low = max(y - 1, 0), min(y + 2, h)
        for x in range(w):
            left, right = max(x - 1, 0), min(x + 2, w)
            least = most = alpha[y, x]
            for v in range(top, low):
                for u in range(left, right):
                    least, most = min(least, alpha[v, u]), max(most, alpha[v, u])
            own[y, x, 0] = own[y, x, 1] = own[y, x, 2] = np.float32(0)
            own[y, x, 3] = alpha[y, x]
            if least == most:
                continue
            n = (low - top) * (right - left)
            m0 = m1 = m2 = m = 0.0
            for v in range(top, low):
                for u in range(left, right):
                    m0 += image[v, u, 0] / n
                    m1 += image[v, u, 1] / n
                    m2 += image[v, u, 2] / n
                    m += alpha[v, u] / n
            a = b = c = d = e = f = s0 = s1 = s2 = 0.0
            for v in range(top, low):
                for u in range(left, right):
                    p, q, r = image[v, u, 0] - m0, image[v, u, 1] - m1, image[v, u, 2] - m2
                    t = (alpha[v, u] - m) / n
                    a += p * p / n
                    b += p * q / n
                    c += p * r / n
                    d += q * q / n
                    e += q * r / n
                    f += r * r / n
                    s0 += p * t
                    s1 += q * t
                    s2 += r * t
            a, d, f = a + _FLAT_LINE, d + _FLAT_LINE, f + _FLAT_LINE
            i00, i01, i02 = d * f - e * e, c * e - b * f, b * e - c * d
            i11, i12, i22 = a * f - c * c, b * c - a * e, a * d - b * b
            whole = a * i00 + b * i01 + c * i02
            p = (i00 * s0 + i01 * s1 + i02 * s2) / whole
            q = (i01 * s0 + i11 * s1 + i12 * s2) / whole
            r = (i02 * s0 + i12 * s1 + i22 * s2) / whole
            own[y, x, 0], own[y, x, 1], own[y, x, 2] = p, q, r
            own[y, x, 3] = m - p * m0 - q * m1 - r * m2
    out = np.empty((h, w, 4), np.float32)
    for y in range(h):
        top, low = max(y - 1, 0), min(y + 2, h)
        for x in range(w):
            left, right = max(x - 1, 0), min(x + 2, w)
            n = np.float32((low - top) * (right - left))
            for k in range(4):
                total = np.float32(0)
                for v in range(top, low):
                    for u in range(left, right):
                        total += own[v, u, k]
                out[y, x, k] = total / n
    return out

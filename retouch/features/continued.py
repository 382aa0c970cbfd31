"""Teeth continued behind what covers them."""

from __future__ import annotations

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Along a tooth things go on, across it they change: so much less do places beside each other tell.
_ACROSS = 0.12
# A border of single pixels is grain: it counts softened by this (pixels), and what is finer is laid on
# again from the teeth beside.
_SOFT = 1.2
# Light falls off smoothly over teeth, towards the lip and to the sides: so much (relative to the
# number of places that tell it) it is held to be even.
_EVEN = 0.002


def continued(area: Array, hole: Mask, refused: Mask) -> Array:
    """The area with the hole continued from above and below, and the grain of what is beside it.

    Where a hole ends at a lip, nothing is known above it, but teeth beside it show how light falls off
    towards the lip: a surface of second order fitted to all that is known. What differs from it are
    the values of an anisotropic diffusion at rest (J. Weickert, *Anisotropic Diffusion in Image
    Processing*, 1998), which runs along the teeth, from every border that isn't refused.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1; teeth stand upright in it, more or less.
    hole, refused : ndarray (h, w) bool
        What is continued, and what tells nothing about it: lips, gaps, other brackets.

    Returns
    -------
    ndarray (h, w, 3) float32
    """
    known = ~hole & ~refused
    if not hole.any() or not known.any():
        return area
    weight = known.astype(np.float32)[..., None]
    soft = cv2.GaussianBlur(area * weight, (0, 0), _SOFT)
    soft = soft / np.maximum(cv2.GaussianBlur(weight, (0, 0), _SOFT)[..., None], 1e-4)
    light = _light(soft, known)
    out = area.copy()
    out[hole] = (
        light[hole]
        + _rest(soft - light, hole, known)[hole]
        + _grain(area - soft, hole, known)[hole]
    )
    return np.clip(out, 0, 1)


def _light(soft: Array, known: Mask) -> Array:
    """How light falls off: a surface of second order, within the range of what is known."""
    h, w = known.shape
    y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j]
    terms = np.stack([np.ones_like(x), y, x, y * y, x * y], 2)
    told, values = terms[known], soft[known].astype(np.float64)
    # The mean is free, all else is held to be even.
    held = np.diag([0, 1, 1, 1, 1]) * _EVEN * len(told)
    factors = np.linalg.solve(told.T @ told + held, told.T @ values)
    return np.clip(terms @ factors, values.min(0), values.max(0)).astype(np.float32)


def _rest(area: Array, hole: Mask, known: Mask) -> Array:
    """Diffusion at rest inside the hole; nothing flows over refused borders."""
    h, w = hole.shape
    number = np.full((h, w), -1, np.int64)
    number[hole] = np.arange(int(hole.sum()))
    ys, xs = np.nonzero(hole)
    rows, columns, values = [], [], []
    total = np.full(len(ys), 1e-6)
    right = np.tile(area[known].mean(0).astype(np.float64) * 1e-6, (len(ys), 1))
    for dy, dx, share in ((-1, 0, 1.0), (1, 0, 1.0), (0, -1, _ACROSS), (0, 1, _ACROSS)):
        y, x = ys + dy, xs + dx
        there = (y >= 0) & (y < h) & (x >= 0) & (x < w)
        y, x = np.where(there, y, 0), np.where(there, x, 0)
        inner, border = there & hole[y, x], there & known[y, x]
        total += share * (inner | border)
        rows.append(np.flatnonzero(inner))
        columns.append(number[y, x][inner])
        values.append(np.full(int(inner.sum()), -share))
        right[border] += share * area[y, x][border]
    n = len(ys)
    rows.append(np.arange(n))
    columns.append(np.arange(n))
    values.append(total)
    system = scipy.sparse.csr_matrix(
        (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(n, n)
    )
    out = area.copy()
    out[hole] = scipy.sparse.linalg.spsolve(system.tocsc(), right)
    return out


def _grain(fine: Array, hole: Mask, known: Mask) -> Array:
    """What is finer, mirrored at the hole's lower or upper border, or from the nearest place."""
    h, w = hole.shape
    rows = np.arange(h)[:, None] * np.ones((1, w), np.int64)
    # Rows to the end of the hole below and above, column by column.
    below, above = np.zeros((h, w), np.int64), np.zeros((h, w), np.int64)
    for y in range(h):
        above[y] = np.where(hole[y], (above[y - 1] if y else 0) + 1, 0)
        z = h - 1 - y
        below[z] = np.where(hole[z], (below[z + 1] if y else 0) + 1, 0)
    columns = np.broadcast_to(np.arange(w), (h, w))
    inside = cv2.erode(known.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    if not inside.any():
        inside = known
    _, places = cv2.distanceTransformWithLabels(
        (~inside).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    at = np.zeros((int(places.max()) + 1, 2), np.int64)
    at[places[inside]] = np.argwhere(inside)
    out = fine[at[places][..., 0], at[places][..., 1]]
    for away in (rows - 2 * above + 1, rows + 2 * below - 1):
        y = np.clip(away, 0, h - 1)
        good = hole & inside[y, columns] & (away == y)
        out = np.where(good[..., None], fine[y, columns], out)
    return np.asarray(out, np.float32)

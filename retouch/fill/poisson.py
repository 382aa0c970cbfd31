"""Gradients from copied pixels, joined to the known ones without a seam.

After P. Perez, M. Gangnet, A. Blake, *Poisson Image Editing*, SIGGRAPH 2003, solved by multigrid: what a
hole costs grows with its pixels alone, however deep it is (A. Brandt, *Multi-Level Adaptive Solutions to
Boundary-Value Problems*, Mathematics of Computation 1977).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Sweeps before and after the coarser grid's correction; on the coarsest one alone.
_SWEEPS, _COARSEST = 2, 8
# It is solved once a cycle changes nothing by more than this: less than a step of 10 bits.
_SOLVED = 4e-4
_MOST_CYCLES = 24
# What a source goes on with is like what lies beside it up to so far apart (encoded), from the second on unlike.
_ALIKE, _UNLIKE = 0.12, 0.3


def membrane(values: Array, hole: Mask) -> Array:
    """Values of the hole that continue those around it as smoothly as can be (Laplace).

    Parameters
    ----------
    values : ndarray (h, w, depth) float32
        Known outside of ``hole``; a first guess inside.
    hole : ndarray (h, w) bool
    """
    return guided(values, None, hole)


def guided(values: Array, laplacian: Array | None, hole: Mask) -> Array:
    """Values of the hole whose discrete Laplacian is the given one (negative: a peak).

    At the border of the picture the missing neighbour counts as equal (Neumann). The result lies within
    about 0.001 of the exact solution.

    Parameters
    ----------
    values : ndarray (h, w, depth) float32
        Known outside of ``hole``; a first guess inside.
    laplacian : ndarray (h, w, depth) float32, optional
        0 everywhere where it isn't given.
    hole : ndarray (h, w) bool

    Returns
    -------
    ndarray (h, w, depth) float32
    """
    out = np.array(values, np.float32, order="C")
    x, y, w, h = cv2.boundingRect(hole.astype(np.uint8))
    if w == 0:
        return out
    # One known pixel around it: what lies further away says nothing.
    here = np.s_[max(y - 1, 0) : y + h + 1, max(x - 1, 0) : x + w + 1]
    part, inside = np.ascontiguousarray(out[here]), np.ascontiguousarray(hole[here])
    wanted = np.zeros_like(part) if laplacian is None else np.ascontiguousarray(laplacian[here])
    grids = _grids(inside, part.shape[2])
    _missing(part, wanted, inside, grids[0].right)
    before = np.zeros((len(grids[0].at), part.shape[2]), np.float32)
    for _ in range(_MOST_CYCLES):
        _cycle(grids)
        if _changed(grids[0].found, grids[0].at, before) < _SOLVED:
            break
    out[here] = part + grids[0].found[1:-1, 1:-1]
    return out


@dataclass(frozen=True)
class _Grid:
    """One size of the problem: what is added to the cells of ``inside`` so that ``right`` is met.

    ``at`` (n, 2) are the cells, one half of a chessboard after the other, counted with the border of one
    cell that ``found`` and ``right`` (h + 2, w + 2, depth) have; ``sides`` (n) how many neighbours each has.
    """

    inside: Mask
    at: NDArray[np.int32]
    sides: Array
    found: Array
    right: Array


def _grids(inside: Mask, depth: int) -> list[_Grid]:
    """The problem at ever half the size: a cell is unknown where all of it is."""
    grids = []
    while inside.any():
        shape = (inside.shape[0] + 2, inside.shape[1] + 2, depth)
        at, sides = _cells(inside)
        grids.append(
            _Grid(inside, at, sides, np.zeros(shape, np.float32), np.zeros(shape, np.float32))
        )
        if inside.all():
            break
        inside = _halved(inside)
    return grids


def _cycle(grids: list[_Grid]) -> None:
    """One way to the coarsest grid and back."""
    for fine, coarse in pairwise(grids):
        _relax(fine.found, fine.right, fine.at, fine.sides, _SWEEPS)
        coarse.found[:] = 0
        coarse.right[:] = 0
        _restrict(fine.found, fine.right, fine.at, fine.sides, coarse.inside, coarse.right)
    last = grids[-1]
    _relax(last.found, last.right, last.at, last.sides, _COARSEST)
    for fine, coarse in reversed(list(pairwise(grids))):
        _prolong(coarse.found, fine.found, fine.at)
        _relax(fine.found, fine.right, fine.at, fine.sides, _SWEEPS)


@compiled
def _changed(found: Array, at: NDArray[np.int32], before: Array) -> float:
    """The largest change since ``before`` (n, depth), which is brought up to date."""
    most = np.float32(0)
    for i in range(len(at)):
        for k in range(before.shape[1]):
            now = found[at[i, 0], at[i, 1], k]
            most = max(most, abs(now - before[i, k]))
            before[i, k] = now
    return float(most)


@compiled
def _halved(inside: Mask) -> Mask:
    h, w = inside.shape
    out = np.empty(((h + 1) // 2, (w + 1) // 2), np.bool_)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            bottom, right = min(2 * y + 1, h - 1), min(2 * x + 1, w - 1)
            out[y, x] = (
                inside[2 * y, 2 * x] and inside[bottom, 2 * x]
                and inside[2 * y, right] and inside[bottom, right]
            )  # fmt: skip
    return out


@compiled
def _cells(inside: Mask) -> tuple[NDArray[np.int32], Array]:
    """The cells of a mask in the order of a chessboard, and how many neighbours in the picture each has."""
    h, w = inside.shape
    count = 0
    for y in range(h):
        for x in range(w):
            count += inside[y, x]
    at, sides = np.empty((count, 2), np.int32), np.empty(count, np.float32)
    n = 0
    for colour in range(2):
        for y in range(h):
            for x in range(w):
                if inside[y, x] and (y + x) % 2 == colour:
                    at[n, 0], at[n, 1] = y + 1, x + 1
                    sides[n] = (y > 0) + (y < h - 1) + (x > 0) + (x < w - 1)
                    n += 1
    return at, sides


@compiled
def _missing(values: Array, wanted: Array, inside: Mask, out: Array) -> None:
    """By how much the Laplacian of the first guess is off, in place."""
    h, w, depth = values.shape
    for y in range(h):
        for x in range(w):
            if inside[y, x]:
                up, down = values[max(y - 1, 0), x], values[min(y + 1, h - 1), x]
                left, right = values[y, max(x - 1, 0)], values[y, min(x + 1, w - 1)]
                for k in range(depth):
                    around = up[k] + down[k] + left[k] + right[k]
                    out[y + 1, x + 1, k] = (
                        around - np.float32(4) * values[y, x, k] - wanted[y, x, k]
                    )


@compiled
def _around(found: Array, y: int, x: int, k: int) -> np.float32:
    """The sum of a cell's four neighbours."""
    return found[y - 1, x, k] + found[y + 1, x, k] + found[y, x - 1, k] + found[y, x + 1, k]  # type: ignore[no-any-return]


@compiled
def _relax(found: Array, right: Array, at: NDArray[np.int32], sides: Array, sweeps: int) -> None:
    """Each cell is made to agree with its neighbours, one after the other (Gauss and Seidel)."""
    depth = found.shape[2]
    for _ in range(sweeps):
        for i in range(len(at)):
            y, x, part = at[i, 0], at[i, 1], np.float32(1) / sides[i]
            for k in range(depth):
                found[y, x, k] = (_around(found, y, x, k) + right[y, x, k]) * part


@compiled
def _restrict(
    found: Array, right: Array, at: NDArray[np.int32], sides: Array, coarser: Mask, out: Array
) -> None:
    """What is still missing, summed over each cell of the coarser grid, in place."""
    depth = found.shape[2]
    for i in range(len(at)):
        y, x = at[i, 0], at[i, 1]
        row, col = (y - 1) // 2, (x - 1) // 2
        if coarser[row, col]:
            for k in range(depth):
                out[row + 1, col + 1, k] += (
                    right[y, x, k] + _around(found, y, x, k) - sides[i] * found[y, x, k]
                )


@compiled
def _prolong(coarse: Array, fine: Array, at: NDArray[np.int32]) -> None:
    """The coarser grid's correction, interpolated, is added in place."""
    depth = fine.shape[2]
    near, beside, across = np.float32(9 / 16), np.float32(3 / 16), np.float32(1 / 16)
    for i in range(len(at)):
        y, x = at[i, 0], at[i, 1]
        row, col = (y + 1) // 2, (x + 1) // 2
        v, u = row + (1 if y % 2 == 0 else -1), col + (1 if x % 2 == 0 else -1)
        for k in range(depth):
            fine[y, x, k] += (
                near * coarse[row, col, k]
                + beside * (coarse[v, col, k] + coarse[row, u, k])
                + across * coarse[v, u, k]
            )


@compiled
def copied_laplacian(image: Array, hole: Mask, field: NDArray[np.int32], guess: Array) -> Array:
    """Divergence of the gradients that the sources of each pair of neighbours suggest.

    Between two neighbours the gradient is the mean of what the source of either says; a known
    pixel beside the hole has no source of its own, then the other's counts alone. Where one source goes on
    with something else than what lies beside it (skin where there is cloth), the gradient is the guess's own:
    that is an edge, and its difference would be spread over all of the hole.

    Parameters
    ----------
    image, guess : ndarray (h, w, depth)
        What is known, and what the hole was voted to look like (the known around it).
    field : ndarray (h, w, 2) int32
        Row and column of each source.
    """
    h, w, depth = image.shape
    out = np.zeros((h, w, depth), np.float32)
    low, per = np.float32(_ALIKE), np.float32(1 / (_UNLIKE - _ALIKE))
    for y in range(h):
        for x in range(w):
            if not hole[y, x]:
                continue
            sy, sx = field[y, x, 0], field[y, x, 1]
            for side in range(4):
                dy = 1 if side == 0 else -1 if side == 1 else 0
                dx = 1 if side == 2 else -1 if side == 3 else 0
                ny, nx = y + dy, x + dx
                if ny < 0 or nx < 0 or ny >= h or nx >= w:
                    continue
                inside = hole[ny, nx]
                oy, ox = (field[ny, nx, 0], field[ny, nx, 1]) if inside else (ny, nx)
                away = np.float32(0)
                for k in range(depth):
                    away = max(away, abs(image[sy + dy, sx + dx, k] - image[oy, ox, k]))
                    if inside:
                        away = max(away, abs(image[oy - dy, ox - dx, k] - image[sy, sx, k]))
                own = min(max((away - low) * per, np.float32(0)), np.float32(1))
                for k in range(depth):
                    step = image[sy + dy, sx + dx, k] - image[sy, sx, k]
                    if inside:
                        back = image[oy, ox, k] - image[oy - dy, ox - dx, k]
                        step = np.float32(0.5) * (step + back)
                    if own > 0:
                        step += own * (guess[ny, nx, k] - guess[y, x, k] - step)
                    out[y, x, k] += step
    return out

"""Nearest neighbours between patches, found by propagation and random search.

After C. Barnes, E. Shechtman, A. Finkelstein, D. B. Goldman, *PatchMatch: A Randomized
Correspondence Algorithm for Structural Image Editing*, SIGGRAPH 2009.
"""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import at_once

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Field = NDArray[np.int32]
Reach = NDArray[np.int32]

# Half the side of a patch: 7 x 7 pixels.
REACH = 3
# So often another source is drawn where one lies too far away.
_TRIES = 40
# Channels of what is matched: colour, and two of texture.
_DEPTH = 5
# Work is cut into at most so many bands of rows, none of fewer targets than this.
_BANDS, _LEAST_BAND = 4, 600


@compiled
def _random(state: NDArray[np.uint64]) -> int:
    """The next of a row of numbers (xorshift; G. Marsaglia, *Xorshift RNGs*, 2003)."""
    x = state[0]
    x ^= x << np.uint64(13)
    x ^= x >> np.uint64(7)
    x ^= x << np.uint64(17)
    state[0] = x
    return int(x >> np.uint64(33))


class Belief:
    """How far each pixel can be believed, ``weight`` (h, w) above 0, laid out so that patches are compared
    in few wide steps."""

    def __init__(self, weight: Array) -> None:
        self.trust = np.repeat(np.ascontiguousarray(weight, np.float32), _DEPTH, axis=1)
        side = (2 * REACH + 1, 2 * REACH + 1)
        sums = cv2.boxFilter(
            np.ascontiguousarray(weight, np.float32), -1, side, normalize=False,
            borderType=cv2.BORDER_CONSTANT,
        )  # fmt: skip
        self.norm = np.maximum(sums, np.float32(1e-9))


def _flat(image: Array) -> Array:
    """The channels of each pixel side by side, (h, w * 5)."""
    h, w, depth = image.shape
    return np.ascontiguousarray(image, np.float32).reshape(h, w * depth)


@compiled
def _distance(
    flat: Array, trust: Array, norm: Array, ty: int, tx: int, sy: int, sx: int, limit: float
) -> float:
    """Weighted mean square difference of two patches; given up beyond ``limit``.

    Pixels of the target beyond the image don't count. ``flat`` (h, w * 5) has the channels of each
    pixel side by side, ``trust`` how far each of them can be believed, ``norm`` (h, w) the sum of
    what a patch is believed.
    """
    h, w = norm.shape
    top, bottom = max(-REACH, -ty), min(REACH, h - 1 - ty)
    left, right = max(-REACH, -tx), min(REACH, w - 1 - tx)
    most = np.float32(limit) * norm[ty, tx]
    total = np.float32(0)
    count = _DEPTH * (right - left + 1)
    here, there = _DEPTH * (tx + left), _DEPTH * (sx + left)
    for dy in range(top, bottom + 1):
        line = flat[ty + dy, here : here + count]
        source = flat[sy + dy, there : there + count]
        believed = trust[ty + dy, here : here + count]
        part = np.float32(0)
        for k in range(count):
            d = line[k] - source[k]
            part += believed[k] * d * d
        total += part
        if total > most:
            return np.inf
    return float(total / norm[ty, tx])


@compiled
def scatter(
    field: Field,
    cost: Array,
    target: Mask,
    sources: NDArray[np.int64],
    state: NDArray[np.uint64],
    far: Reach,
) -> None:
    """Give every target without a usable source a random one of ``sources`` (n,), counted row by row, in place.

    One within its ``far`` (h, w) pixels both ways, if a few tries find such a one.
    """
    h, w = target.shape
    for y in range(h):
        for x in range(w):
            if target[y, x] and field[y, x, 0] < 0:
                k = sources[_random(state) % len(sources)]
                for _ in range(_TRIES):
                    if abs(k // w - y) <= far[y, x] and abs(k % w - x) <= far[y, x]:
                        break
                    k = sources[_random(state) % len(sources)]
                field[y, x, 0], field[y, x, 1] = k // w, k % w
                cost[y, x] = np.inf


def search(
    image: Array,
    belief: Belief,
    target: Mask,
    usable: Mask,
    field: Field,
    cost: Array,
    rounds: int,
    widest: int,
    state: NDArray[np.uint64],
    far: Reach,
) -> None:
    """Improve the sources of all targets, in place.

    Parameters
    ----------
    image : ndarray (h, w, 5)
        The picture with the present guess in the hole: colour, and two channels of texture.
    belief : Belief
        How far each pixel can be believed.
    target, usable : ndarray (h, w) bool
        Middles of patches to find sources for; middles that a source may have.
    field : ndarray (h, w, 2) int32
        Row and column of each target's source.
    cost : ndarray (h, w)
        Its distance; worked out anew for the present image.
    rounds : int
        Sweeps, alternating in direction.
    widest : int
        How far from the present source the random search begins, in pixels.
    far : ndarray (h, w) int32
        How far from each target a source may lie, in pixels both ways.
    """
    flat = _flat(image)
    per_row = np.count_nonzero(target, axis=1)
    for sweep in range(rounds):
        bands = _bands(per_row, sweep)
        rows = [(top, end, np.array([_next(state)], np.uint64)) for top, end in bands]

        def improve(band: tuple[int, int, NDArray[np.uint64]], sweep: int = sweep) -> None:
            top, end, own = band
            _search(
                flat, belief.trust, belief.norm, target, usable, field, cost, sweep,
                widest, top, end, own, far,
            )  # fmt: skip

        at_once(improve, rows)


def _next(state: NDArray[np.uint64]) -> int:
    """The beginning of another row of numbers, never 0."""
    return 2 * _random(state) + 1


def _bands(per_row: NDArray[np.int64], sweep: int) -> list[tuple[int, int]]:
    """Bands of rows with about as many targets each, for work at the same time.

    They are the same on every machine, for what is found hangs on them; every other sweep cuts
    elsewhere, so that what is found gets across.
    """
    sums = np.cumsum(per_row)
    count = int(min(_BANDS, max(1, sums[-1] // _LEAST_BAND)))
    shift = 0.5 if sweep % 2 else 0.0
    cuts = [sums[-1] * (k + shift) / count for k in range(0 if shift else 1, count)]
    edges = [0, *(int(np.searchsorted(sums, c)) for c in cuts), len(sums)]
    return [(a, b) for a, b in pairwise(edges) if b > a] if count > 1 else [(0, len(sums))]


@compiled
def _search(
    flat: Array, trust: Array, norm: Array, target: Mask, usable: Mask, field: Field, cost: Array,
    sweep: int, widest: int, top: int, end: int, state: NDArray[np.uint64], far: Reach,
) -> None:  # fmt: skip
    """One sweep over the rows of a band."""
    h, w = target.shape
    if sweep == 0:
        for y in range(top, end):
            for x in range(w):
                if target[y, x]:
                    sy, sx = field[y, x, 0], field[y, x, 1]
                    cost[y, x] = _distance(flat, trust, norm, y, x, sy, sx, np.inf)
    step = 1 if sweep % 2 == 0 else -1
    for row in range(end - top):
        y = top + row if step == 1 else end - 1 - row
        for col in range(w):
            x = col if step == 1 else w - 1 - col
            if not target[y, x]:
                continue
            best, by, bx = cost[y, x], field[y, x, 0], field[y, x, 1]
            for side in range(2):
                ny, nx = (y - step, x) if side == 0 else (y, x - step)
                if ny < top or nx < 0 or ny >= end or nx >= w or not target[ny, nx]:
                    continue
                sy = field[ny, nx, 0] + (step if side == 0 else 0)
                sx = field[ny, nx, 1] + (step if side == 1 else 0)
                if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                    continue
                if abs(sy - y) > far[y, x] or abs(sx - x) > far[y, x]:
                    continue
                if sy == by and sx == bx:
                    continue
                d = _distance(flat, trust, norm, y, x, sy, sx, best)
                if d < best:
                    best, by, bx = d, sy, sx
            reach = widest
            while reach >= 1:
                sy = by + _random(state) % (2 * reach + 1) - reach
                sx = bx + _random(state) % (2 * reach + 1) - reach
                reach //= 2
                if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                    continue
                if abs(sy - y) > far[y, x] or abs(sx - x) > far[y, x]:
                    continue
                d = _distance(flat, trust, norm, y, x, sy, sx, best)
                if d < best:
                    best, by, bx = d, sy, sx
            cost[y, x], field[y, x, 0], field[y, x, 1] = best, by, bx


def smooth_out(
    image: Array,
    belief: Belief,
    target: Mask,
    usable: Mask,
    field: Field,
    cost: Array,
    rounds: int,
    tolerance: float,
) -> None:
    """Let neighbouring targets share their offsets where that costs little, in place.

    A target takes over a neighbour's offset while the match stays within ``tolerance`` times the
    best it had: large parts are then copied whole, with their grain, instead of a patchwork.
    Larger groups win: of the four neighbours the offset that most have is tried first.
    """
    flat, least = _flat(image), cost.copy()
    per_row = np.count_nonzero(target, axis=1)
    for sweep in range(rounds):

        def share(band: tuple[int, int], sweep: int = sweep) -> None:
            _share(
                flat, belief.trust, belief.norm, target, usable, field, cost, least,
                sweep, tolerance, *band,
            )  # fmt: skip

        at_once(share, _bands(per_row, sweep))


@compiled
def _share(
    flat: Array, trust: Array, norm: Array, target: Mask, usable: Mask, field: Field, cost: Array,
    least: Array, sweep: int, tolerance: float, top: int, end: int,
) -> None:  # fmt: skip
    """One sweep of sharing over the rows of a band."""
    h, w = target.shape
    step = 1 if sweep % 2 == 0 else -1
    for row in range(end - top):
        y = top + row if step == 1 else end - 1 - row
        for col in range(w):
            x = col if step == 1 else w - 1 - col
            if not target[y, x]:
                continue
            # Counted once a neighbour has another offset: most have the same.
            own = -1
            for side in range(4):
                ny = y + (1 if side == 0 else -1 if side == 1 else 0)
                nx = x + (1 if side == 2 else -1 if side == 3 else 0)
                if ny < top or nx < 0 or ny >= end or nx >= w or not target[ny, nx]:
                    continue
                oy, ox = field[ny, nx, 0] - ny, field[ny, nx, 1] - nx
                sy, sx = y + oy, x + ox
                if sy == field[y, x, 0] and sx == field[y, x, 1]:
                    continue
                if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                    continue
                if own < 0:
                    by, bx = field[y, x, 0] - y, field[y, x, 1] - x
                    own = _support(target, field, y, x, by, bx, top, end)
                support = _support(target, field, y, x, oy, ox, top, end)
                if support <= own:
                    continue
                limit = tolerance * least[y, x] + 1e-7
                d = _distance(flat, trust, norm, y, x, sy, sx, limit)
                if d <= limit:
                    own = support
                    field[y, x, 0], field[y, x, 1], cost[y, x] = sy, sx, d


@compiled
def _support(
    target: Mask, field: Field, y: int, x: int, oy: int, ox: int, top: int, end: int
) -> int:
    """How many of the 24 nearest targets of a band have an offset."""
    w = target.shape[1]
    count = 0
    for v in range(max(y - 2, top), min(y + 3, end)):
        for u in range(max(x - 2, 0), min(x + 3, w)):
            if (v != y or u != x) and target[v, u]:
                count += field[v, u, 0] - v == oy and field[v, u, 1] - u == ox
    return count


@compiled
def vote(image: Array, hole: Mask, target: Mask, weight: Array, field: Field, cost: Array) -> None:
    """Average each pixel of the hole from the sources of all patches over it, in place.

    A patch counts as its middle is believed and as well as it matches (Y. Wexler, E. Shechtman,
    M. Irani, *Space-Time Completion of Video*, PAMI 2007).
    """
    h, w = hole.shape
    known = np.empty(h * w, np.float32)
    count = 0
    for y in range(h):
        for x in range(w):
            if target[y, x]:
                known[count] = cost[y, x]
                count += 1
    if count == 0:
        return
    # The spread of the matches: three quarters of them are better.
    spread = max(np.partition(known[:count], (3 * count) // 4)[(3 * count) // 4], 1e-7)
    share = np.zeros((h, w), np.float32)
    sums = np.empty(5, np.float32)
    for y in range(h):
        for x in range(w):
            if target[y, x]:
                share[y, x] = weight[y, x] * np.exp(-cost[y, x] / (2 * spread)) + 1e-6
    for y in range(h):
        for x in range(w):
            if not hole[y, x]:
                continue
            sums[:] = 0
            total = np.float32(0)
            for ny in range(max(y - REACH, 0), min(y + REACH + 1, h)):
                for nx in range(max(x - REACH, 0), min(x + REACH + 1, w)):
                    if not target[ny, nx]:
                        continue
                    sy, sx = field[ny, nx, 0] + y - ny, field[ny, nx, 1] + x - nx
                    s = share[ny, nx]
                    source = image[sy, sx]
                    for k in range(5):
                        sums[k] += s * source[k]
                    total += s
            if total > 0:
                for k in range(5):
                    image[y, x, k] = sums[k] / total


@compiled
def finer(field: Field, target: Mask, usable: Mask) -> Field:
    """The field of a picture of twice the size; -1 where what it gives is of no use."""
    h, w = target.shape
    rows, cols, _ = field.shape
    out = np.full((h, w, 2), -1, np.int32)
    for y in range(h):
        for x in range(w):
            if not target[y, x]:
                continue
            py, px = min(y // 2, rows - 1), min(x // 2, cols - 1)
            if field[py, px, 0] < 0:
                continue
            sy, sx = 2 * field[py, px, 0] + y % 2, 2 * field[py, px, 1] + x % 2
            if sy < h and sx < w and usable[sy, sx]:
                out[y, x, 0], out[y, x, 1] = sy, sx
    return out

"""Nearest neighbours between patches, found by propagation and random search.

After C. Barnes, E. Shechtman, A. Finkelstein, D. B. Goldman, *PatchMatch: A Randomized
Correspondence Algorithm for Structural Image Editing*, SIGGRAPH 2009.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Field = NDArray[np.int32]

# Half the side of a patch: 7 x 7 pixels.
REACH = 3


@compiled
def _random(state: NDArray[np.uint64]) -> int:
    """The next of a row of numbers (xorshift; G. Marsaglia, *Xorshift RNGs*, 2003)."""
    x = state[0]
    x ^= x << np.uint64(13)
    x ^= x >> np.uint64(7)
    x ^= x << np.uint64(17)
    state[0] = x
    return int(x >> np.uint64(33))


@compiled
def _distance(
    image: Array, weight: Array, ty: int, tx: int, sy: int, sx: int, limit: float
) -> float:
    """Weighted mean square difference of two patches; given up beyond ``limit``.

    Pixels of the target beyond the image don't count; ``weight`` (h, w) says how far each
    pixel of the target can be believed.
    """
    h, w, _ = image.shape
    top, bottom = max(-REACH, -ty), min(REACH, h - 1 - ty)
    left, right = max(-REACH, -tx), min(REACH, w - 1 - tx)
    norm = np.float32(0)
    for dy in range(top, bottom + 1):
        line = weight[ty + dy]
        for dx in range(left, right + 1):
            norm += line[tx + dx]
    most = np.float32(limit) * norm
    total = np.float32(0)
    for dy in range(top, bottom + 1):
        line, source, trust = image[ty + dy], image[sy + dy], weight[ty + dy]
        for dx in range(left, right + 1):
            a, b = line[tx + dx], source[sx + dx]
            r, g, c = a[0] - b[0], a[1] - b[1], a[2] - b[2]
            p, q = a[3] - b[3], a[4] - b[4]
            total += trust[tx + dx] * (r * r + g * g + c * c + p * p + q * q)
        if total > most:
            return np.inf
    return float(total / max(norm, np.float32(1e-9)))


@compiled
def scatter(
    field: Field, cost: Array, target: Mask, sources: Field, state: NDArray[np.uint64]
) -> None:
    """Give every target without a usable source a random one of ``sources`` (n, 2), in place."""
    h, w = target.shape
    for y in range(h):
        for x in range(w):
            if target[y, x] and field[y, x, 0] < 0:
                k = _random(state) % len(sources)
                field[y, x, 0], field[y, x, 1] = sources[k, 0], sources[k, 1]
                cost[y, x] = np.inf


@compiled
def search(
    image: Array,
    weight: Array,
    target: Mask,
    usable: Mask,
    field: Field,
    cost: Array,
    rounds: int,
    widest: int,
    state: NDArray[np.uint64],
) -> None:
    """Improve the sources of all targets, in place.

    Parameters
    ----------
    image : ndarray (h, w, 5)
        The picture with the present guess in the hole: colour, and two channels of texture.
    weight : ndarray (h, w)
        How far each pixel can be believed, above 0.
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
    """
    h, w = target.shape
    for y in range(h):
        for x in range(w):
            if target[y, x]:
                cost[y, x] = _distance(image, weight, y, x, field[y, x, 0], field[y, x, 1], np.inf)
    for sweep in range(rounds):
        step = 1 if sweep % 2 == 0 else -1
        for row in range(h):
            y = row if step == 1 else h - 1 - row
            for col in range(w):
                x = col if step == 1 else w - 1 - col
                if not target[y, x]:
                    continue
                best, by, bx = cost[y, x], field[y, x, 0], field[y, x, 1]
                for side in range(2):
                    ny, nx = (y - step, x) if side == 0 else (y, x - step)
                    if ny < 0 or nx < 0 or ny >= h or nx >= w or not target[ny, nx]:
                        continue
                    sy = field[ny, nx, 0] + (step if side == 0 else 0)
                    sx = field[ny, nx, 1] + (step if side == 1 else 0)
                    if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                        continue
                    if sy == by and sx == bx:
                        continue
                    d = _distance(image, weight, y, x, sy, sx, best)
                    if d < best:
                        best, by, bx = d, sy, sx
                reach = widest
                while reach >= 1:
                    sy = by + _random(state) % (2 * reach + 1) - reach
                    sx = bx + _random(state) % (2 * reach + 1) - reach
                    reach //= 2
                    if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                        continue
                    d = _distance(image, weight, y, x, sy, sx, best)
                    if d < best:
                        best, by, bx = d, sy, sx
                cost[y, x], field[y, x, 0], field[y, x, 1] = best, by, bx


@compiled
def smooth_out(
    image: Array,
    weight: Array,
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
    h, w = target.shape
    least = cost.copy()
    for sweep in range(rounds):
        step = 1 if sweep % 2 == 0 else -1
        for row in range(h):
            y = row if step == 1 else h - 1 - row
            for col in range(w):
                x = col if step == 1 else w - 1 - col
                if not target[y, x]:
                    continue
                own = _support(target, field, y, x, field[y, x, 0] - y, field[y, x, 1] - x)
                for side in range(4):
                    ny = y + (1 if side == 0 else -1 if side == 1 else 0)
                    nx = x + (1 if side == 2 else -1 if side == 3 else 0)
                    if ny < 0 or nx < 0 or ny >= h or nx >= w or not target[ny, nx]:
                        continue
                    oy, ox = field[ny, nx, 0] - ny, field[ny, nx, 1] - nx
                    sy, sx = y + oy, x + ox
                    if sy == field[y, x, 0] and sx == field[y, x, 1]:
                        continue
                    if sy < 0 or sx < 0 or sy >= h or sx >= w or not usable[sy, sx]:
                        continue
                    support = _support(target, field, y, x, oy, ox)
                    if support <= own:
                        continue
                    limit = tolerance * least[y, x] + 1e-7
                    d = _distance(image, weight, y, x, sy, sx, limit)
                    if d <= limit:
                        own = support
                        field[y, x, 0], field[y, x, 1], cost[y, x] = sy, sx, d


@compiled
def _support(target: Mask, field: Field, y: int, x: int, oy: int, ox: int) -> int:
    """How many of the 24 nearest targets have an offset."""
    h, w = target.shape
    count = 0
    for v in range(max(y - 2, 0), min(y + 3, h)):
        for u in range(max(x - 2, 0), min(x + 3, w)):
            if (v != y or u != x) and target[v, u]:
                count += field[v, u, 0] - v == oy and field[v, u, 1] - u == ox
    return count


@compiled
def vote(image: Array, hole: Mask, target: Mask, weight: Array, field: Field, cost: Array) -> Array:
    """The image with each pixel of the hole averaged from the sources of all patches over it.

    A patch counts as its middle is believed and as well as it matches (Y. Wexler, E. Shechtman,
    M. Irani, *Space-Time Completion of Video*, PAMI 2007).
    """
    h, w = hole.shape
    out = image.copy()
    known = np.empty(h * w, np.float32)
    count = 0
    for y in range(h):
        for x in range(w):
            if target[y, x]:
                known[count] = cost[y, x]
                count += 1
    if count == 0:
        return out
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
                    out[y, x, k] = sums[k] / total
    return out


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

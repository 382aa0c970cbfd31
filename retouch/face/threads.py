"""Threads: thin lines in any direction, followed from place to place across one another.

After C. Steger, *An unbiased detector of curvilinear structures*, PAMI 20 (1998): points on the ridge
of a line, linked along its direction; here a line is told from grain by being alike along a stretch.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import at_once

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Directions that are tried, and of those only every so-many'th where nothing is.
_WAYS, _COARSE = 24, 3
# A line is followed in steps of so many pixels and bends by so much at most (radians a step).
_STEP, _BEND = 1.5, 0.18
# Another line already followed runs along when it is nearer to this direction (radians).
_ALONG = 0.35
# Directions are remembered in so many bins.
_BINS = 24
# A line is given up after so many steps without it; crossings and faint places are shorter.
_GAP = 4
# What surely is a line is looked for again beyond so many steps without it.
_WIDE_GAP = 8
# Along the flow it goes on while it is so many times stronger than usual.
_BOLD = 3.0
_MOST = 4000
# Where a line points to at its end is told from so many of its points.
_END = 4
# So many pixels beside a line belong to it: there the surroundings differ from themselves by its light.
_BESIDE = 3
# Rows that are looked at in one go.
_ROWS = 64


def strongest(away: Array, may: Mask, flow: Array, half: int, apart: float) -> tuple[Array, Array]:
    """How strong the strongest line through each place is, and its direction.

    Parameters
    ----------
    away : ndarray (h, w, 3) float32
        How far each place is from its surroundings, by channel.
    may : ndarray (h, w) bool
        Where lines are looked for.
    flow : ndarray (h, w) float32
        Direction (radians, 0 along x) that lines have here by themselves; those within ``apart`` of it
        don't count. NaN: none.
    half : int
        Half the stretch of line that is looked at, pixels.

    Returns
    -------
    (ndarray, ndarray) of (h, w) float32
        The length of the mean of ``away`` along the line; the direction, radians 0..pi.
    """
    best = np.zeros(may.shape, np.float32)
    way = np.zeros(may.shape, np.float32)

    def part(rows: tuple[int, int]) -> None:
        _strongest(away, may, flow, half, apart, best, way, *rows)

    high = may.shape[0]
    at_once(part, [(y, min(y + _ROWS, high)) for y in range(0, high, _ROWS)])
    return best, way


@compiled
def _mean(away: Array, y: float, x: float, dy: float, dx: float, half: int) -> np.float32:
    """Length of the mean of a stretch of line around a place, the nearest pixels taken."""
    h, w = away.shape[:2]
    a = np.float32(0)
    b = np.float32(0)
    c = np.float32(0)
    for i in range(-half, half + 1):
        j = int(y + i * dy + 0.5)
        k = int(x + i * dx + 0.5)
        if 0 <= j < h and 0 <= k < w:
            a += away[j, k, 0]
            b += away[j, k, 1]
            c += away[j, k, 2]
    return np.float32(np.sqrt(a * a + b * b + c * c) / np.float32(2 * half + 1))


@compiled
def _between(a: float, b: float) -> float:
    """The angle between two directions without sense, 0..pi/2."""
    d = abs(a - b) % np.pi
    return min(d, np.pi - d)


@compiled
def _strongest(
    away: Array, may: Mask, flow: Array, half: int, apart: float, best: Array, way: Array,
    start: int, end: int,
) -> None:  # fmt: skip
    for y in range(start, end):
        for x in range(may.shape[1]):
            if not may[y, x]:
                continue
            at = -1
            for k in range(0, _WAYS, _COARSE):
                t = np.pi * k / _WAYS
                v = _mean(away, float(y), float(x), np.sin(t), np.cos(t), half)
                if v > best[y, x]:
                    best[y, x], at = v, k
            best[y, x] = 0
            for k in range(at - _COARSE + 1, at + _COARSE):
                t = np.pi * (k % _WAYS) / _WAYS
                if flow[y, x] == flow[y, x] and _between(t, flow[y, x]) < apart:
                    continue
                v = _mean(away, float(y), float(x), np.sin(t), np.cos(t), half)
                if v > best[y, x]:
                    best[y, x], way[y, x] = v, t


def middles(strength: Array, way: Array, usual: Array, sure: float) -> Array:
    """Places on the middle of lines so many times stronger than usual, for `followed`: (n, 3) float32, y, x
    and direction, the surest first.
    """
    y, x = np.mgrid[0 : strength.shape[0], 0 : strength.shape[1]].astype(np.float32)
    dy, dx = np.cos(way), -np.sin(way)
    peak = strength > sure * usual
    for side in (-1, 1):
        beside = cv2.remap(strength, x + side * dx, y + side * dy, cv2.INTER_LINEAR)
        peak &= strength >= beside
    at = np.argwhere(peak)
    order = np.argsort(-(strength / usual)[peak], kind="stable")
    return np.concatenate([at, way[peak][:, None]], 1).astype(np.float32)[order]


def followed(
    away: Array, may: Mask, flow: Array, half: int, apart: float, usual: Array, starts: Array,
    low: float,
) -> list[NDArray[np.float64]]:  # fmt: skip
    """Lines followed to both sides from each start that lies on none of those before it.

    Parameters
    ----------
    usual : ndarray (h, w) float32
        What the mean along a line is where there is none.
    starts : ndarray (n, 3) float32
        y, x, direction; the surest first.
    low : float
        A line goes on while it is so many times stronger than usual.

    Returns
    -------
    list of ndarray (m, 2)
        y, x along each line.
    """
    done = np.zeros(may.shape, np.int32)
    out: list[NDArray[np.float64]] = []
    for start in np.ascontiguousarray(starts, np.float32):
        line = _both(away, may, flow, half, apart, usual, start, low, done)
        if len(line) > 1:
            out.append(line)
    return out


def gone_on(
    away: Array, may: Mask, flow: Array, half: int, apart: float, usual: Array,
    line: NDArray[np.float64], low: float,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:  # fmt: skip
    """How a line goes on before its first point and after its last, down to so many times what is usual.

    What surely is a line is followed further down than one is looked for, over crossings as well; see
    `followed`. Both pieces run in the line's own direction; they may be empty.
    """
    nothing = np.zeros(may.shape, np.int32)
    ends = []
    for points in (line[::-1], line):
        before, last = points[-1 - min(_END, len(line) - 1)], points[-1]
        t = float(np.arctan2(last[0] - before[0], last[1] - before[1]))
        out = np.zeros((_MOST, 2))
        n = _one(
            away, may, flow, half, apart, usual, low, nothing, float(last[0]), float(last[1]), t,
            _WIDE_GAP, out,
        )  # fmt: skip
        ends.append(out[:n])
    return ends[0][::-1], ends[1]


@compiled
def _known(done: NDArray[np.int32], y: float, x: float, t: float) -> bool:
    """Whether a line that was followed before runs along here."""
    n = int((t % np.pi) / np.pi * _BINS) % _BINS
    return (done[int(y + 0.5), int(x + 0.5)] >> n) & 1 == 1


@compiled
def _both(
    away: Array, may: Mask, flow: Array, half: int, apart: float, usual: Array, start: Array,
    low: float, done: NDArray[np.int32],
) -> NDArray[np.float64]:  # fmt: skip
    y, x, t = float(start[0]), float(start[1]), float(start[2])
    if _known(done, y, x, t):
        return np.zeros((0, 2))
    there = np.zeros((_MOST, 2))
    back = np.zeros((_MOST, 2))
    n = _one(away, may, flow, half, apart, usual, low, done, y, x, t, _GAP, there)
    m = _one(away, may, flow, half, apart, usual, low, done, y, x, t + np.pi, _GAP, back)
    out = np.zeros((n + m + 1, 2))
    for i in range(m):
        out[i] = back[m - 1 - i]
    out[m, 0], out[m, 1] = y, x
    for i in range(n):
        out[m + 1 + i] = there[i]
    for i in range(len(out)):
        a, b = max(i - 1, 0), min(i + 1, len(out) - 1)
        way = np.arctan2(out[b, 0] - out[a, 0], out[b, 1] - out[a, 1])
        if a == b:
            way = t
        bits = 0
        for n in range(_BINS):
            if _between(way, (n + 0.5) * np.pi / _BINS) < _ALONG:
                bits |= 1 << n
        j, k = int(out[i, 0] + 0.5), int(out[i, 1] + 0.5)
        for v in range(max(j - _BESIDE, 0), min(j + _BESIDE + 1, may.shape[0])):
            for u in range(max(k - _BESIDE, 0), min(k + _BESIDE + 1, may.shape[1])):
                done[v, u] |= bits
    return out


@compiled
def _one(
    away: Array, may: Mask, flow: Array, half: int, apart: float, usual: Array, low: float,
    done: NDArray[np.int32], y: float, x: float, t: float, gap: int, out: NDArray[np.float64],
) -> int:  # fmt: skip
    """Follow a line one way; gives how many points of ``out`` belong to it."""
    h, w = may.shape
    missed, last = 0, 0
    for n in range(out.shape[0]):
        best, turn = np.float32(-1), t
        for k in range(-3, 4):
            tt = t + k * _BEND / 3
            yy, xx = y + _STEP * np.sin(tt), x + _STEP * np.cos(tt)
            v = _mean(away, yy, xx, np.sin(tt), np.cos(tt), half) * np.float32(1 - 0.03 * abs(k))
            if v > best:
                best, turn = v, tt
        yy, xx = y + _STEP * np.sin(turn), x + _STEP * np.cos(turn)
        # Its middle may lie a little to a side.
        side = 0.0
        for s in (-0.6, 0.6):
            v = _mean(
                away, yy + s * np.cos(turn), xx - s * np.sin(turn), np.sin(turn), np.cos(turn), half
            )
            if v > best:
                best, side = v, s
        yy += 0.5 * side * np.cos(turn)
        xx -= 0.5 * side * np.sin(turn)
        j, k = int(yy + 0.5), int(xx + 0.5)
        if j < 1 or k < 1 or j >= h - 1 or k >= w - 1 or not may[j, k]:
            break
        y, x, t = yy, xx, turn
        out[n, 0], out[n, 1] = y, x
        own = flow[j, k] == flow[j, k] and _between(t, flow[j, k]) < apart
        least = (_BOLD if own else low) * usual[j, k]
        if best < least or _known(done, y, x, t):
            missed += 1
            if missed > gap:
                break
        else:
            missed, last = 0, n + 1
    return last


def length(line: NDArray[np.float64]) -> float:
    """How long a line of points (n, 2) is."""
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def density(lines: Mask, wide: float) -> Array:
    """How much of the ``wide`` pixels around each place is a line; where it is much, all is lines."""
    side = 2 * max(1, round(wide / 2)) + 1
    return np.asarray(cv2.blur(lines.astype(np.float32), (side, side)), np.float32)


def mean_along(values: Array, line: NDArray[np.float64]) -> float:
    """The mean of values (h, w) along a line of points (n, 2)."""
    j, k = np.round(line).astype(int).T
    return float(values[j, k].mean())


def is_ridge(line: NDArray[np.float64], lab: Array, step: float, part: float) -> bool:
    """Whether a line differs from both its sides in the same direction of colour.

    An edge between two things, or a fold's flank, differs from one side only.

    Parameters
    ----------
    lab : ndarray (h, w, 3) float32
        CIELAB.
    step : float
        How far away the sides are looked at, pixels.
    part : float
        The weaker difference is this part of the stronger at least, both squared.
    """
    way = np.gradient(line, axis=0)
    across = way[:, ::-1] * (1, -1) / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-6)
    own, left, right = (
        np.median(_values(lab, line + s * step * across), axis=0) for s in (0.0, -1.0, 1.0)
    )
    one, other = own - left, own - right
    both = float((one * other).sum())
    return both > 0 and both > part * max(float((one**2).sum()), float((other**2).sum()))


def _values(lab: Array, at: NDArray[np.float64]) -> Array:
    x, y = (at[:, c].astype(np.float32)[None] for c in (1, 0))
    return np.asarray(
        cv2.remap(lab, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0], np.float32
    )

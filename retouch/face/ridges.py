"""Lines of another colour than both their sides, and the smoothest clear path along one."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]

# A line is so many rows of equal width, more or less; where gloss hides one edge, its usual width
# (this quantile) counts, and it is never thinner or thicker than these parts of that.
_STEADY, _USUAL, _LEAST, _MOST = 31, 0.6, 0.85, 1.3
# A line of full width differs from its sides by this part of the most.
_NEARLY = 0.8


def ridges(lab: Array, steps: tuple[int, ...]) -> Array:
    """How far each place differs from both its sides across, in the same direction of colour.

    Parameters
    ----------
    lab : ndarray (n, m, 3) float32
        CIELAB; lines run along the first axis, more or less.
    steps : tuple of int
        Distances to the sides in pixels along the second axis: half the widths looked for.

    Returns
    -------
    ndarray (n, m) float32
        CIE76 units; 0 where the two sides lie on either side of the place's colour.
    """
    out = np.zeros(lab.shape[:2], np.float32)
    for k in steps:
        wide = np.pad(lab, ((0, 0), (k, k), (0, 0)), mode="edge")
        before, after = lab - wide[:, : -2 * k], lab - wide[:, 2 * k :]
        both = np.sqrt(np.maximum((before * after).sum(-1), 0))
        both[:, :k] = both[:, -k:] = 0
        np.maximum(out, both, out=out)
    # Hairs break a line from one row to the next, a rim doesn't.
    steady = cv2.dilate(out, np.ones((1, 3), np.uint8))
    steady = cv2.erode(steady, np.ones((3, 1), np.uint8))
    return np.minimum(out, steady)


def width(lab: Array, middle: NDArray[np.int64], steps: tuple[int, ...]) -> Array:
    """Half the width of a line along its path, (n,) pixels: the smallest step to both sides at
    which it differs from them nearly as much as at any."""
    rows = np.arange(len(middle))
    clear = np.stack([ridges(lab, (k,))[rows, middle] for k in steps])
    enough = clear >= _NEARLY * clear.max(0)
    return np.asarray(steps, np.float32)[enough.argmax(0)]


@compiled
def path(scores: Array, jump: int, bend: float) -> NDArray[np.int64]:
    """The column of each row of the path with the largest sum of scores.

    Parameters
    ----------
    scores : ndarray (n, m) float32
    jump : int
        The most columns from one row to the next.
    bend : float
        What each of them costs.

    Returns
    -------
    ndarray (n,) int64
        Found by dynamic programming over all paths.
    """
    n, m = scores.shape
    total = scores.copy()
    back = np.zeros((n, m), np.int64)
    for i in range(1, n):
        for j in range(m):
            best, at = np.float32(-1e18), 0
            for k in range(max(j - jump, 0), min(j + jump + 1, m)):
                value = total[i - 1, k] - np.float32(bend * abs(j - k))
                if value > best:
                    best, at = value, k
            total[i, j] += best
            back[i, j] = at
    out = np.zeros(n, np.int64)
    out[n - 1] = np.argmax(total[n - 1])
    for i in range(n - 1, 0, -1):
        out[i - 1] = back[i, out[i]]
    return out


def edges(lab: Array, middle: NDArray[np.int64], most: int) -> tuple[Array, Array]:
    """How far a line reaches to either side of its path, (n,) pixels each.

    A line ends where its colour is half that of what lies beside it.
    """
    n, m = lab.shape[:2]
    rows = np.arange(n)
    own = cv2.blur(lab[rows, middle][:, None], (1, 5), borderType=cv2.BORDER_REPLICATE)[:, 0]
    out = []
    for way in (-1, 1):
        at = np.clip(middle[:, None] + way * np.arange(1, most + 4), 0, m - 1)
        colours = lab[rows[:, None], at]
        away = np.linalg.norm(colours - own[:, None], axis=-1)
        # The nearest place that differs as much as any within reach.
        half = 0.5 * np.maximum(away.max(1), 8.0)
        over = away > half[:, None]
        reach = np.where(over.any(1), over.argmax(1), most).astype(np.float32)
        out.append(np.minimum(_steady(reach + 0.5), most))
    return out[0], out[1]


def _steady(reach: Array) -> Array:
    """How far a line reaches without what jumps: gloss along it, and what joins it."""
    wide = min(len(reach) // 8 * 2 + 1, _STEADY)
    padded = np.pad(reach, wide // 2, mode="reflect" if len(reach) > wide else "edge")
    local = np.median(np.lib.stride_tricks.sliding_window_view(padded, wide), axis=1)
    usual = float(np.quantile(reach, _USUAL))
    return np.asarray(np.clip(local, _LEAST * usual, _MOST * usual), np.float32)

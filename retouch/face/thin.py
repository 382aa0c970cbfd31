"""Parts of a mask that are thin and long, as the lines that they are."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

# A line has so many points at least, and one for so many pixels; its bow is a polynomial of the first of
# these degrees, of the second where it is longer than so many pixels.
_POINTS, _EVERY = 6, 6
# Branches shorter than this part of the width are none.
_SPUR = 1.2
_DEGREES, _LONG = (3, 6), 40
# The places around one, in order and back to the first.
_RING = ((1, 1), (1, 0), (1, -1), (0, -1), (-1, -1), (-1, 0), (-1, 1), (0, 1), (1, 1))


def thin_lines(
    part: NDArray[np.int64], long: float, wide: float, longer: float, piece: float
) -> list[tuple[NDArray[np.float64], float]]:
    """The lines that a connected part of a mask is, crossing ones apart; none if it is something else.

    The part's middle line (T. Y. Zhang, C. Y. Suen, *A fast parallel algorithm for thinning digital
    patterns*, 1984), taken apart where it branches.

    Parameters
    ----------
    part : ndarray (n, 2) int64
        y, x of its pixels.
    long, wide : float
        Its least length and greatest width, pixels.
    longer : float
        So many times longer than wide it is at least.
    piece : float
        A piece between crossings has this part of the least length.

    Returns
    -------
    list of (ndarray (m, 2), float)
        x, y along each line, pixel centres at +0.5; the width, pixels.
    """
    low = part.min(0) - 2
    inside = np.zeros(part.max(0) - low + 3, np.uint8)
    inside[tuple((part - low).T)] = 255
    thin = cv2.ximgproc.thinning(inside, thinningType=cv2.ximgproc.THINNING_ZHANGSUEN) > 0
    deep = cv2.distanceTransform(inside, cv2.DIST_L2, 5)
    width = max(1.0, 2 * float(deep[thin].mean()) - 1) if thin.any() else 1.0
    # A rough side has spurs, no branches.
    thin = _pruned(thin, max(1, round(_SPUR * width)))
    length = int(thin.sum())
    if length < long or width > wide or length < longer * width:
        return []
    ring = [np.roll(thin, s, (0, 1)) for s in _RING]
    crossings = sum((~a & b).astype(np.uint8) for a, b in pairwise(ring))
    count, lines = cv2.connectedComponents(
        (thin & (crossings < 3)).astype(np.uint8), connectivity=8
    )
    out = []
    for n in range(1, count):
        at = np.argwhere(lines == n)
        if len(at) >= max(4.0, piece * long):
            out.append((_smooth(_in_order(at) + low)[:, ::-1] + 0.5, width))
    return out


def _pruned(thin: NDArray[np.bool_], most: int) -> NDArray[np.bool_]:
    """Middle lines without branches of up to so many pixels; the ends of what stays are as they were."""
    kept = thin.copy()
    ring = np.ones((3, 3), np.float32)

    def ends(of: NDArray[np.bool_]) -> NDArray[np.bool_]:
        around = cv2.filter2D(of.astype(np.float32), -1, ring, borderType=cv2.BORDER_CONSTANT)
        return np.asarray(of & (around < 2.5))

    for _ in range(most):
        kept &= ~ends(kept)
    if not kept.any():
        return thin
    grown = ends(kept)
    for _ in range(most):
        grown = (cv2.dilate(grown.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & thin
    return kept | grown


def _in_order(at: NDArray[np.int64]) -> NDArray[np.int64]:
    """Places of a line from one end to the other."""
    away = np.abs(at[:, None] - at[None]).max(-1)
    order = [int((away <= 1).sum(1).argmin())]
    left = set(range(len(at))) - set(order)
    while left:
        order.append(min(left, key=lambda n: (away[order[-1], n], n)))
        left.remove(order[-1])
    return at[order]


def _smooth(line: NDArray[np.int64]) -> NDArray[np.float64]:
    """A few points of a bow along a line, a pixel beyond its ends."""
    t = np.linspace(-1, 1, len(line))
    beyond = 1 + 2 / len(line)
    at = np.linspace(-beyond, beyond, max(_POINTS, len(line) // _EVERY))
    degree = min(_DEGREES[len(line) > _LONG], len(line) - 1)
    bows = [np.polynomial.Polynomial.fit(t, line[:, c], degree) for c in (0, 1)]
    return np.stack([bow(at) for bow in bows], 1)

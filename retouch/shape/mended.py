"""A closed outline with a piece of it drawn anew."""

from __future__ import annotations

import numpy as np

from retouch.edit.values import MOST_POINTS, Point


def mended(outline: tuple[Point, ...], piece: tuple[Point, ...]) -> tuple[tuple[Point, ...], float]:
    """The outline with its points between both ends of a piece replaced by it, the shorter way around.

    Returns
    -------
    (tuple of (x, y), float)
        The new outline; how far the ends of the piece lay from the old one, pixels.
    """
    points, new = np.asarray(outline, np.float64), np.asarray(piece, np.float64)
    first, last = (np.hypot(*(points - end).T) for end in (new[0], new[-1]))
    a, b = int(first.argmin()), int(last.argmin())
    away = float(first[a] + last[b])
    count = len(points)
    forward = [(a + n) % count for n in range((b - a) % count + 1)]
    back = [(b + n) % count for n in range((a - b) % count + 1)]

    def long(way: list[int]) -> float:
        line = points[way]
        return float(np.hypot(*np.diff(line, axis=0).T).sum()) if len(line) > 1 else 0.0

    # What stays is the longer of both ways from one end of the piece to the other.
    if long(forward) <= long(back):
        stays = points[back][1:-1] if len(back) > 2 else points[:0]
        line = np.concatenate([new, stays])
    else:
        stays = points[forward][1:-1] if len(forward) > 2 else points[:0]
        line = np.concatenate([new[::-1], stays])
    if len(line) > MOST_POINTS:
        line = line[np.linspace(0, len(line) - 1, MOST_POINTS).astype(int)]
    return tuple((round(float(x), 1), round(float(y), 1)) for x, y in line), away

"""Which strands go first, and how those that stay are spared where cleared ones cross them."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Touch
from retouch.edit.values import MOST_SPARED, Point

Line = NDArray[np.float64]

# Paths are laid on a grid so fine that the largest side has this many cells at most.
_CELLS = 1500
# Around a crossing the strand that stays is spared over so many half widths of the other, and as wide as
# so many of its own.
_ALONG, _WIDE = 1.6, 0.7


def thinned(touches: tuple[Touch, ...], amount: float) -> tuple[Touch, ...]:
    """The strands with ``amount`` per cent of them cleared, the longest and most crossing first.

    Those that stay are spared where cleared ones cross them.
    """
    order = _order(touches)
    count = round(len(touches) * amount / 100)
    on = set(order[:count])
    return spared_where_crossed(tuple(replace(t, enabled=n in on) for n, t in enumerate(touches)))


def spared_where_crossed(touches: tuple[Touch, ...]) -> tuple[Touch, ...]:
    """Cleared strands with what they leave of those that stay, where these cross them."""
    stay = [t for t in touches if not t.enabled and len(t.path) > 1]
    lines = [np.asarray(t.path, np.float64) for t in stay]
    boxes = np.array([[*p.min(0), *p.max(0)] for p in lines]).reshape(-1, 4)
    out = []
    for touch in touches:
        if not touch.enabled or len(touch.path) < 2:
            out.append(touch)
            continue
        own = np.asarray(touch.path, np.float64)
        near = (boxes[:, :2] <= own.max(0)).all(1) & (boxes[:, 2:] >= own.min(0)).all(1)
        spare = _crossings(touch, own, [(stay[n], lines[n]) for n in np.flatnonzero(near)])
        out.append(touch if spare == touch.spare else replace(touch, spare=spare))
    return tuple(out)


def _order(touches: tuple[Touch, ...]) -> list[int]:
    points = [np.asarray(t.path, np.float64) for t in touches]
    if not points:
        return []
    low = np.min([p.min(0) for p in points], axis=0)
    high = np.max([p.max(0) for p in points], axis=0)
    k = min(1.0, _CELLS / max(float((high - low).max()), 1.0))
    shape = tuple(int(v) + 3 for v in ((high - low) * k)[::-1])
    seen = np.zeros(shape, np.uint8)
    ways = []
    for p in points:
        corner = np.floor((p.min(0) - low) * k).astype(int)
        size = np.ceil((p.max(0) - low) * k).astype(int) - corner + 2
        one = np.zeros(tuple(size[::-1]), np.uint8)
        at = np.round((p - low) * k).astype(np.int32) - corner.astype(np.int32)
        cv2.polylines(one, [at], False, 1, 1)
        rows, columns = np.nonzero(one)
        ways.append((rows + corner[1], columns + corner[0]))
        seen[ways[-1]] += seen[ways[-1]] < 255
    rank = []
    for p, way in zip(points, ways, strict=True):
        long = float(np.hypot(*np.diff(p, axis=0).T).sum())
        rank.append(long * (1 + float((seen[way] > 1).mean())))
    return [int(n) for n in np.argsort(-np.asarray(rank), kind="stable")]


def _crossings(
    touch: Touch, own: Line, near: list[tuple[Touch, Line]]
) -> tuple[tuple[Point, ...], ...]:
    half = float(touch.values["radius_px"])
    out: list[tuple[Point, ...]] = []
    for other, line in near:
        wide = _WIDE * float(other.values["radius_px"])
        for at, way in _meetings(own, line):
            along, across = way * (half + 1) * _ALONG, np.array([-way[1], way[0]]) * wide
            corners = at + np.stack(
                [-along - across, along - across, along + across, across - along]
            )
            out.append(tuple((round(float(x), 1), round(float(y), 1)) for x, y in corners))
    return tuple(out[:MOST_SPARED])


def _meetings(own: Line, line: Line) -> list[tuple[NDArray[np.float64], NDArray[np.float64]]]:
    """Where two paths cross, and the direction of the second there."""
    a, b = own[:-1, None], np.diff(own, axis=0)[:, None]
    c, d = line[None, :-1], np.diff(line, axis=0)[None]
    cross = b[..., 0] * d[..., 1] - b[..., 1] * d[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((c - a)[..., 0] * d[..., 1] - (c - a)[..., 1] * d[..., 0]) / cross
        u = ((c - a)[..., 0] * b[..., 1] - (c - a)[..., 1] * b[..., 0]) / cross
    met = (t >= 0) & (t <= 1) & (u >= 0) & (u <= 1)
    ways = d[0] / np.maximum(np.linalg.norm(d[0], axis=1, keepdims=True), 1e-9)
    return [(own[i] + t[i, j] * (own[i + 1] - own[i]), ways[j]) for i, j in np.argwhere(met)]

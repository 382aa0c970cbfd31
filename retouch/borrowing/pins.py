"""How another picture lies over this one: a similarity, and a smooth bend on top of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.picture import Pyramid

Array = NDArray[np.float32]
_Points = NDArray[np.float64]

# The map is worked out at nodes so many pixels apart, and evenly between them.
_NODES = 16
# How far the bend may leave a pin to stay smooth (parts of a squared unit of the pins' spread).
_STIFF = 1e-3
# Pins don't bend the map where they are fewer than this.
_LEAST_BENT = 6


@dataclass(frozen=True)
class Laid:
    """The map from this picture to the other: ``turn`` (2, 3) and weights of a bend at ``knots``."""

    turn: _Points
    knots: _Points
    weights: _Points
    spread: float

    def there(self, places: _Points) -> _Points:
        """Places (n, 2) of this picture in pixels of the other."""
        out = places @ self.turn[:, :2].T + self.turn[:, 2]
        if len(self.knots):
            out = out + _kernel(places, self.knots, self.spread) @ self.weights
        return np.asarray(out, np.float64)

    @property
    def scale(self) -> float:
        """Pixels of the other picture for one of this."""
        return float(np.hypot(self.turn[0, 0], self.turn[1, 0]))


def laid(pins: Sequence[tuple[float, float, float, float]]) -> Laid:
    """The map through pins (x, y, u, v).

    The similarity with least squares (S. Umeyama, PAMI 1991), and what is left of six pins or more as
    a thin-plate spline (F. L. Bookstein, PAMI 1989) that doesn't quite reach them. Three pins or more
    that fit better mirrored lay the other picture mirrored.
    """
    at = np.asarray(pins, np.float64)
    here, there = at[:, :2], at[:, 2:]
    turn, left = _nearest(here, there)
    spread = max(float(np.abs(here - here.mean(0)).max()), 1.0)
    if len(at) < _LEAST_BENT:
        return Laid(turn, np.zeros((0, 2)), np.zeros((0, 2)), spread)
    n = len(at)
    plate = np.zeros((n + 3, n + 3))
    plate[:n, :n] = _kernel(here, here, spread) + _STIFF * np.eye(n)
    flat = np.concatenate([np.ones((n, 1)), (here - here.mean(0)) / spread], 1)
    plate[:n, n:], plate[n:, :n] = flat, flat.T
    solved = np.linalg.lstsq(plate, np.concatenate([left, np.zeros((3, 2))]), rcond=None)[0]
    bend, tilt = solved[:n], solved[n:]
    linear = tilt[1:].T / spread
    turn = turn.copy()
    turn[:, :2] += linear
    turn[:, 2] += tilt[0] - linear @ here.mean(0)
    return Laid(turn, here, bend, spread)


def _nearest(here: _Points, there: _Points) -> tuple[_Points, _Points]:
    """The similarity that leaves least, mirrored or not, and what it leaves (n, 2)."""
    flip = np.array([-1.0, 1.0])
    turns = [similarity(here, there), similarity(here * flip, there)]
    turns[1][:, 0] *= -1
    left = [there - (here @ t[:, :2].T + t[:, 2]) for t in turns]
    # Two pins fit either way.
    best = int(len(here) > 2 and bool((left[1] ** 2).sum() < (left[0] ** 2).sum()))
    return turns[best], left[best]


def similarity(here: _Points, there: _Points) -> _Points:
    """Turn, size and shift (2, 3) that bring places (n, 2) to others; without mirroring."""
    a, b = here - here.mean(0), there - there.mean(0)
    power = max(float((a * a).sum()), 1e-9)
    c = float((a * b).sum()) / power
    s = float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum()) / power
    turn = np.array([[c, -s], [s, c]])
    return np.concatenate([turn, (there.mean(0) - turn @ here.mean(0))[:, None]], 1)


def _kernel(places: _Points, knots: _Points, spread: float) -> _Points:
    r2 = ((places[:, None] - knots[None]) ** 2).sum(-1) / spread**2
    return np.asarray(0.5 * r2 * np.log(np.maximum(r2, 1e-12)))


def taken(pyramid: Pyramid, map_: Laid, rect: Rect) -> Array:
    """The other picture over a rectangle of this one.

    Returns
    -------
    ndarray (h, w, 3) float32
        Working values, clipped to 0..1; beyond the other picture its border goes on.
    """
    step = _NODES
    xs = np.arange(rect.x0, rect.x1 + step, step) + 0.5
    ys = np.arange(rect.y0, rect.y1 + step, step) + 0.5
    wide, high = np.meshgrid(xs, ys)
    nodes = map_.there(np.stack([wide.ravel(), high.ravel()], 1)).reshape(len(ys), len(xs), 2)
    size = (rect.width, rect.height)
    # Between nodes evenly: pixel k lies k / step nodes on.
    across = (np.arange(rect.width, dtype=np.float32) / step)[None].repeat(rect.height, 0)
    down = (np.arange(rect.height, dtype=np.float32) / step)[:, None].repeat(rect.width, 1)
    at = cv2.remap(
        nodes.astype(np.float32), across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
    at = at.reshape(size[1], size[0], 2)
    level = min(max(int(np.floor(np.log2(max(map_.scale, 1e-6)) + 0.5)), 0), pyramid.highest)
    whole = pyramid.picture.bounds.reduced(level)
    at = at / np.float32(1 << level)
    low, high_ = np.floor(at.min((0, 1))), np.ceil(at.max((0, 1)))
    part = Rect(int(low[0]) - 6, int(low[1]) - 6, int(high_[0]) + 6, int(high_[1]) + 6).clip(whole)
    if part.empty:
        part = Rect(0, 0, min(8, whole.width), min(8, whole.height))
    image = np.ascontiguousarray(np.clip(pyramid.crop(part, level), 0, 1), np.float32)
    x = np.ascontiguousarray(at[..., 0] - np.float32(part.x0 + 0.5))
    y = np.ascontiguousarray(at[..., 1] - np.float32(part.y0 + 0.5))
    out = cv2.remap(image, x, y, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.clip(out, 0, 1), np.float32)

"""A picture at half, quarter, … size: each level averages 2 x 2 pixels of the one before."""

from __future__ import annotations

import threading
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.geometry import Rect
from retouch.picture.model import Picture


def halve(a: NDArray[Any]) -> NDArray[Any]:
    """Average 2 x 2 blocks; an odd last row or column is repeated first."""
    h, w = a.shape[:2]
    if h % 2 or w % 2:
        a = cv2.copyMakeBorder(a, 0, h % 2, 0, w % 2, cv2.BORDER_REPLICATE)
    return cv2.resize(a, (a.shape[1] // 2, a.shape[0] // 2), interpolation=cv2.INTER_AREA)


def reduce(a: NDArray[Any], level: int) -> NDArray[Any]:
    """``level`` times `halve`."""
    for _ in range(level):
        a = halve(a)
    return a


class Pyramid:
    """The levels of a picture, made when first asked for; safe to share between threads."""

    def __init__(self, picture: Picture) -> None:
        self.picture = picture
        self._levels: list[NDArray[Any]] = [picture.pixels]
        self._lock = threading.Lock()

    @property
    def highest(self) -> int:
        """The last level worth having: its shorter side still has 64 pixels or more."""
        shorter = min(self.picture.width, self.picture.height)
        return max(0, int(np.log2(max(shorter // 64, 1))))

    @property
    def bytes(self) -> int:
        return sum(a.nbytes for a in self._levels)

    def level(self, n: int) -> NDArray[Any]:
        """Encoded pixels of level ``n`` in the picture's own depth."""
        with self._lock:
            while len(self._levels) <= n:
                self._levels.append(halve(self._levels[-1]))
            return self._levels[n]

    def crop(self, rect: Rect, n: int) -> Working:
        """Working values of ``rect``, given in pixels of level ``n`` and lying inside it."""
        return self.picture.space.to_working(self.level(n)[rect.y0 : rect.y1, rect.x0 : rect.x1])

    def sampled(self, rect: Rect, shape: tuple[int, int]) -> Working:
        """Working values of a rectangle of the original, reduced to (rows, cols).

        It may stick out of the picture, whose border is continued.
        """
        factor = rect.width / max(shape[1], 1)
        n = min(max(0, int(np.log2(max(factor, 1)) + 1e-9)), self.highest)
        bounds = self.picture.bounds
        inner = rect.clip(bounds)
        if inner.empty:
            return np.full((*shape, 3), 0.5, np.float32)
        part = inner.reduced(n).clip(bounds.reduced(n))
        area = self.crop(part, n)
        size = 1 << n
        if inner == rect and shape == area.shape[:2]:
            return area
        kx, ky = rect.width / shape[1] / size, rect.height / shape[0] / size
        matrix = np.array(
            [
                [kx, 0, rect.x0 / size - part.x0 + 0.5 * kx - 0.5],
                [0, ky, rect.y0 / size - part.y0 + 0.5 * ky - 0.5],
            ]
        )
        return cv2.warpAffine(
            area, matrix, (shape[1], shape[0]), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip

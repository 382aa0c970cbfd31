"""Differences of Gaussian blurs: bands whose sum is the picture again.

A band holds what is larger than the limit before and smaller than its own (P. J. Burt, E. H.
Adelson, *The Laplacian Pyramid as a Compact Image Code*, IEEE Trans. Communications 1983, here
without subsampling the result). Tone and detail are the same in two parts with one dividing size:
what retouchers call frequency separation (common practice).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.geometry import Rect
from retouch.heal.coarse import Grid, blur

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]

BANDS = ("grain", "pores", "spots", "bumps", "blotches", "light")
PARTS = ("tone", "detail")
# Upper limits of the bands but the last, in mm on the face: grain of sensor and skin; pores and
# vellus hair; spots and pimples; bumps and folds; blotches of colour; the rest is light and form.
LIMITS_MM = (0.2, 0.5, 1.5, 4.0, 12.0)
TITLES = {
    "grain": "Fine grain",
    "pores": "Pores",
    "spots": "Spots",
    "bumps": "Bumps",
    "blotches": "Blotches",
    "light": "Light",
    "tone": "Tone",
    "detail": "Detail",
}
# A form of some size is halved by a blur with this part of the size as its sigma.
_SIGMA_OF_SIZE = 0.5
# Blurs above this many pixels of sigma are made on a reduced picture.
_REDUCED_FROM = 6.0
# Below this a blur does nothing: the band is smaller than a pixel.
_LEAST_SIGMA = 0.3


@dataclass(frozen=True)
class Sizes:
    """What millimetres are in the picture, and where tone and detail divide (mm)."""

    px_per_mm: float
    divide_mm: float = 1.0

    def sigmas(self, name: str) -> tuple[float, float | None]:
        """Blurs (sigma in pixels) whose difference a band is; None: no second one, the rest."""
        if name == "detail":
            return 0.0, self._sigma(self.divide_mm)
        if name == "tone":
            return self._sigma(self.divide_mm), None
        n = BANDS.index(name)
        low = self._sigma(LIMITS_MM[n - 1]) if n else 0.0
        high = self._sigma(LIMITS_MM[n]) if n < len(LIMITS_MM) else None
        return low, high

    def _sigma(self, size_mm: float) -> float:
        return _SIGMA_OF_SIZE * size_mm * self.px_per_mm


def margin(name: str, sizes: Sizes) -> int:
    """Pixels around a place that its band depends on."""
    low, high = sizes.sigmas(name)
    sigma = high if high is not None else low
    return int(np.ceil(3.2 * sigma)) + 2 * _factor(sigma) if sigma >= _LEAST_SIGMA else 0


def band(read: Reader, rect: Rect, bounds: Rect, name: str, sizes: Sizes) -> Array:
    """One band or part of a picture over a rectangle.

    Parameters
    ----------
    read : callable
        Gives the pixels of a rectangle within ``bounds``, (h, w, 3) float32.
    rect : Rect
        Within ``bounds``.
    name : str
        One of BANDS or PARTS.

    Returns
    -------
    ndarray (h, w, 3) float32
        Around 0 for all but ``light`` and ``tone``. The same pixel has the same value whatever
        rectangle it is asked in.
    """
    low, high = sizes.sigmas(name)
    wide = rect.grow(margin(name, sizes)).align(_factor(high if high is not None else low))
    area = _padded(read, wide, bounds)
    sharp = _soft(area, wide, rect, low)
    return sharp if high is None else sharp - _soft(area, wide, rect, high)


def split(image: Working, sizes: Sizes, names: tuple[str, ...] = BANDS) -> list[Array]:
    """All bands (or both PARTS) of a whole picture; their sum is the picture.

    ``image`` is (h, w, 3) float32.
    """
    bounds = Rect(0, 0, image.shape[1], image.shape[0])
    return [
        band(lambda r: image[r.y0 : r.y1, r.x0 : r.x1], bounds, bounds, name, sizes)
        for name in names
    ]


def _factor(sigma: float) -> int:
    """How much the picture is reduced before a blur: a power of two."""
    factor = 1
    while sigma / (2 * factor) >= _REDUCED_FROM / 2:
        factor *= 2
    return factor


def _padded(read: Reader, wide: Rect, bounds: Rect) -> Array:
    """Pixels of a rectangle that may stick out of the picture, mirrored at its border."""
    inner = wide.clip(bounds)
    area = read(inner)
    if inner == wide:
        return area
    sides = (inner.y0 - wide.y0, wide.y1 - inner.y1, inner.x0 - wide.x0, wide.x1 - inner.x1)
    return cv2.copyMakeBorder(np.ascontiguousarray(area), *sides, cv2.BORDER_REFLECT)


def _soft(area: Array, wide: Rect, rect: Rect, sigma: float) -> Array:
    """``area`` (of ``wide``) blurred, over ``rect``.

    Large blurs are made on a reduced picture whose grid is fixed to the original's pixels, so
    that no value depends on the rectangle.
    """
    top, left = rect.y0 - wide.y0, rect.x0 - wide.x0
    cut = np.s_[top : top + rect.height, left : left + rect.width]
    if sigma < _LEAST_SIGMA:
        return area[cut]
    factor = _factor(sigma)
    if factor == 1:
        return blur(area, sigma)[cut]
    grid = Grid(wide, wide.height // factor, wide.width // factor)
    rest = np.sqrt(sigma**2 - (factor**2 - 1) / 12) / factor
    return grid.spread(blur(grid.reduce(area), float(rest)), rect)

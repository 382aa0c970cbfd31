"""Smoothing that stops at edges, the same for a pixel whatever part of the picture is asked for.

The guided filter with the picture as its own guide (K. He, J. Sun, X. Tang, *Guided Image
Filtering*, PAMI 35, 2013), its coefficients worked out on a reduced grid (K. He, J. Sun, *Fast
Guided Filter*, arXiv:1505.00996, 2015). The grid is fixed to the picture, so parts fit together.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.compiled import compiled
from retouch.geometry import Rect

Array = NDArray[np.float32]

# Narrower blurs (sigma in pixels) change nothing.
LEAST_SIGMA = 0.3
# Blurs look at so many sigma to each side.
_KERNEL = 4.2
# The grid has so many cells per sigma at least.
_CELLS_PER_SIGMA = 3.0
# Grids of cells are made of each other up to so many times.
_GRID = 32
# Edge guards 0..1 go from this contrast (encoded, standard deviation) to that, geometrically.
_WEAK, _STRONG = 0.5, 0.02


@dataclass(frozen=True)
class Cells:
    """A picture as means over the cells of its grid: ``image`` (h, w, 3) over ``rect`` in cells, each
    ``factor`` pixels to a side."""

    image: Working
    rect: Rect
    factor: int


def cells_of(
    image: Working, rect: Rect, factor: int, given: Cells | None, wanted: Rect | None = None
) -> Cells:
    """The cells of an array over ``rect``, or of those that are given, what lies over ``wanted`` (pixels)."""
    if given is None:
        return Cells(*reduced(image, rect, factor), factor)
    if wanted is None:
        return given
    # Whole cells of any grid that is made of these.
    own = wanted.align(_GRID * given.factor)
    own = Rect(*(n // given.factor for n in own.as_tuple())).clip(given.rect)
    return Cells(given.image[own.within(given.rect)], own, given.factor)


def factor_of(sigma: float) -> int:
    """How much the picture is reduced for a blur of ``sigma`` pixels: a power of two."""
    factor = 1
    while sigma / (2 * factor) >= _CELLS_PER_SIGMA:
        factor *= 2
    return factor


def reach_of(sigma: float) -> int:
    """Pixels around a place that its smoothed value depends on."""
    return int(np.ceil(6.2 * sigma)) + 3 * factor_of(sigma) + 2


def soft_reach_of(sigma: float) -> int:
    """The same for `soft`, which blurs once."""
    return int(np.ceil(3.2 * sigma)) + 3 * factor_of(sigma) + 2


def contrast_of(guard: float) -> float:
    """The contrast from which on an edge is kept; ``guard`` 0 keeps none, 1 keeps faint ones."""
    return float(_WEAK * (_STRONG / _WEAK) ** guard)


def reduced(image: Working, rect: Rect, factor: int) -> tuple[Array, Rect]:
    """Means over the cells of the picture's grid, and the cells' rectangle.

    Cells that ``rect`` cuts are means of what is known of them.
    """
    cells = Rect(rect.x0 // factor, rect.y0 // factor, -(-rect.x1 // factor), -(-rect.y1 // factor))
    if factor == 1:
        return image, cells
    whole = Rect(-(-rect.x0 // factor), -(-rect.y0 // factor), rect.x1 // factor, rect.y1 // factor)
    if whole.empty or whole == cells:
        return _means(image, rect, cells, factor), cells
    # Only the rim has cells that are cut: the rest needs no room around it.
    out = np.empty((cells.height, cells.width, *image.shape[2:]), np.float32)
    rims = (
        Rect(cells.x0, cells.y0, cells.x1, whole.y0), Rect(cells.x0, whole.y1, cells.x1, cells.y1),
        Rect(cells.x0, whole.y0, whole.x0, whole.y1), Rect(whole.x1, whole.y0, cells.x1, whole.y1),
    )  # fmt: skip
    for part in (whole, *rims):
        if not part.empty:
            pixels = Rect(*(n * factor for n in part.as_tuple())).clip(rect)
            out[part.within(cells)] = _means(image[pixels.within(rect)], pixels, part, factor)
    return out, cells


def _means(image: Working, rect: Rect, cells: Rect, factor: int) -> Array:
    """Means over cells, those that are cut filled up with their border's pixels."""
    sides = (
        rect.y0 - cells.y0 * factor, cells.y1 * factor - rect.y1,
        rect.x0 - cells.x0 * factor, cells.x1 * factor - rect.x1,
    )  # fmt: skip
    padded = cv2.copyMakeBorder(image, *sides, cv2.BORDER_REPLICATE) if any(sides) else image
    size = (cells.width, cells.height)
    return cv2.resize(padded, size, interpolation=cv2.INTER_AREA).reshape(
        cells.height, cells.width, *image.shape[2:]
    )


def spread(values: Array, cells: Rect, rect: Rect, factor: int) -> Array:
    """Values of cells at every pixel of ``rect``, bilinear."""
    if factor == 1:
        return np.ascontiguousarray(values[rect.within(cells)])
    step = 1 / factor
    matrix = np.array(
        [
            [step, 0, (rect.x0 + 0.5) * step - 0.5 - cells.x0],
            [0, step, (rect.y0 + 0.5) * step - 0.5 - cells.y0],
        ]
    )
    out = cv2.warpAffine(
        values, matrix, (rect.width, rect.height), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return out.reshape(rect.height, rect.width, *values.shape[2:])


def spread_at(
    values: Array, cells: Rect, rect: Rect, factor: int, places: NDArray[np.int64]
) -> Array:
    """Values of cells at some pixels of ``rect``, bilinear: `spread` where only few are wanted.

    Parameters
    ----------
    values : ndarray (rows, cols, 3) float32
    places : ndarray (n,)
        Row by row in ``rect``.

    Returns
    -------
    ndarray (1, n, 3) float32
    """
    x0, y0 = rect.x0 - cells.x0 * factor, rect.y0 - cells.y0 * factor
    return _spread_at(values, x0, y0, rect.width, np.float32(1 / factor), places)


@compiled
def _spread_at(
    values: Array, x0: int, y0: int, width: int, step: np.float32, places: NDArray[np.int64]
) -> Array:
    rows, cols = values.shape[:2]
    out = np.empty((1, len(places), 3), np.float32)
    half, zero = np.float32(0.5), np.float32(0)
    for n in range(len(places)):
        x = (np.float32(x0 + places[n] % width) + half) * step - half
        y = (np.float32(y0 + places[n] // width) + half) * step - half
        x = min(max(x, zero), np.float32(cols - 1))
        y = min(max(y, zero), np.float32(rows - 1))
        j, i = int(x), int(y)
        k, m = min(j + 1, cols - 1), min(i + 1, rows - 1)
        across, down = x - np.float32(j), y - np.float32(i)
        for c in range(3):
            upper = values[i, j, c] + across * (values[i, k, c] - values[i, j, c])
            lower = values[m, j, c] + across * (values[m, k, c] - values[m, j, c])
            out[0, n, c] = upper + down * (lower - upper)
    return out


def soft(image: Working, rect: Rect, sigma: float, inner: Rect | None = None) -> Array:
    """A Gaussian blur of an array that covers ``rect``; wide ones on the reduced grid.

    Only the part ``inner`` of it is given back, if that is named.
    """
    inner = inner or rect
    if sigma < LEAST_SIGMA:
        return np.ascontiguousarray(image[inner.within(rect)])
    factor = factor_of(sigma)
    seen = inner.grow(int(np.ceil(_KERNEL * sigma)) + 3 * factor + 2).clip(rect)
    small, cells = reduced(image[seen.within(rect)], seen, factor)
    return spread(blurred_cells(small, sigma, factor), cells, inner, factor)


def blurred_cells(small: Array, sigma: float, factor: int) -> Array:
    """Means over cells of ``factor`` pixels as a Gaussian of ``sigma`` pixels would have them.

    ``small`` and the result are (rows, cols, channels); ``sigma`` is in pixels of the picture.
    """
    rest = float(np.sqrt(max(sigma**2 - (factor**2 - 1) / 12, 0.01))) / factor
    blurred = cv2.GaussianBlur(small, (0, 0), rest, borderType=cv2.BORDER_REFLECT)
    return blurred.reshape(small.shape)


@compiled
def places_near(
    cells: NDArray[np.bool_], x0: int, y0: int, h: int, w: int, factor: int
) -> NDArray[np.int64]:
    """The pixels whose interpolated value is made of any of some cells.

    Parameters
    ----------
    cells : ndarray (rows, cols) of bool
    x0, y0 : int
        The first pixel, counted from the first cell's corner.
    h, w : int
        So many pixels are looked at.

    Returns
    -------
    ndarray (n,)
        Places in the (h, w) pixels, row by row.
    """
    rows, cols = cells.shape
    near = np.zeros((rows, cols), np.bool_)
    for i in range(rows):
        for j in range(cols):
            if cells[i, j]:
                near[max(i - 1, 0) : i + 2, max(j - 1, 0) : j + 2] = True
    out = np.empty(h * w, np.int64)
    n = 0
    for i in range(h):
        row = near[(y0 + i) // factor]
        for cell in range(x0 // factor, min((x0 + w - 1) // factor + 1, cols)):
            if row[cell]:
                for j in range(max(cell * factor - x0, 0), min((cell + 1) * factor - x0, w)):
                    out[n] = i * w + j
                    n += 1
    return out[:n]


def edge_aware(
    image: Working, rect: Rect, sigma: float, contrast: float, inner: Rect | None = None
) -> Array:
    """A picture smoothed over ``sigma`` pixels where its contrast is below ``contrast``.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded; it covers ``rect``.
    contrast : float
        Standard deviation (encoded) of the picture's lightness at which half is kept.
    inner : Rect, optional
        The part that is given back; otherwise all of it.

    Returns
    -------
    ndarray (h, w, 3) float32
    """
    inner = inner or rect
    own = np.ascontiguousarray(image[inner.within(rect)])
    if sigma < LEAST_SIGMA:
        return own
    factor = factor_of(sigma)
    small, cells = reduced(image, rect, factor)
    return fitted(small, sigma / factor, contrast).at(own, cells, inner, factor)


@dataclass(frozen=True)
class Fitted:
    """A line for each cell, (rows, cols, 3): what is smoothed is ``slope`` times lightness plus ``offset``."""

    slope: Array
    offset: Array

    def at(self, image: Working, cells: Rect, inner: Rect, factor: int) -> Array:
        """What ``image`` over ``inner`` (pixels) becomes, the lines' cells being of ``factor`` pixels."""
        if factor == 1:
            here = inner.within(cells)
            slope, offset = (np.ascontiguousarray(a[here]) for a in (self.slope, self.offset))
            return _line(image, slope, offset)
        x0, y0 = inner.x0 - cells.x0 * factor, inner.y0 - cells.y0 * factor
        return _line_between(image, self.slope, self.offset, x0, y0, factor)

    def of_cells(self, small: Array) -> Array:
        """What the cells themselves become."""
        return _line(np.ascontiguousarray(small), self.slope, self.offset)


def fitted(small: Array, sigma: float, contrast: float) -> Fitted:
    """The lines of the guided filter over cells (rows, cols, 3), ``sigma`` in cells."""
    guide = _light(small)

    def mean(values: NDArray[Any]) -> Array:
        return cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REFLECT)

    centre = mean(guide)
    variance: Array = np.maximum(mean(guide * guide) - centre * centre, 0)
    means = mean(small)
    shared = mean(small * guide[..., None]) - means * centre[..., None]
    slope = shared / (variance + np.float32(contrast**2))[..., None]
    offset = means - slope * centre[..., None]
    return Fitted(mean(slope).reshape(small.shape), mean(offset).reshape(small.shape))


@compiled
def _line(image: Working, slope: Array, offset: Array) -> Array:
    """``slope`` times the image's lightness plus ``offset``."""
    h, w, _ = image.shape
    out = np.empty((h, w, 3), np.float32)
    quarter, half = np.float32(0.25), np.float32(0.5)
    for i in range(h):
        for j in range(w):
            light = quarter * (image[i, j, 0] + image[i, j, 2]) + half * image[i, j, 1]
            for k in range(3):
                out[i, j, k] = slope[i, j, k] * light + offset[i, j, k]
    return out


@compiled
def _line_between(
    image: Working, slope: Array, offset: Array, x0: int, y0: int, factor: int
) -> Array:
    """The same with lines of cells of ``factor`` pixels, bilinear; the image's corner lies at x0, y0."""
    h, w, _ = image.shape
    rows, cols = slope.shape[:2]
    out = np.empty((h, w, 3), np.float32)
    quarter, half, zero = np.float32(0.25), np.float32(0.5), np.float32(0)
    step = np.float32(1 / factor)
    row = np.empty((cols, 6), np.float32)
    left = np.empty(w, np.int64)
    across = np.empty(w, np.float32)
    for j in range(w):
        x = min(max((np.float32(x0 + j) + half) * step - half, zero), np.float32(cols - 1))
        left[j] = min(int(x), max(cols - 2, 0))
        across[j] = x - np.float32(left[j])
    right = 1 if cols > 1 else 0
    for i in range(h):
        y = min(max((np.float32(y0 + i) + half) * step - half, zero), np.float32(rows - 1))
        top = int(y)
        below = min(top + 1, rows - 1)
        down = y - np.float32(top)
        for n in range(left[0], left[w - 1] + right + 1):
            for k in range(3):
                row[n, k] = slope[top, n, k] + down * (slope[below, n, k] - slope[top, n, k])
                row[n, 3 + k] = offset[top, n, k] + down * (offset[below, n, k] - offset[top, n, k])
        for j in range(w):
            a, b, t = left[j], left[j] + right, across[j]
            light = quarter * (image[i, j, 0] + image[i, j, 2]) + half * image[i, j, 1]
            for k in range(3):
                line = row[a, k] + t * (row[b, k] - row[a, k])
                out[i, j, k] = line * light + row[a, 3 + k] + t * (row[b, 3 + k] - row[a, 3 + k])
    return out


@compiled
def with_band(image: Working, upper: Array, lower: Array, amount: np.float32) -> Array:
    """``image + amount * (upper - lower)``, each (h, w, 3)."""
    h, w, _ = image.shape
    out = np.empty((h, w, 3), np.float32)
    for i in range(h):
        for j in range(w):
            for k in range(3):
                out[i, j, k] = image[i, j, k] + amount * (upper[i, j, k] - lower[i, j, k])
    return out


def _light(image: Working) -> Array:
    """Lightness as the guide: the mean of green, twice, red and blue."""
    return np.asarray(0.25 * image[..., 0] + 0.5 * image[..., 1] + 0.25 * image[..., 2], np.float32)

"""Tone in four ranges, each lifted or lowered by looking at its neighbourhood.

How light a place's surroundings are is told by the guided filter with the picture as its own guide
(K. He, J. Sun, X. Tang, "Guided Image Filtering", PAMI 35, 2013), which keeps to edges; so a dark
collar beside a light cheek gets no seam. All of a place's light is multiplied alike, in linear light:
its detail and its colour stay.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.linear import FINE_BY_ROOT, FINE_DECODED, decode_row, encode_row
from retouch.colour.transfer import to_encoded, to_linear
from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.skin.smooth import Cells, cells_of, spread

Array = NDArray[np.float32]

# Where each range has its middle, encoded; between two of them one fades into the other.
MIDDLES = (0.10, 0.34, 0.62, 0.90)
# Stops of light at full amounts.
_STOPS = (1.5, 1.6, 1.1, 1.4)
# Luma (ITU-R BT.709) of encoded values.
_LUMA = np.array([[0.2126, 0.7152, 0.0722]], np.float32)
# Contrast (encoded, standard deviation) that counts as an edge.
_EDGE = 0.07
# Surroundings reach so far, as a part of the picture's longer side, in so many cells at least.
_REACH, _CELLS = 1 / 55, 6
# Tones keep so much of their distance at least, however far ranges are pulled together.
_LEAST_SLOPE = 0.15
_ENTRIES, _LIGHTEST = 2048, 2.0


def radius_of(long_px: float) -> float:
    """How far the surroundings of a place reach in a picture of that longer side, pixels."""
    return max(2.0, _REACH * long_px)


def _factor(radius: float) -> int:
    """Pixels of the original in a cell's side: a power of two."""
    factor = 1
    while radius / (2 * factor) >= _CELLS:
        factor *= 2
    return factor


def cell_of(long_px: float) -> int:
    """Pixels of the original to a side of the cells on which surroundings are told."""
    return _factor(radius_of(long_px))


def reach_of(long_px: float) -> int:
    """Pixels of the original around a place that its tone depends on."""
    radius = radius_of(long_px)
    return 2 * int(np.ceil(radius)) + 6 * _factor(radius)


def weights(values: Array) -> Array:
    """How much each of the four ranges counts at encoded lightnesses, (..., 4); they sum to 1."""
    at = np.interp(values, MIDDLES, np.arange(4))
    away = np.abs(np.asarray(at)[..., None] - np.arange(4))
    return np.asarray(np.where(away < 1, 0.5 + 0.5 * np.cos(np.pi * np.minimum(away, 1)), 0))


def gains(amounts: Sequence[float]) -> Array:
    """Factors of linear light for surroundings of encoded lightness 0.._LIGHTEST, as a table.

    ``amounts`` (4), -1..1, from the deepest range to the brightest. Lighter surroundings stay lighter
    than darker ones: where amounts would turn them round they are held back.
    """
    base = np.linspace(0, _LIGHTEST, _ENTRIES)
    stops = weights(base.astype(np.float32)) @ (np.asarray(amounts) * _STOPS)
    light = to_linear(base.astype(np.float64))  # type: ignore[arg-type]
    wanted = to_encoded(np.asarray(light * 2.0**stops))  # type: ignore[arg-type]
    steps = np.maximum(np.diff(wanted), _LEAST_SLOPE * (base[1] - base[0]))
    # From the middle upwards as it comes, downwards so that black stays where it is.
    middle = _ENTRIES // 4
    lower, upper = steps[:middle], steps[middle:]
    lower = lower * (wanted[middle] - wanted[0]) / lower.sum()
    held = np.concatenate([wanted[:1], wanted[0] + np.cumsum(lower)])
    held = np.concatenate([held, wanted[middle] + np.cumsum(upper)])
    with np.errstate(divide="ignore", invalid="ignore"):
        out = to_linear(held) / light
    out[0] = out[1]
    return np.asarray(out, np.float32)


def toned(
    image: Working, rect: Rect, amounts: Sequence[float], radius: float, level: int, inner: Rect,
    around: Cells | None = None,
) -> Array:  # fmt: skip
    """The tone of ``inner``, a part of an image over ``rect`` (pixels of a level).

    Parameters
    ----------
    amounts : sequence of 4 floats
        -1..1, from the deepest range to the brightest.
    radius : float
        Of the surroundings, in pixels of the original.
    around : Cells, optional
        What is further around, if that isn't in ``rect``.
    """
    base = surroundings(image, rect, radius, level, inner, around)
    own = np.ascontiguousarray(image[inner.within(rect)])
    out = np.empty_like(own)
    _lighten(
        own, base, gains(amounts), np.float32((_ENTRIES - 1) / _LIGHTEST), FINE_DECODED,
        FINE_BY_ROOT, out,
    )  # fmt: skip
    return out


def surroundings(
    image: Working, rect: Rect, radius: float, level: int, inner: Rect, given: Cells | None = None
) -> Array:
    """How light the surroundings of each place of ``inner`` are, encoded, (h, w); ``given`` is what lies around the
    image's ``rect``, if there is not enough of that in it.
    """
    factor = _factor(radius)
    around = max(1, round(radius / max(factor, 1 << level)))
    luma = _luma(image)
    if given is None:
        seen = cells_of(luma, rect, max(1, factor >> level), None)
    else:
        seen = replace(given, image=_luma(given.image))
    cells = seen.rect
    small = seen.image.reshape(cells.height, cells.width)
    size = (2 * around + 1, 2 * around + 1)
    mean = cv2.blur(small, size, borderType=cv2.BORDER_REPLICATE)
    square = cv2.blur(small * small, size, borderType=cv2.BORDER_REPLICATE)
    variance = np.maximum(square - mean * mean, 0)
    slope = variance / (variance + np.float32(_EDGE**2))
    both = np.dstack([slope, mean * (1 - slope)])
    both = cv2.blur(both, size, borderType=cv2.BORDER_REPLICATE)
    wide = spread(both, cells, inner, seen.factor)
    own = luma.reshape(rect.height, rect.width)[inner.within(rect)]
    return np.ascontiguousarray(wide[..., 0] * own + wide[..., 1])


def _luma(image: Working) -> Array:
    return np.asarray(cv2.transform(np.ascontiguousarray(image), _LUMA), np.float32)


@compiled
def _lighten(
    image: Array, base: Array, table: Array, scale: np.float32, decoding: Array, encoding: Array,
    out: Array,
) -> None:  # fmt: skip
    h, w = base.shape
    last = np.int32(len(table) - 2)
    rows, ends = image.reshape(h, 3 * w), out.reshape(h, 3 * w)
    light, entries = np.empty(3 * w, np.float32), np.empty(3 * w, np.int32)
    for i in range(h):
        decode_row(rows[i], decoding, entries, light)
        for j in range(w):
            at = min(max(base[i, j], np.float32(0)) * scale, np.float32(last) + np.float32(0.999))
            n = np.int32(at)
            gain = table[n] + (table[n + 1] - table[n]) * (at - np.float32(n))
            light[3 * j] *= gain
            light[3 * j + 1] *= gain
            light[3 * j + 2] *= gain
        encode_row(light, encoding, entries, ends[i])

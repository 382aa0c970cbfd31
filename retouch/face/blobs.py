"""Blobs: round places that stand out from the skin's own texture, in scale space.

T. Lindeberg, *Feature detection with automatic scale selection*, IJCV 30 (1998).
"""

from __future__ import annotations

from itertools import groupby
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.processors import at_once

Array = NDArray[np.float32]
Blob = tuple[float, float, float, float]

# Radii looked for, millimetres.
LEAST_MM, MOST_MM = 0.3, 8.0
_STEP = 1.26
LEAST_CONTRAST = 0.055
# Blobs less sure than this are never told apart from texture.
LEAST_CERTAINTY = 0.05
# A blob falls off to all sides: the ratio of its second derivatives is above this.
_ROUND = 0.03
_NOISE = 4.0
_LEAST_SPREAD = 0.006
# Over this distance (one sigma) texture is compared.
_AROUND_MM = 6.0
# Blobs are looked for where they are at least so large (radius in pixels) and less than twice that.
_LEAST_RADIUS = 2.6
# So much of a blob's surroundings has to be skin.
ON_SKIN = 0.8


def blobs(blood: Array, green: Array, mask: Array, unit: float) -> list[Blob]:
    """Red, dark and light blobs on the skin, the clearest first, none inside another.

    Parameters
    ----------
    blood, green : ndarray (h, w) float32
        log(R/G) and log G of linear light.
    mask : ndarray (h, w) float32, 0..1
        The skin.
    unit : float
        Pixels per millimetre.

    Returns
    -------
    list of (x, y, radius, sureness), pixels; sureness in spreads of the skin's own texture.
    """
    steps = int(np.log(MOST_MM / LEAST_MM) / np.log(_STEP)) + 1
    radii = [LEAST_MM * unit * _STEP**k for k in range(steps)]
    radii = [r for r in radii if r >= 0.8 and r < max(mask.shape) / 6]
    if len(radii) < 3 or not (mask > 0.8).any():
        return []
    weighted = cv2.merge([blood * mask, green * mask, mask])
    out: list[Blob] = []
    for factor, octave in groupby(radii, _factor):
        small = weighted
        if factor > 1:
            size = (max(8, mask.shape[1] // factor), max(8, mask.shape[0] // factor))
            small = cv2.resize(weighted, size, interpolation=cv2.INTER_AREA)
        kx, ky = mask.shape[1] / small.shape[1], mask.shape[0] / small.shape[0]
        for x, y, r, sureness in _in_octave(small, [r / factor for r in octave], unit / factor):
            out.append((x * kx, y * ky, r * factor, sureness))
    return _apart(sorted(out, key=lambda b: -b[3]))


def _factor(radius: float) -> int:
    """How much the picture is reduced to look for blobs of a radius: a power of two."""
    return int(2 ** max(0, int(np.log2(max(radius, 1e-3) / _LEAST_RADIUS))))


def _in_octave(weighted: Array, radii: list[float], unit: float) -> list[Blob]:
    """Blobs of some radii in one size of the picture, in its own pixels."""
    mask = np.ascontiguousarray(weighted[..., -1])
    searches = [
        _Search(0, 1.0, mask.shape),
        _Search(1, -1.0, mask.shape),
        _Search(1, 1.0, mask.shape),
    ]

    def answered(r: float) -> tuple[list[Array], list[Array], list[Array]]:
        answers, inner = _answer(weighted, r)
        return answers, inner, [_spread(a, mask, unit) for a in answers]

    smooth = []
    for k, (answers, inner, spreads) in enumerate(at_once(answered, radii)):
        smooth.append(inner)

        def take(search: _Search, k: int = k, a: Any = answers, s: Any = spreads) -> None:
            search.take(k, a[search.channel], s[search.channel])

        at_once(take, searches)
    out = []
    for search in searches:
        for x, y, k, top, sureness in search.peaks():
            # What can't become a mark isn't looked at; a blob's answer is below its contrast.
            if certainty(sureness, 1.6 * top, radii[k] / unit) < LEAST_CERTAINTY:
                continue
            if _is_round(smooth[k][search.channel], search.sign, x, y, radii[k]):
                out.append((x + 0.5, y + 0.5, radii[k], sureness))
    return out


class _Search:
    """The clearest blob at each place so far, in one channel and one direction."""

    def __init__(self, channel: int, sign: float, shape: tuple[int, ...]) -> None:
        self.channel, self.sign = channel, sign
        self.sureness = np.zeros(shape, np.float32)
        self.top = np.zeros(shape, np.float32)
        self.best = np.zeros(shape, np.uint8)

    def take(self, k: int, answer: Array, spread: Array) -> None:
        _clearer(np.float32(self.sign), k, answer, spread, self.sureness, self.top, self.best)

    def peaks(self) -> list[tuple[int, int, int, float, float]]:
        """x, y, number of the radius, answer and sureness of each clear maximum."""
        enough = (self.top > 0.6 * LEAST_CONTRAST) & (self.sureness > _NOISE)
        at = (self.sureness == cv2.dilate(self.sureness, np.ones((5, 5), np.uint8))) & enough
        return [
            (
                int(x),
                int(y),
                int(self.best[y, x]),
                float(self.top[y, x]),
                float(self.sureness[y, x]),
            )
            for y, x in np.argwhere(at)
        ]


def _spread(answer: Array, mask: Array, unit: float) -> Array:
    """What the skin's own texture answers around each place: a mark has to stand out from it.

    Pores are coarser on a nose, and the rim of a cheek is rougher than its middle.
    """
    factor = max(1, round(1.5 * unit))
    size = (max(4, answer.shape[1] // factor), max(4, answer.shape[0] // factor))
    on = cv2.resize(mask, size, interpolation=cv2.INTER_AREA)
    # Strong answers are marks themselves; they count no more than a middling one.
    most = 4 * float(np.median(np.abs(answer[mask > 0.8][::97]))) + _LEAST_SPREAD
    rough = _held_down(answer, mask, np.float32(most))
    rough = cv2.resize(rough, size, interpolation=cv2.INTER_AREA)
    sigma = _AROUND_MM * unit / factor
    local = cv2.GaussianBlur(rough, (0, 0), sigma) / (cv2.GaussianBlur(on, (0, 0), sigma) + 1e-3)
    # Of normal values, the mean absolute is 0.8 of the standard deviation.
    spread = np.maximum(1.25 * local, _LEAST_SPREAD).astype(np.float32)
    return cv2.resize(spread, (answer.shape[1], answer.shape[0]), interpolation=cv2.INTER_LINEAR)


def _answer(weighted: Array, radius: float) -> tuple[list[Array], list[Array]]:
    """How much each place is a blob of that radius, per channel, and the channels smoothed.

    ``weighted`` holds the channels times the mask of the skin, and the mask as the last channel:
    what isn't skin counts for nothing (normalised convolution), so that no lip or brow makes a
    blob of its rim. Blobs of radius r answer most to a pair of blurs of 0.62 r and 1.7 times
    that.
    """
    sigma = 0.62 * radius
    near = cv2.GaussianBlur(weighted, (0, 0), sigma)
    far = cv2.GaussianBlur(weighted, (0, 0), 1.7 * sigma)
    made = np.empty((4, *weighted.shape[:2]), np.float32)
    _compare(near, far, made)
    return [made[0], made[1]], [made[2], made[3]]


@compiled
def _compare(near: Array, far: Array, out: Array) -> None:
    """Of two blurs of the weighted channels: both answers, then both channels smoothed."""
    for i in range(near.shape[0]):
        for j in range(near.shape[1]):
            held = np.float32(1.9)
            if near[i, j, 2] <= np.float32(0.5) or far[i, j, 2] <= np.float32(ON_SKIN):
                held = np.float32(0)
            within = np.float32(1) / (near[i, j, 2] + np.float32(1e-4))
            beyond = np.float32(1) / (far[i, j, 2] + np.float32(1e-4))
            for c in range(2):
                inner = near[i, j, c] * within
                out[c, i, j] = (inner - far[i, j, c] * beyond) * held
                out[2 + c, i, j] = inner


@compiled
def _clearer(
    sign: np.float32, k: int, answer: Array, spread: Array,
    sureness: Array, top: Array, best: NDArray[np.uint8],
) -> None:  # fmt: skip
    """Where a radius answers more surely than those before, it is the best."""
    for i in range(answer.shape[0]):
        for j in range(answer.shape[1]):
            value = sign * answer[i, j]
            sure = value / spread[i, j]
            if sure > sureness[i, j]:
                sureness[i, j], top[i, j], best[i, j] = sure, value, k


@compiled
def _held_down(answer: Array, mask: Array, most: np.float32) -> Array:
    """How strong the answers are on the skin, none more than so much."""
    out = np.empty_like(answer)
    for i in range(answer.shape[0]):
        for j in range(answer.shape[1]):
            out[i, j] = min(abs(answer[i, j]), most) * mask[i, j]
    return out


def _is_round(smooth: Array, sign: float, x: int, y: int, radius: float) -> bool:
    """Whether the smoothed channel falls off to all sides of a place."""
    h, w = smooth.shape
    step = max(1, round(0.7 * radius))
    if not (step <= x < w - step and step <= y < h - step):
        return False
    c = smooth[y, x]
    xx = float(smooth[y, x + step] + smooth[y, x - step] - 2 * c)
    yy = float(smooth[y + step, x] + smooth[y - step, x] - 2 * c)
    xy = float(
        smooth[y + step, x + step] + smooth[y - step, x - step]
        - smooth[y + step, x - step] - smooth[y - step, x + step]
    ) / 4  # fmt: skip
    root = np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
    both = sign * (xx + yy)
    weak, strong = (both + root) / 2, (both - root) / 2
    # Strands of hair and creases answer in bits; the smaller, the rounder a mark has to be.
    needed = _ROUND + 0.15 * float(np.clip(4 - radius, 0, 2))
    return bool(strong < 0 and weak < 0 and weak / strong > needed)


def _apart(found: list[Blob]) -> list[Blob]:
    """The strongest of blobs that lie in one another."""
    out: list[Blob] = []
    kept = np.empty((len(found), 3))
    for blob in found:
        x, y, r = kept[: len(out)].T
        away = np.hypot(x - blob[0], y - blob[1])
        if (away > 0.9 * np.maximum(r, blob[2])).all():
            kept[len(out)] = blob[:3]
            out.append(blob)
    return out


def certainty(sureness: float, contrast: float, radius_mm: float) -> float:
    """How surely a blob is a mark and no texture, 0..1: a logistic curve, 0.5 at the default.

    It has to stand out from the skin's own texture, to be seen, and not to be as small as pores.
    """
    z = (
        1.3
        + 4.8 * np.log(max(sureness, 1e-3) / 10)
        + 1.6 * np.log(max(contrast, 1e-3) / 0.2)
        + 4.0 * np.log(min(max(radius_mm, 0.1), 1.2) / 0.5)
    )
    return float(1 / (1 + np.exp(-z)))

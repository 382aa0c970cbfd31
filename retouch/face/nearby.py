"""Which class a pixel near an edge belongs to, by the colours that the classes have nearby.

Strands of hair over skin and the edge of a collar are finer than what a small network sees. Beside them
lie places that it is sure of: what colours hair, skin and cloth have just here tells the rest (a Gaussian
per class and place, as in E. S. L. Gastal, M. M. Oliveira, *Shared Sampling for Real-Time Alpha Matting*,
Computer Graphics Forum 29, 2010, the colours of both sides are taken from nearby).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]

# What "nearby" is, one sigma, in heights of the face; what is kept of it, in pixels of the canvas.
_NEARBY, _STEP = 0.1, 4
# Colours of one class differ by this much at least (standard deviation, encoded 0..1).
_SPREAD = 0.035
# A class must be there: with less than this part of the neighbourhood it has no colour here.
_PRESENT = 0.004
# How far colour counts beside place; where a class is surer than this, nothing is changed.
_WEIGHT, _SURE = np.float32(0.6), np.float32(0.985)
_POSSIBLE = np.float32(0.04)


def colours(pixels: NDArray[np.uint8], chances: Array, unit: float) -> Array:
    """Mean colour and spread of each class around each place.

    Parameters
    ----------
    pixels : ndarray (h, w, 3) uint8
        The canvas.
    chances : ndarray (k, h, w) float32
        Of each class.
    unit : float
        Height of the face on the canvas.

    Returns
    -------
    ndarray (k, h / 4, w / 4, 4) float32
        Mean, 0..1, and variance; variance 0 where the class isn't nearby.
    """
    h, w = pixels.shape[0] // _STEP, pixels.shape[1] // _STEP
    small = cv2.resize(pixels, (w, h), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    # Reduced pixels are means: how far single ones differ comes from the square's own mean.
    square = cv2.resize(
        (pixels.astype(np.float32) / 255) ** 2, (w, h), interpolation=cv2.INTER_AREA
    )
    sigma = max(_NEARBY * unit / _STEP, 0.8)
    out = np.zeros((len(chances), h, w, 4), np.float32)
    for k, chance in enumerate(chances):
        # Only what is sure teaches what the class looks like.
        sure = cv2.resize(np.clip(2 * chance - 1, 0, 1) ** 2, (w, h), interpolation=cv2.INTER_AREA)
        total = cv2.GaussianBlur(sure, (0, 0), sigma)
        there = total > _PRESENT
        share = np.where(there, 1 / np.maximum(total, 1e-6), 0)[..., None]
        mean = cv2.GaussianBlur(small * sure[..., None], (0, 0), sigma) * share
        away = cv2.GaussianBlur(square * sure[..., None], (0, 0), sigma) * share - mean**2
        out[k, ..., :3] = mean
        out[k, ..., 3] = np.where(there, np.maximum(away, 0).mean(-1) + _SPREAD**2, 0)
    return out


def decided(
    chances: Array, known: Array, pixels: NDArray[np.uint8], matrix: NDArray[np.float64]
) -> Array:
    """The chances with what the colours nearby say, where they aren't sure.

    Parameters
    ----------
    chances : ndarray (k, rows, cols) float32
        Summing to 1; changed in place, and returned.
    known : ndarray (k, h, w, 4)
        From `colours`.
    pixels : ndarray (rows, cols, 3) uint8
    matrix : ndarray (2, 3)
        From pixels of it to those of the canvas.
    """
    rows, cols = pixels.shape[:2]
    warp = matrix / _STEP
    warp[:, 2] += 0.5 * (warp[:, 0] + warp[:, 1]) - 0.5
    laid = np.stack(
        [
            cv2.warpAffine(
                one, warp, (cols, rows), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
            for one in known
        ]
    )  # fmt: skip
    _decide(chances, laid, pixels)
    return chances


@compiled
def _decide(chances: Array, laid: Array, pixels: NDArray[np.uint8]) -> None:
    n, h, w = chances.shape
    byte = np.float32(1 / 255)
    logs = np.zeros(n, np.float32)
    for i in range(h):
        for j in range(w):
            best = np.float32(0)
            for k in range(n):
                best = max(best, chances[k, i, j])
            if best > _SURE:
                continue
            top = np.float32(-1e9)
            for k in range(n):
                variance = laid[k, i, j, 3]
                logs[k] = -1e9
                if chances[k, i, j] > 1e-4:
                    logs[k] = np.log(chances[k, i, j])
                    if chances[k, i, j] < _POSSIBLE:
                        # Colour alone makes nothing of what hardly can be here.
                        logs[k] -= _WEIGHT * np.float32(4)
                    elif variance > 1e-4:
                        d = np.float32(0)
                        for c in range(3):
                            off = pixels[i, j, c] * byte - laid[k, i, j, c]
                            d += off * off
                        likely = -d / (2 * variance) - np.float32(1.5) * np.log(variance)
                        logs[k] += _WEIGHT * max(likely, np.float32(-4))
                    else:
                        # Nothing is known of its colour here: as if it were unlike.
                        logs[k] += _WEIGHT * np.float32(1)
                top = max(top, logs[k])
            total = np.float32(0)
            for k in range(n):
                chances[k, i, j] = np.exp(logs[k] - top)
                total += chances[k, i, j]
            for k in range(n):
                chances[k, i, j] /= total

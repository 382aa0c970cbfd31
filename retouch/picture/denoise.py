"""Noise of linear data taken out by a threshold on its wavelets.

Light comes in photons, so noise grows with the root of the light; on the root of the data it is
everywhere alike. There the picture is taken apart into detail of doubling sizes, and in each what is
below the threshold goes, the rest comes nearer by as much (soft threshold).

References
----------
M. Holschneider et al., "A real-time algorithm for signal analysis with the help of the wavelet
transform", in Wavelets, 1989 (the transform with holes); D. L. Donoho, "De-noising by
soft-thresholding", IEEE Transactions on Information Theory 41, 1995.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.processors import PARTS, at_once, edges

# How strong white noise of standard deviation 1 is in the detail of each size, for this transform's
# kernel [1 2 1]/4 in both directions (worked out from the kernels' energies).
_STRENGTHS = (0.8002, 0.2735, 0.1202, 0.0585)
# Rows that a strip looks at beyond its own.
_MARGIN = 2 << len(_STRENGTHS)
# A threshold of 1000 stands for noise of this standard deviation on the root of the data, 0..1.
_FULL = 0.06


def denoised(pixels: NDArray[np.uint16], threshold: float) -> NDArray[np.uint16]:
    """Linear data (h, w, 3) without what is finer than a threshold of 0 (nothing) .. 1000."""
    if threshold <= 0:
        return pixels
    out = np.empty_like(pixels)
    limit = threshold / 1000 * _FULL

    def strip(rows: tuple[int, int]) -> None:
        top, bottom = max(rows[0] - _MARGIN, 0), min(rows[1] + _MARGIN, len(pixels))
        done = _shrunk(pixels[top:bottom], limit)
        out[rows[0] : rows[1]] = done[rows[0] - top : rows[1] - top]

    count = max(2 * PARTS, len(pixels) // 512)
    at_once(strip, edges(0, len(pixels), min(count, len(pixels) // (2 * _MARGIN) or 1)))
    return out


def _shrunk(pixels: NDArray[np.uint16], limit: float) -> NDArray[np.uint16]:
    rest = np.sqrt(pixels.astype(np.float32) * np.float32(1 / 65535))
    kept = np.zeros_like(rest)
    for n, strength in enumerate(_STRENGTHS):
        gap = 1 << n
        kernel = np.zeros(2 * gap + 1, np.float32)
        kernel[[0, gap, 2 * gap]] = (0.25, 0.5, 0.25)
        broad = cv2.sepFilter2D(rest, -1, kernel, kernel, borderType=cv2.BORDER_REFLECT_101)
        detail = rest - broad
        small = np.float32(strength * limit)
        kept += np.sign(detail) * np.maximum(np.abs(detail) - small, 0)
        rest = broad
    root = np.clip(rest + kept, 0, 1)
    return np.asarray(root * root * 65535 + 0.5, np.uint16)

"""Small masks enlarged along the edges of the picture they belong to.

The guided filter explains a mask by the picture in every small window, mask = a · colour + b (K. He,
J. Sun, X. Tang, *Guided Image Filtering*, IEEE PAMI 35, 2013). Its coefficients are smooth: found on
a reduced picture, they hold on the large one (K. He, J. Sun, *Fast Guided Filter*, arXiv:1505.00996,
2015).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled

Array = NDArray[np.float32]


def coefficients(guide: Array, masks: Array, radius: int, eps: float) -> Array:
    """What explains masks by a picture in each small window.

    Parameters
    ----------
    guide : ndarray (h, w, 3) float32, 0..1
    masks : ndarray (k, h, w) float32
    radius : int
        Of the windows, pixels.
    eps : float
        Variance of the guide that counts as an edge.

    Returns
    -------
    ndarray (k, h, w, 4) float32
        Three factors and what is added.
    """
    size = (2 * radius + 1, 2 * radius + 1)
    mean = cv2.blur(guide, size)
    products = np.stack(
        [
            guide[..., i] * guide[..., j]
            for i, j in ((0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2))
        ],
        -1,
    )
    spread = np.dstack([cv2.blur(products[..., :3], size), cv2.blur(products[..., 3:], size)])
    out = np.empty((*masks.shape, 4), np.float32)
    for k, mask in enumerate(masks):
        own = cv2.blur(mask, size)
        both = cv2.blur(guide * mask[..., None], size)
        _solve(mean, spread, own, both, np.float32(eps), out[k])
        out[k] = cv2.blur(out[k], size)
    return out


@compiled
def _solve(
    mean: Array, spread: Array, own: Array, both: Array, eps: np.float32, out: Array
) -> None:
    h, w = own.shape
    for i in range(h):
        for j in range(w):
            r, g, b = mean[i, j, 0], mean[i, j, 1], mean[i, j, 2]
            rr, rg = spread[i, j, 0] - r * r + eps, spread[i, j, 1] - r * g
            rb, gg = spread[i, j, 2] - r * b, spread[i, j, 3] - g * g + eps
            gb, bb = spread[i, j, 4] - g * b, spread[i, j, 5] - b * b + eps
            m = own[i, j]
            cr, cg, cb = both[i, j, 0] - r * m, both[i, j, 1] - g * m, both[i, j, 2] - b * m
            # The inverse of a symmetric matrix of three by three, by its cofactors.
            a00, a01, a02 = gg * bb - gb * gb, rb * gb - rg * bb, rg * gb - rb * gg
            a11, a12, a22 = rr * bb - rb * rb, rb * rg - rr * gb, rr * gg - rg * rg
            whole = rr * a00 + rg * a01 + rb * a02
            x = (a00 * cr + a01 * cg + a02 * cb) / whole
            y = (a01 * cr + a11 * cg + a12 * cb) / whole
            z = (a02 * cr + a12 * cg + a22 * cb) / whole
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = x, y, z
            out[i, j, 3] = m - x * r - y * g - z * b


def applied(explained: Array, pixels: NDArray[np.uint8], matrix: NDArray[np.float64]) -> Array:
    """Masks over a larger picture from their coefficients over a smaller one.

    Parameters
    ----------
    explained : ndarray (k, h, w, 4) float32
        From `coefficients`.
    pixels : ndarray (rows, cols, 3) uint8
        The picture wanted.
    matrix : ndarray (2, 3)
        From pixels of it (centres at +0.5) to those of the small one.

    Returns
    -------
    ndarray (k, rows, cols) float32, 0..1
    """
    out = np.empty((explained.shape[0], *pixels.shape[:2]), np.float32)
    warp = matrix.copy()
    warp[:, 2] += 0.5 * (warp[:, 0] + warp[:, 1]) - 0.5
    for k, one in enumerate(explained):
        grown = cv2.warpAffine(
            one, warp, (pixels.shape[1], pixels.shape[0]),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        _applied(grown, pixels, out[k])
    return out


@compiled
def _applied(grown: Array, pixels: NDArray[np.uint8], out: Array) -> None:
    h, w = out.shape
    byte = np.float32(1 / 255)
    for i in range(h):
        for j in range(w):
            value = grown[i, j, 3]
            for c in range(3):
                value += grown[i, j, c] * (pixels[i, j, c] * byte)
            out[i, j] = min(max(value, np.float32(0)), np.float32(1))

"""Telling classes of pixels apart: where each is expected, what colour it turns out to have.

Expectation maximisation over colour histograms with a prior for every place (A. P. Dempster,
N. M. Laird, D. B. Rubin, *Maximum Likelihood from Incomplete Data via the EM Algorithm*, 1977),
the posteriors smoothed along the picture's edges with a guided filter (K. He, J. Sun, X. Tang,
*Guided Image Filtering*, IEEE PAMI 35, 2013) after every round.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float32]

_BINS = 20
_FLOOR = 0.02


def bin_numbers(values: Array, bins: int = _BINS) -> NDArray[np.int32]:
    """The bin of each pixel in a histogram over the values' own range, (h, w) int32."""
    flat = values.reshape(-1, values.shape[-1])
    low, high = np.percentile(flat[:: max(1, len(flat) // 20000)], [0.5, 99.5], axis=0)
    # Never finer than grain: a flat region must not be split by its noise.
    span = np.maximum(high - low, np.array([12, 8, 8] + [4] * (values.shape[-1] - 3)))
    scaled = np.clip((values - low) * (bins / span), 0, bins - 1).astype(np.int32)
    out = scaled[..., 0]
    for channel in range(1, values.shape[-1]):
        out = out * bins + scaled[..., channel]
    return np.asarray(out, np.int32)


def likelihood(
    numbers: NDArray[np.int32], weight: Array, channels: int, bins: int = _BINS
) -> Array:
    """How likely each pixel's colour is in the class that ``weight`` describes, relative."""
    counts = np.bincount(numbers.ravel(), weight.ravel().astype(np.float64), bins**channels)
    histogram = counts.reshape((bins,) * channels).astype(np.float32)
    kernel = np.array([0.05, 0.25, 0.4, 0.25, 0.05], np.float32)
    for axis in range(channels):
        histogram = _along(histogram, kernel, axis)
    histogram /= max(float(histogram.sum()), 1e-9)
    return histogram.ravel()[numbers]


def _along(a: Array, kernel: Array, axis: int) -> Array:
    moved = np.moveaxis(a, axis, 0)
    shape = moved.shape
    flat = np.ascontiguousarray(moved.reshape(shape[0], -1))
    flat = cv2.filter2D(flat, -1, kernel[:, None], borderType=cv2.BORDER_REFLECT)
    return np.ascontiguousarray(np.moveaxis(flat.reshape(shape), 0, axis))


def classify(
    values: Array,
    priors: Array,
    guide: NDArray[np.uint8],
    rounds: int = 4,
    radius: int = 4,
    eps: float = 1e-3,
    extra: dict[int, Array] | None = None,
    seeds: Array | None = None,
    flatness: float = 0.6,
) -> Array:
    """Posterior of each class.

    Parameters
    ----------
    values : ndarray (h, w, c) float32
        Colour (and texture) of each pixel, L, a, b first.
    priors : ndarray (k, h, w) float32
        How much each class is expected at each place, 0 or more.
    guide : ndarray (h, w, 3) uint8
        The picture whose edges the classes follow.
    radius, eps
        Of the guided filter: pixels, and variance of the guide (0..1 values) that counts as edge.
    extra : dict, optional
        Likelihoods from elsewhere, per class number, multiplied in.
    seeds : ndarray (k, h, w), optional
        Where each class is sure to be: its colours are learned there first.
    flatness : float
        Exponent on the colour's likelihood, 0..1: below 1 the place counts for more.

    Returns
    -------
    ndarray (k, h, w) float32
        Summing to 1 over the classes.
    """
    numbers = bin_numbers(values)
    total = priors.sum(0) + 1e-9
    prior = priors / total
    posterior = prior
    filtering = cv2.ximgproc.createGuidedFilter(guide, radius, eps * 255 * 255)
    for n in range(rounds):
        learn = seeds if seeds is not None and n == 0 else posterior**2
        seen = np.stack([likelihood(numbers, p, values.shape[-1]) for p in learn])
        seen = seen / (seen.sum(0) + 1e-12) + _FLOOR
        seen **= flatness
        for k, more in (extra or {}).items():
            seen[k] *= more
        posterior = prior * seen
        posterior /= posterior.sum(0) + 1e-9
        posterior = np.stack([filtering.filter(np.ascontiguousarray(p)) for p in posterior])
        posterior = np.clip(posterior, 0, 1)
        posterior /= posterior.sum(0) + 1e-9
    return np.asarray(posterior, np.float32)

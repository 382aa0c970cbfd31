"""Masks enlarged along edges, checked against the guided filter of OpenCV's contributed modules."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from retouch.face.guided import applied, coefficients

IDENTITY = np.array([[1.0, 0, 0], [0, 1, 0]])


def picture(size: int) -> np.ndarray:
    """A slanted edge between two colours with grain, (size, size, 3) uint8."""
    rng = np.random.default_rng(3)
    ys, xs = np.mgrid[:size, :size] / size
    right = (xs + 0.3 * ys > 0.63)[..., None]
    colours = np.where(right, [200, 150, 120], [60, 70, 110])
    return np.clip(colours + rng.normal(0, 3, (size, size, 3)), 0, 255).astype(np.uint8)


class Guided(unittest.TestCase):
    def test_the_same_size_is_the_guided_filter(self) -> None:
        pixels = picture(120)
        guide = pixels.astype(np.float32) / 255
        mask = cv2.GaussianBlur((pixels[..., 0] > 130).astype(np.float32), (0, 0), 4)
        ours = applied(coefficients(guide, mask[None], 5, 1e-3), pixels, IDENTITY)[0]
        theirs = np.clip(cv2.ximgproc.guidedFilter(pixels, mask, 5, 1e-3 * 255**2), 0, 1)
        # At the border the library mirrors otherwise.
        inner = np.s_[12:-12, 12:-12]
        self.assertLess(float(np.abs(ours[inner] - theirs[inner]).max()), 1e-4)

    def test_an_enlarged_mask_ends_where_the_large_picture_does(self) -> None:
        large = picture(960)
        truth = cv2.GaussianBlur(large, (0, 0), 2)[..., 0] > 130
        small = cv2.resize(large, (120, 120), interpolation=cv2.INTER_AREA)
        # Moved by a pixel and blurred, as a small network's answer is.
        rough = np.roll((small[..., 0] > 130).astype(np.float32), 1, axis=1)
        rough = cv2.GaussianBlur(rough, (0, 0), 1.5)
        explained = coefficients(small.astype(np.float32) / 255, rough[None], 5, 1e-3)
        ours = applied(explained, large, IDENTITY / 8)[0] > 0.5
        plain = cv2.resize(rough, (960, 960), interpolation=cv2.INTER_LINEAR) > 0.5

        def overlap(mask: np.ndarray) -> float:
            inner = np.s_[100:-100, 100:-100]
            a, b = mask[inner], truth[inner]
            return float((a & b).sum() / (a | b).sum())

        self.assertGreater(overlap(ours), 0.995)
        self.assertLess(overlap(plain), 0.985)

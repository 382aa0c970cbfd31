"""The everyday routine against the truth of demo portraits: the lightest and the darkest skin."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from benchmarks import evening
from benchmarks.faces import labels
from benchmarks.scoring import load


class Everyday(unittest.TestCase):
    def test_nearer_to_the_truth_in_every_band_and_the_texture_stays(self) -> None:
        for name in ("ana", "chi"):
            one = evening.of_person(name)
            result = one.renderer.render(evening.everyday(one), one.renderer.bounds)
            before, after = evening.score(name, load(name).raw), evening.score(name, result)
            with self.subTest(name):
                self.assertLess(after.difference, before.difference)
                for band, was, now in zip(evening.BANDS, before.bands, after.bands, strict=True):
                    self.assertLess(now, was, band)
                self.assertTrue(85 <= after.fine <= 110, after.fine)
                self.assertLess(after.outside, 0.001)
                # Lips and teeth stay as they are, but for a pixel or two at their rims: nothing
                # that would show in an 8-bit file.
                for label in (2, 3):
                    part = (labels(name) == label).astype(np.uint8)
                    inner = cv2.erode(part, np.ones((7, 7), np.uint8)) > 0
                    off = np.abs(result - load(name).raw).max(-1)[inner]
                    self.assertLess(float(off.max(initial=0)), 0.5 / 255, label)

"""The everyday routine against the truth of demo portraits: the lightest and the darkest skin."""

from __future__ import annotations

import unittest

from benchmarks import evening
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
                self.assertLess(after.outside, 0.003)

"""The everyday routine against the truth of demo portraits: the lightest and the darkest skin."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from benchmarks import evening
from benchmarks.faces import labels
from benchmarks.scoring import load
from retouch.edit import Edit
from retouch.edit.values import MOST_AREAS
from retouch.work import Bench
from retouch.work.marks import to_keep


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


def without_heals(one: Bench, which: str) -> Edit:
    """The passes of a routine on skin alone."""
    passes = evening.everyday(one, which).passes
    return Edit(tuple(p for p in passes if p.kind != "heal"))


class Others(unittest.TestCase):
    def test_strong_spares_marks_that_stay_and_pores(self) -> None:
        one = evening.of_person("ana")
        whole = without_heals(one, "strong")
        raw = load("ana").raw
        soften = next(p for p in whole.passes if p.kind == "blemishes")
        result = one.renderer.render(Edit((soften,)), one.renderer.bounds)
        kept = to_keep(one.analysis, Edit())
        # A freckled face: more marks than a mask has areas.
        self.assertGreater(len(kept), MOST_AREAS)
        for x, y, reach in kept:
            at = np.s_[
                round(y - reach / 2) : round(y + reach / 2) + 1,
                round(x - reach / 2) : round(x + reach / 2) + 1,
            ]
            np.testing.assert_allclose(result[at], raw[at], atol=0.2 / 255)
        self.assertGreater(float((result != raw).any(-1).mean()), 0.002)
        done = evening.score("ana", one.renderer.render(whole, one.renderer.bounds))
        self.assertTrue(85 <= done.fine <= 110, done.fine)

    def test_light_is_less_than_everyday_and_nearer_to_the_truth_than_nothing(self) -> None:
        one = evening.of_person("chi")
        raw = load("chi").raw
        light, everyday = (
            one.renderer.render(without_heals(one, which), one.renderer.bounds)
            for which in ("light", "everyday")
        )
        changes = [float(np.abs(a - raw).mean()) for a in (light, everyday)]
        self.assertTrue(0 < changes[0] < 0.75 * changes[1], changes)
        self.assertLess(
            evening.score("chi", light).difference, evening.score("chi", raw).difference
        )

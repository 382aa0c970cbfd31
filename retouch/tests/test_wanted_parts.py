"""Functions that are asked for a part of what they look at give just that part of the whole."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from retouch.colour.blend import MODES, blend
from retouch.colour.lab import to_lab
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Pixels, Place
from retouch.processors import edges
from retouch.render.mixing import mix_into
from retouch.skin import alike, blemish, even, light, lines, redness
from retouch.skin.colour import moved
from retouch.skin.smooth import edge_aware, soft
from retouch.tests.scenes import skin, spot

RECT = Rect(40, 24, 360, 264)
INNER = Rect(150, 90, 260, 190)
TONE = np.float32((66.0, 12.0, 18.0))


def picture() -> np.ndarray:
    return spot(skin(RECT.height, RECT.width, grain=0.02, slope=0.2, seed=8), 165, 120, 14)


class Smoothing(unittest.TestCase):
    def test_the_wanted_part_of_a_blur(self) -> None:
        image = picture()
        for sigma in (0.2, 1.5, 7.0, 20.0):
            whole = soft(image, RECT, sigma)
            part = soft(image, RECT, sigma, INNER)
            np.testing.assert_allclose(part, whole[INNER.within(RECT)], atol=1e-6)
            whole = edge_aware(image, RECT, sigma, 0.05)
            part = edge_aware(image, RECT, sigma, 0.05, INNER)
            np.testing.assert_allclose(part, whole[INNER.within(RECT)], atol=1e-6)

    def test_a_blur_is_that_of_a_reference_library(self) -> None:
        """SciPy's Gaussian at full size; ours is made on cells of the picture where it is wide."""
        image = picture()
        for sigma in (1.5, 7.0, 20.0):
            ours = soft(image, RECT, sigma, INNER)
            theirs = np.stack(
                [gaussian_filter(c, sigma, mode="mirror") for c in np.moveaxis(image, 2, 0)], -1
            )
            np.testing.assert_allclose(ours, theirs[INNER.within(RECT)], atol=4e-3)


class OnSkin(unittest.TestCase):
    def functions(self) -> dict[str, Callable[..., Any]]:
        image, ppm = picture(), 5.0
        return {
            "redness": lambda i: redness.less_red(image, RECT, ppm, TONE, 0.8, 1.0, inner=i),
            "shine": lambda i: light.less_shine(image, RECT, ppm, TONE, 0.8, -10.0, i),
            "shadows": lambda i: light.lifted(image, RECT, ppm, TONE, 0.8, 0.5, i),
            "even": lambda i: even.evened(image, RECT, 8.0, TONE, 0.5, 0.5, 0.5, 2.0, i),
            "alike": lambda i: alike.shifted(image, RECT, ppm, TONE, TONE + 4, 20.0, 0.5, 3.0, i),
            "blemishes": lambda i: blemish.concealed(image, RECT, ppm, 0.8, 4.0, 0.5, i),
            "light": lambda i: blemish.levelled(image, RECT, ppm, 0.8, 4.0, 0.1, i),
            "lines": lambda i: lines.softened(image, RECT, ppm, 0.8, 1.2, 0.5, i),
        }

    def test_the_wanted_part_is_that_of_the_whole(self) -> None:
        before = picture()[INNER.within(RECT)]
        for name, function in self.functions().items():
            with self.subTest(name):
                whole, part = function(None), function(INNER)
                self.assertEqual(part.shape, (INNER.height, INNER.width, 3))
                np.testing.assert_allclose(part, whole[INNER.within(RECT)], atol=2e-5)
                self.assertGreater(float(np.abs(part - before).max()), 1e-3, "nothing was done")

    def test_every_kind_gives_what_is_wanted(self) -> None:
        place = Place(RECT, 0, INNER)
        for kind in registry.all_kinds():
            if not isinstance(kind.way, Pixels):
                continue
            values = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
            here = place
            if kind.whole is not None:
                # What it knows of the whole picture, it works out first.
                known = kind.whole.make(picture(), values, Place(RECT, 0))
                here = replace(place, whole=known)
            out = kind.way.make(picture(), values, here)
            self.assertEqual(out.shape, (INNER.height, INNER.width, 3), kind.name)

    def test_moved_colours_with_and_without_what_is_known(self) -> None:
        image = picture()
        change = np.zeros_like(image)
        change[40:60, 50:90] = (3.0, -2.0, 1.0)
        out = moved(image, change)
        np.testing.assert_allclose(out, moved(image, change, to_lab(image)), atol=1e-6)
        np.testing.assert_array_equal(out[:40], image[:40])
        off = to_lab(out)[45:55, 55:85] - to_lab(image)[45:55, 55:85]
        np.testing.assert_allclose(off.mean((0, 1)), (3.0, -2.0, 1.0), atol=0.1)


class Mixing(unittest.TestCase):
    @given(st.integers(-50, 50), st.integers(0, 300), st.integers(1, 9))
    @settings(max_examples=40, deadline=None)
    def test_strips_are_a_partition(self, start: int, length: int, count: int) -> None:
        parts = edges(start, start + length, count)
        self.assertEqual([parts[0][0], parts[-1][1]], [start, start + length])
        self.assertTrue(all(a[1] == b[0] for a, b in pairwise(parts)))
        sizes = [b - a for a, b in parts]
        self.assertLessEqual(max(sizes) - min(sizes), 1)

    def test_large_and_small_pictures_mix_alike(self) -> None:
        """In strips or not, in place, in every blend mode; beside the part nothing changes."""
        rng = np.random.default_rng(3)
        below = rng.random((900, 700, 3)).astype(np.float32)
        above = rng.random((860, 660, 3)).astype(np.float32)
        share = rng.random((860, 660, 1)).astype(np.float32)
        here = (slice(20, 880), slice(30, 690))
        for mode in ("normal", *MODES):
            for weight in (share, 0.4, 1.0):
                image = below.copy()
                mix_into(image, here, above, mode, weight)
                wanted = below.copy()
                mixed = above if mode == "normal" else blend(mode, below[here], above)
                wanted[here] += (mixed - wanted[here]) * weight
                np.testing.assert_allclose(image, wanted, atol=2e-6, err_msg=mode)


class Rectangles(unittest.TestCase):
    def test_a_part_lies_in_the_array_of_the_whole(self) -> None:
        ys, xs = np.mgrid[RECT.y0 : RECT.y1, RECT.x0 : RECT.x1]
        cut = np.stack([xs, ys], -1)[INNER.within(RECT)]
        self.assertEqual(tuple(cut[0, 0]), (INNER.x0, INNER.y0))
        self.assertEqual(tuple(cut[-1, -1]), (INNER.x1 - 1, INNER.y1 - 1))

"""From a level of the picture to the screen's pixels: exact where they coincide, straight where it is straight, and
without moire."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.errors import ViewError
from retouch.geometry import Rect
from retouch.picture.pyramid import reduce
from retouch.render.grid import FAR, LEAST_ACROSS, LONGEST, ViewGrid

BOUNDS = Rect(0, 0, 400, 300)


def grid(x: float, y: float, scale: float, width: int = 60, height: int = 40) -> ViewGrid:
    return ViewGrid(x, y, scale, width, height, BOUNDS, 3)


def ramp(level: int, rect: Rect) -> np.ndarray:
    """A level of a picture whose values are 2 x + 3 y of the original (in its pixels, mean over a level's)."""
    size = 1 << level
    xs = (np.arange(rect.x0, rect.x1) + 0.5) * size
    ys = (np.arange(rect.y0, rect.y1) + 0.5) * size
    plane = (2 * xs[None] + 3 * ys[:, None]).astype(np.float32)
    return np.repeat(plane[..., None], 3, axis=2)


class Laid(unittest.TestCase):
    @given(x=st.integers(0, 330), y=st.integers(0, 250), seed=st.integers(0, 999))
    @settings(max_examples=40, deadline=None)
    def test_one_to_one_pixels_are_passed_on(self, x: int, y: int, seed: int) -> None:
        pixels = np.random.default_rng(seed).random((300, 400, 3), np.float32)
        view = grid(x, y, 1.0)
        out = view.laid(pixels[view.rect.y0 : view.rect.y1, view.rect.x0 : view.rect.x1])
        np.testing.assert_array_equal(out, pixels[y : y + 40, x : x + 60])

    @given(
        x=st.floats(60, 200),
        y=st.floats(60, 120),
        scale=st.sampled_from([0.9, 0.5, 0.37, 0.3, 0.25]),
    )
    @settings(max_examples=60, deadline=None)
    def test_what_is_straight_stays_straight_and_in_its_place(
        self, x: float, y: float, scale: float
    ) -> None:
        view = grid(x, y, scale, 24, 16)
        out = view.laid(ramp(view.level, view.rect))
        xs = x + (np.arange(24) + 0.5) / scale
        ys = y + (np.arange(16) + 0.5) / scale
        expected = 2 * xs[None] + 3 * ys[:, None]
        inner = np.s_[3:-3, 3:-3]
        # A sixteenth of a pixel of the screen: between pixels the library's cubic is not quite straight.
        np.testing.assert_allclose(out[inner][..., 0], expected[inner], atol=5 / 16 / scale)

    def test_the_border_goes_on_outside_of_the_picture(self) -> None:
        pixels = np.random.default_rng(1).random((300, 400, 3), np.float32)
        view = grid(-20, -10, 1.0)
        out = view.laid(pixels[view.rect.y0 : view.rect.y1, view.rect.x0 : view.rect.x1])
        np.testing.assert_allclose(out[10:, 20:], pixels[:30, :40], atol=1e-6)
        np.testing.assert_allclose(
            out[:10, :20], np.broadcast_to(pixels[0, 0], (10, 20, 3)), atol=1e-6
        )

    def test_a_pattern_too_fine_for_the_screen_turns_grey_not_coarse(self) -> None:
        """Lines of one pixel at 0.7: the difference of both frequencies (1.5 of the screen's) would show as moire."""
        lines = np.zeros((300, 400, 3), np.float32)
        lines[:, ::2] = 1
        view = grid(50, 50, 0.7)
        rect = view.rect
        out = view.laid(lines[rect.y0 : rect.y1, rect.x0 : rect.x1])[4:-4, 4:-4]
        self.assertAlmostEqual(float(out.mean()), 0.5, delta=0.02)
        # The nearest pixels would have all of the contrast; here less than two thirds are left.
        plain = lines[60, (50 + (np.arange(60) + 0.5) / 0.7).astype(int), 0]
        self.assertGreater(float(plain.std()), 0.45)
        self.assertLess(float(out.std()), 0.65 * float(plain.std()))

    def test_beyond_the_last_level_it_is_halved_on(self) -> None:
        bounds = Rect(0, 0, 4096, 2048)
        pixels = np.random.default_rng(4).random((256, 512, 3), np.float32)
        view = ViewGrid(0, 0, 1 / 32, 128, 64, bounds, 3)
        self.assertEqual(view.level, 3)
        rect = view.rect
        out = view.laid(pixels[rect.y0 : rect.y1, rect.x0 : rect.x1])
        np.testing.assert_allclose(out, reduce(pixels, 2), atol=1e-5)


class Refused(unittest.TestCase):
    def test_what_could_not_be_shown_is_refused_in_words(self) -> None:
        cases = {
            "scale": [(0, 0, 0.0, 9, 9), (0, 0, 1.5, 9, 9), (0, 0, float("nan"), 9, 9), (0, 0, -0.5, 9, 9)],
            "smaller than": [(0, 0, 0.5 * LEAST_ACROSS / 400, 9, 9)],
            "pixels on each side": [(0, 0, 0.5, 0, 9), (0, 0, 0.5, 9, LONGEST + 1), (0, 0, 0.5, LONGEST, LONGEST)],
            "too far": [(2 * FAR, 0, 0.5, 9, 9), (0, -2 * FAR, 0.5, 9, 9)],
        }  # fmt: skip
        for words, views in cases.items():
            for x, y, scale, width, height in views:
                with self.assertRaisesRegex(ViewError, words):
                    ViewGrid(x, y, scale, width, height, BOUNDS, 3)

    @given(
        x=st.floats(-1e6, 1e6), y=st.floats(-1e6, 1e6), scale=st.floats(0.05, 1.0),
        width=st.integers(1, 90), height=st.integers(1, 90),
    )  # fmt: skip
    @settings(max_examples=120, deadline=None)
    def test_whatever_is_shown_is_as_large_as_asked(
        self, x: float, y: float, scale: float, width: int, height: int
    ) -> None:
        view = ViewGrid(x, y, scale, width, height, BOUNDS, 3)
        rect = view.rect
        if rect.empty:
            return
        self.assertEqual(rect, rect.clip(BOUNDS.reduced(view.level)))
        out = view.laid(np.full((rect.height, rect.width, 3), 0.25, np.float32))
        self.assertEqual(out.shape, (height, width, 3))
        np.testing.assert_allclose(out, 0.25, atol=1e-6)

"""Blobs in scale space: found where they are, as large as they are, and nothing else taken for one.

What a blob of a known form answers is theory: T. Lindeberg, *Feature detection with automatic scale selection*,
IJCV 30 (1998). Two blurs of a Gaussian of variance t stay Gaussians of variance t + s, which is elementary.
"""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.face.blobs import LEAST_MM, MOST_MM, blobs, certainty

UNIT = 6.0
SIZE = 240


def skin(seed: int = 0, rough: float = 0.004) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Plain skin with a fine texture: blood, green, mask."""
    rng = np.random.default_rng(seed)
    blood, green = rng.normal(0, rough, (2, SIZE, SIZE)).astype(np.float32)
    return blood + 0.5, green - 1.0, np.ones((SIZE, SIZE), np.float32)


def disc(x: float, y: float, r: float, long: float = 1.0) -> np.ndarray:
    """1 inside of an ellipse, soft over a pixel."""
    ys, xs = np.mgrid[:SIZE, :SIZE] + 0.5
    away = np.hypot((xs - x) / long, ys - y) - r
    return np.clip(0.5 - away, 0, 1).astype(np.float32)


class Found(unittest.TestCase):
    def test_a_red_a_dark_and_a_light_disc_are_found_with_place_and_size(self) -> None:
        for channel, sign in ((0, 1.0), (1, -1.0), (1, 1.0)):
            for radius_mm in (0.6, 1.5, 3.0):
                parts = [*skin(), None]
                r = radius_mm * UNIT
                parts[channel] = parts[channel] + np.float32(0.35 * sign) * disc(131.2, 98.7, r)
                found = blobs(parts[0], parts[1], parts[2], UNIT)
                with self.subTest(channel=channel, sign=sign, radius=radius_mm):
                    x, y, own, sure = found[0]
                    # A large disc's sharp rim is seen as small places, less sure by far.
                    self.assertEqual(
                        [b for b in found[1:] if b[3] > 0.6 * sure or b[2] > r / 2], []
                    )
                    self.assertLess(np.hypot(x - 131.2, y - 98.7), 0.15 * r + 0.7)
                    # Radii are looked for in steps of a quarter.
                    self.assertLess(abs(np.log(own / r)), np.log(1.4))
                    self.assertGreater(sure, 8.0)

    @given(angle=st.floats(0, np.pi), seed=st.integers(0, 50))
    @settings(max_examples=12, deadline=None)
    def test_turning_the_picture_turns_what_is_found(self, angle: float, seed: int) -> None:
        x, y = 120 + 50 * np.cos(angle), 120 + 50 * np.sin(angle)
        blood, green, mask = skin(seed)
        found = blobs(blood + np.float32(0.3) * disc(x, y, 9.0), green, mask, UNIT)
        self.assertEqual(len(found), 1)
        self.assertLess(np.hypot(found[0][0] - x, found[0][1] - y), 2.0)

    def test_of_two_in_each_other_the_clearer_one_counts_beside_each_other_both(self) -> None:
        blood, green, mask = skin()
        one = blood + np.float32(0.4) * disc(80, 120, 10) + np.float32(0.2) * disc(80, 120, 4)
        self.assertEqual(len(blobs(one, green, mask, UNIT)), 1)
        two = blood + np.float32(0.4) * disc(80, 120, 8) + np.float32(0.3) * disc(150, 120, 8)
        found = blobs(two, green, mask, UNIT)
        self.assertEqual([round(b[0] / 10) for b in found], [8, 15])
        self.assertGreater(found[0][3], found[1][3])


class NotFound(unittest.TestCase):
    def test_texture_alone_is_none_however_rough(self) -> None:
        for rough in (0.002, 0.01, 0.04):
            for seed in range(3):
                blood, green, mask = skin(seed, rough)
                sure = [b for b in blobs(blood, green, mask, UNIT) if b[3] > 10]
                self.assertEqual(sure, [], rough)

    def test_a_line_is_none(self) -> None:
        """A strand of hair: dark, and long."""
        blood, green, mask = skin()
        line = green - np.float32(0.5) * disc(120, 120, 4, long=24)
        self.assertEqual(blobs(blood, line, mask, UNIT), [])

    def test_an_edge_and_the_rim_of_the_skin_are_none(self) -> None:
        blood, green, mask = skin()
        shade = green.copy()
        shade[:, 120:] -= 0.8
        self.assertEqual(blobs(blood, shade, mask, UNIT), [])
        # Lips begin where the skin ends: much redder, and not looked at.
        ys, xs = np.mgrid[:SIZE, :SIZE]
        outside = np.hypot(xs - 120, ys - 120) < 30
        red = np.where(outside, blood + 0.8, blood).astype(np.float32)
        mask[outside] = 0
        self.assertEqual(blobs(red, green, mask, UNIT), [])

    def test_what_is_smaller_or_larger_than_marks_is_none_of_that_size(self) -> None:
        for radius_mm in (0.05, 20.0):
            blood, green, mask = skin()
            made = blood + np.float32(0.3) * disc(120, 120, radius_mm * UNIT)
            for _, _, r, _ in blobs(made, green, mask, UNIT):
                self.assertTrue(0.8 * LEAST_MM * UNIT <= r <= 1.3 * MOST_MM * UNIT, r)

    def test_without_skin_there_is_nothing_to_find(self) -> None:
        blood, green, mask = skin()
        made = blood + np.float32(0.5) * disc(120, 120, 9)
        self.assertEqual(blobs(made, green, np.zeros_like(mask), UNIT), [])
        self.assertEqual(blobs(made[:12, :12], green[:12, :12], mask[:12, :12], UNIT), [])


class Sure(unittest.TestCase):
    @given(
        a=st.floats(0.5, 60), b=st.floats(0.5, 60), size=st.floats(0.1, 3), dark=st.floats(0.01, 1)
    )
    @settings(deadline=None)
    def test_what_stands_out_more_is_surer_and_it_is_a_part(
        self, a: float, b: float, size: float, dark: float
    ) -> None:
        one, two = certainty(a, dark, size), certainty(b, dark, size)
        self.assertTrue(0 <= one <= 1)
        if abs(a - b) > 1e-3 and 1e-6 < one < 1 - 1e-6:
            self.assertEqual(one < two, a < b)
        self.assertLessEqual(certainty(a, dark, 0.15), certainty(a, dark, 0.9))

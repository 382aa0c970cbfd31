"""Colour computation against published numbers and a reference library."""

from __future__ import annotations

import unittest

import colour
import cv2
import numpy as np

from retouch.colour import lab, transfer
from retouch.colour.difference import ciede2000

# G. Sharma, W. Wu, E. N. Dalal, "The CIEDE2000 Color-Difference Formula: Implementation Notes,
# Supplementary Test Data, and Mathematical Observations", Color Research and Application 30(1),
# 2005, table 1: L1 a1 b1 L2 a2 b2 difference.
SHARMA = """
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5000 0 50 0 -2.5000 4.3065
50 2.5000 0 73 25 -18 27.1492
50 2.5000 0 61 -5 29 22.8977
50 2.5000 0 56 -27 -3 31.9030
50 2.5000 0 58 24 15 19.4535
50 2.5000 0 50 3.1736 0.5854 1.0000
50 2.5000 0 50 3.2972 0 1.0000
50 2.5000 0 50 1.8634 0.5757 1.0000
50 2.5000 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


class Difference(unittest.TestCase):
    def test_published_pairs(self) -> None:
        rows = np.array([[float(v) for v in r.split()] for r in SHARMA.strip().splitlines()])
        self.assertEqual(len(rows), 34)
        np.testing.assert_allclose(ciede2000(rows[:, :3], rows[:, 3:6]), rows[:, 6], atol=5e-5)
        np.testing.assert_allclose(ciede2000(rows[:, 3:6], rows[:, :3]), rows[:, 6], atol=5e-5)

    def test_against_colour_science(self) -> None:
        rng = np.random.default_rng(5)
        a, b = (rng.uniform([0, -90, -90], [100, 90, 90], (4000, 3)) for _ in range(2))
        np.testing.assert_allclose(
            ciede2000(a, b), colour.delta_E(a, b, method="CIE 2000"), atol=1e-6
        )


class Transfer(unittest.TestCase):
    def test_srgb_curve_against_colour_science(self) -> None:
        x = np.linspace(0, 1, 4097)
        np.testing.assert_allclose(transfer.to_linear(x), colour.models.eotf_sRGB(x), atol=1e-9)
        np.testing.assert_allclose(
            transfer.to_encoded(x), colour.models.eotf_inverse_sRGB(x), atol=1e-9
        )

    def test_round_trip_in_single_precision(self) -> None:
        x = np.linspace(0, 1, 65536, dtype=np.float32)
        back = transfer.to_encoded(transfer.to_linear(x))
        self.assertLess(float(np.abs(back - x).max()), 0.5 / 65535)


class Lab(unittest.TestCase):
    def test_against_colour_science(self) -> None:
        rng = np.random.default_rng(6)
        rgb = rng.uniform(0, 1, (2000, 3))
        want = colour.XYZ_to_Lab(
            colour.sRGB_to_XYZ(rgb),
            colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"],
        )
        # The white differs in the fourth digit (rows of the matrix against tabulated D65).
        np.testing.assert_allclose(lab.from_srgb(rgb), want, atol=0.03)

    def test_neutral_greys_have_no_colour(self) -> None:
        grey = np.repeat(np.linspace(0, 1, 11)[:, None], 3, 1)
        np.testing.assert_allclose(lab.from_srgb(grey)[:, 1:], 0, atol=1e-9)


class Shifted(unittest.TestCase):
    """Colours moved in CIELAB, beside OpenCV's conversions."""

    def image(self) -> np.ndarray:
        return np.random.default_rng(3).random((60, 80, 3)).astype(np.float32)

    def test_what_moves_is_moved_by_as_much_as_a_reference_library_says(self) -> None:
        image = self.image()
        before = lab.to_lab(image)
        for part in (1, 7):
            after = before.copy()
            after[::part] += np.float32((6.0, -4.0, 5.0))
            expected = image.astype(np.float64)
            for sign, colours in ((1, after), (-1, before)):
                expected += sign * cv2.cvtColor(colours, cv2.COLOR_LAB2RGB).astype(np.float64)
            with self.subTest(every=part):
                np.testing.assert_allclose(lab.shifted(image, before, after), expected, atol=1e-6)

    def test_what_does_not_move_stays_to_the_bit(self) -> None:
        # Beyond 0..1, too, which colours know nothing of.
        image = self.image() * np.float32(1.6) - np.float32(0.3)
        before = lab.to_lab(image)
        for rows in (slice(0, 5), slice(0, 59)):
            for held in (False, True):
                after = before.copy()
                after[rows] += np.float32(3)
                got = lab.shifted(image, before, after, held)
                moved = np.zeros(60, np.bool_)
                moved[rows] = True
                np.testing.assert_array_equal(got[~moved], image[~moved])
                self.assertGreater(float(np.abs(got[moved] - image[moved]).mean()), 0.01)
        np.testing.assert_array_equal(lab.shifted(image, before, before, True), image)

    def test_held_colours_stay_within_what_can_be_shown(self) -> None:
        image = self.image()
        before = lab.to_lab(image)
        after = before + np.float32((40.0, 0.0, 0.0))
        free, held = (lab.shifted(image, before, after, h) for h in (False, True))
        self.assertLessEqual(float(held.max()), 1.0)
        np.testing.assert_array_equal(held, np.clip(free, 0, 1))

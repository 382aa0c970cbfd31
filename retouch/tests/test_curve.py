"""Curves: tables of encoded values, laid over parts of an image."""

from __future__ import annotations

import unittest
from dataclasses import replace

import colour
import numpy as np

from retouch.colour.blend import MODES
from retouch.colour.curve import looked_up, ramp
from retouch.colour.depth import to_float, to_integers
from retouch.edit import Edit, Pass
from retouch.passes import registry
from retouch.passes.light import curve
from retouch.passes.ways import Curve
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.render.mixing import bend_into

STEP = 1 / 65535


def noise(h: int, w: int, seed: int = 3) -> np.ndarray:
    return np.random.default_rng(seed).random((h, w, 3), np.float32)


class Curves(unittest.TestCase):
    def test_the_ramp_changes_nothing_but_the_last_step(self) -> None:
        image = noise(20, 30)
        np.testing.assert_allclose(looked_up(image, ramp()), image, atol=0.51 * STEP)

    def test_values_of_whole_steps_come_back_exactly(self) -> None:
        """All 256 values of an 8-bit picture lie on steps of the table: 255 divides 65535."""
        values = (np.arange(256, dtype=np.float32) / 255).reshape(1, 256, 1).repeat(3, 2)
        np.testing.assert_array_equal(np.round(looked_up(values, ramp()) * 255), values * 255)

    def test_values_beyond_are_clipped(self) -> None:
        image = np.array([[[-0.5, 0.0, 1.5]]], np.float32)
        np.testing.assert_array_equal(looked_up(image, ramp()), [[[0, 0, 1]]])

    def test_exposure_against_the_published_transfer_function(self) -> None:
        """IEC 61966-2-1, as colour-science has it: decoded, times a power of two, encoded again."""
        image = noise(40, 50)
        for stops in (-1.5, -0.1, 0.7):
            linear = colour.models.eotf_sRGB(image.astype(np.float64)) * 2.0**stops
            expected = np.clip(colour.models.eotf_inverse_sRGB(linear), 0, 1)
            got = looked_up(image, curve(stops))
            # In the darkest tones a step of the table is up to 12.92 times steeper.
            np.testing.assert_allclose(got, expected, atol=20 * STEP, err_msg=str(stops))

    def test_a_part_is_bent_so_far_and_the_rest_is_left(self) -> None:
        table = curve(1.0)
        here = np.s_[5:25, 8:40]
        share = np.random.default_rng(5).random((20, 32, 1), np.float32)
        for wanted, given in ((1.0, 1.0), (0.3, 0.3), (share, share)):
            image = noise(30, 50)
            expected = image.copy()
            part = expected[here]
            expected[here] = part + (looked_up(part, table) - part) * wanted
            bend_into(image, here, table, given)
            np.testing.assert_allclose(image, expected, atol=1e-6)

    def test_a_share_of_nothing_leaves_every_bit(self) -> None:
        image = noise(30, 50)
        before = image.copy()
        bend_into(image, np.s_[0:30, 0:50], curve(1.0), np.zeros((30, 50, 1), np.float32))
        np.testing.assert_array_equal(image, before)

    def test_a_pass_along_a_curve_says_the_same_both_ways(self) -> None:
        kind = registry.kind("light")
        assert isinstance(kind.way, Curve)
        image = noise(16, 24)
        table = kind.way.table({"exposure_ev": 0.5}, False)
        assert table is not None
        one = Pass("l", "light", settings={"exposure_ev": 0.5})
        below = Picture(to_integers(image, 16))
        plain = Renderer(Pyramid(below)).render(Edit((one,)), below.bounds)
        np.testing.assert_array_equal(plain, looked_up(to_float(below.pixels), table))
        for mode in ("darken", "lighten"):
            # Blended, the same curve is computed as pixels: the darker and lighter of both.
            got = Renderer(Pyramid(below)).render(Edit((replace(one, blend=mode),)), below.bounds)
            want = MODES[mode](to_float(below.pixels), plain)
            np.testing.assert_allclose(got, want, atol=1e-6)
        self.assertIsNone(kind.way.table({"exposure_ev": 0.0}, False))

    def test_a_wide_table_goes_beyond_white_and_black(self) -> None:
        values = np.array([[[-1.5, -0.25, 0.5], [1.0, 2.5, 3.9]]], np.float32)
        np.testing.assert_allclose(looked_up(values, ramp(wide=True)), values, atol=0.51 * STEP)

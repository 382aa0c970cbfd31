"""Light from one side: found on a face, and no shine and no shadow for the passes on skin."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.lab import from_lab, to_lab
from retouch.geometry import Rect
from retouch.skin.even import evened
from retouch.skin.light import less_shine, lifted
from retouch.skin.own import OwnSkin, own_skin
from retouch.skin.redness import less_red

RECT = Rect(0, 0, 300, 200)
SCALE = 4.0
BASE, SIDE = np.float32([55, 10, 14]), np.float32([18, 2, 3])


def half_lit() -> np.ndarray:
    """Skin lit from the right, encoded; the line between both sides is soft, at x = 150."""
    skin = OwnSkin(BASE, SIDE, (1 / 20, 0.0), -150 / 20)
    return from_lab(np.ascontiguousarray(skin.over(RECT)))


class Sides(unittest.TestCase):
    SIDED = OwnSkin(BASE, SIDE, (1 / 20, 0.0), -150 / 20)

    def test_both_sides_and_the_line(self) -> None:
        over = self.SIDED.over(RECT)
        np.testing.assert_allclose(over[100, 10], BASE - SIDE, atol=1e-4)
        np.testing.assert_allclose(over[100, 290], BASE + SIDE, atol=1e-4)
        np.testing.assert_allclose(over[100, 149:151].mean(0), BASE, atol=0.1)
        # The same on a coarse grid.
        coarse = self.SIDED.over(Rect(0, 0, 75, 50), 4)
        np.testing.assert_allclose(coarse[25, 37], over[100:104, 148:152].mean((0, 1)), atol=0.3)

    def test_one_colour_is_the_same_everywhere(self) -> None:
        self.assertEqual(own_skin(BASE).over(RECT).shape, (1, 1, 3))

    def test_the_lit_half_is_no_shine_and_the_other_no_shadow(self) -> None:
        image = half_lit()
        passes = {
            "shine": lambda skin: less_shine(image, RECT, SCALE, skin, 1.0, 6.0),
            "shadows": lambda skin: lifted(image, RECT, SCALE, skin, 0.0, 1.0, cast=1.0),
            "redness": lambda skin: less_red(image, RECT, SCALE, skin, 1.0, tolerance=1.0),
            "even": lambda skin: evened(image, RECT, 8.0, skin, 1.0, 1.0, 1.0, 0.5),
        }  # fmt: skip
        for name, made in passes.items():
            with self.subTest(name):
                change = np.abs(to_lab(made(self.SIDED)) - to_lab(image))[20:-20, 20:-20]
                self.assertLess(float(change[:, :90].max()), 0.35)
                self.assertLess(float(change[:, 170:].max()), 0.35)
        flat = np.abs(to_lab(passes["shine"](BASE)) - to_lab(image))
        self.assertGreater(float(flat[20:-20, 200:-20, 0].mean()), 3)

    def test_a_highlight_on_the_lit_side_is_still_found(self) -> None:
        image = half_lit()
        ys, xs = np.mgrid[:200, :300]
        spot = np.exp(-((xs - 230) ** 2 + (ys - 100) ** 2) / (2 * 9**2))[..., None]
        shiny = np.float32(image + (1 - image) * 0.75 * spot)
        out = less_shine(shiny, RECT, SCALE, self.SIDED, 1.0, 6.0)
        fell = to_lab(shiny)[100, 230, 0] - to_lab(out)[100, 230, 0]
        self.assertGreater(float(fell), 5)

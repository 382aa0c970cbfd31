"""Light from one side: found on a face, and no shine and no shadow for the passes on skin."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.lab import from_lab, to_lab
from retouch.geometry import Rect
from retouch.skin.blemish import concealed
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


class Cheeks(unittest.TestCase):
    """Rouge lies on both cheeks alike; a flush of one side is redness."""

    OWN = OwnSkin(
        BASE, np.zeros(3, np.float32), (0.0, 0.0), 0.0, ((80, 100), (220, 100)), 12.0, 20.0
    )

    def test_what_both_have_is_their_own(self) -> None:
        over = self.OWN.over(RECT)
        self.assertAlmostEqual(float(over[100, 80, 1] - BASE[1]), 12, delta=0.1)
        self.assertAlmostEqual(float(over[100, 150, 1] - BASE[1]), 0, delta=0.1)
        np.testing.assert_allclose(
            self.OWN.at_places(np.float32([[80.5, 100.5]]))[0], over[100, 80]
        )
        image = from_lab(np.ascontiguousarray(over))
        flat = OwnSkin(BASE, np.zeros(3, np.float32))
        for skin, least, most in ((self.OWN, 0, 0.2), (flat, 4, 12)):
            out = less_red(image, RECT, SCALE, skin, 1.0, tolerance=2.0)
            fell = float((to_lab(image) - to_lab(out))[100, 80, 1])
            self.assertTrue(least <= fell + 0.05 and fell <= most, fell)


class Lines(unittest.TestCase):
    """*Soften blemishes* takes spots for blemishes, and neither a fold nor the rim of an ear."""

    def test_a_spot_fades_and_a_line_stays(self) -> None:
        lab = np.broadcast_to(BASE + np.float32([10, 0, 0]), (200, 300, 3)).copy()
        ys, xs = np.mgrid[:200, :300]
        spot = np.exp(-((xs - 70) ** 2 + (ys - 100) ** 2) / (2 * 4.0**2))
        line = np.exp(-((xs - 200 + 0.3 * (ys - 100)) ** 2) / (2 * 3.0**2))
        lab[..., 0] -= 8 * np.maximum(spot, line)
        image = from_lab(lab.astype(np.float32))
        out = concealed(image, RECT, SCALE, 1.0, 3.0, 1.0)
        lighter = (to_lab(out) - to_lab(image))[..., 0]
        self.assertGreater(float(lighter[100, 70]), 3)
        self.assertLess(float(np.abs(lighter[40:160, 150:250]).max()), 0.8)


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

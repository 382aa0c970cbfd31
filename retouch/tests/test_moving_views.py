"""A window that moves goes on with what it showed: the same pixels, and only what is new is made."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.edit.mask import Mask
from retouch.face.analysis import Analysis
from retouch.face.cover import FaceZones
from retouch.face.zones import Layer
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.render import Plan, Renderer
from retouch.render.kept import kept_around, kept_beside
from retouch.tests.scenes import skin
from retouch.tests.test_files_in_strips import acting, healed, picture

FIRST = Rect(200, 350, 700, 850)
RECTS = st.builds(
    lambda x, y, w, h: Rect(x, y, x + w, y + h),
    st.integers(0, 20), st.integers(0, 20), st.integers(1, 20), st.integers(1, 20),
)  # fmt: skip


def edit(strength: float = 70.0) -> Edit:
    """Passes that look near and far, all over the picture."""
    return Edit((
        healed(),
        acting("redness", Mask(), amount=90.0, tolerance=1.0),
        acting("shine", Mask(), amount=strength, threshold=2.0),
        acting("skin_bands", Mask(), middle=-70.0, broad=0.0, middle_mm=1.0, px_per_mm=6.0),
    ))  # fmt: skip


class Rests(unittest.TestCase):
    @settings(deadline=None)
    @given(RECTS, RECTS)
    def test_a_rectangle_is_a_part_of_it_and_what_is_left(self, whole: Rect, other: Rect) -> None:
        part = whole.clip(other)
        if part.empty:
            return
        seen = np.zeros((50, 50), int)
        for rect in (part, *whole.without(part)):
            self.assertFalse(rect.empty)
            seen[rect.y0 : rect.y1, rect.x0 : rect.x1] += 1
        inside = np.zeros((50, 50), int)
        inside[whole.y0 : whole.y1, whole.x0 : whole.x1] = 1
        np.testing.assert_array_equal(seen, inside)

    def test_nothing_is_left_of_all(self) -> None:
        self.assertEqual(FIRST.without(FIRST), [])


class Moving(unittest.TestCase):
    def setUp(self) -> None:
        self.renderer = Renderer(Pyramid(picture(16)))

    def plan(self, strength: float = 70.0) -> Plan:
        return self.renderer.plan(edit(strength))

    def test_every_place_that_it_moves_to_shows_what_is_there(self) -> None:
        whole = Renderer(Pyramid(picture(16))).plan(edit()).view(Rect(0, 0, 900, 1300), 0)
        self.plan().view(FIRST, 0)
        for x, y in ((0, 40), (60, 40), (60, -100), (-150, 30), (0, 0), (200, 400)):
            moved = FIRST.shift(x, y)
            got = self.plan().view(moved, 0)
            with self.subTest(x=x, y=y):
                expected = whole[moved.within(Rect(0, 0, 900, 1300))]
                np.testing.assert_allclose(got, expected, atol=2e-5)

    def test_it_goes_on_with_what_is_nearest(self) -> None:
        plan = self.plan()
        plan.view(FIRST, 0)
        plan.view(FIRST.shift(0, 300), 0)
        beside = kept_beside(plan, FIRST.shift(0, 30), 0)
        assert beside is not None
        self.assertEqual(beside.rect, FIRST)
        self.assertEqual(kept_around(plan, Rect(250, 400, 600, 700), 0), FIRST)

    def test_what_is_too_far_or_not_the_same_is_not_gone_on_with(self) -> None:
        self.plan().view(FIRST, 0)
        self.assertIsNone(kept_beside(self.plan(), FIRST.shift(0, 420), 0))
        self.assertIsNone(kept_beside(self.plan(), FIRST.shift(0, 30), 1))
        # Another setting of any pass makes another picture.
        self.assertIsNone(kept_beside(self.plan(20.0), FIRST.shift(0, 30), 0))
        self.assertIsNone(kept_around(self.plan(20.0), FIRST, 0))
        got = self.plan(20.0).view(FIRST.shift(0, 30), 0)
        fresh = Renderer(Pyramid(picture(16))).plan(edit(20.0)).view(FIRST.shift(0, 30), 0)
        np.testing.assert_allclose(got, fresh, atol=2e-5)


class Hairs(unittest.TestCase):
    """What skin's masks leave out of hairs is the same whatever part is asked for."""

    def zones(self) -> FaceZones:
        image = skin(300, 400, grain=0.01, seed=9)
        rng = np.random.default_rng(9)
        for x, y in zip(rng.integers(0, 380, 60), rng.integers(0, 280, 60), strict=True):
            # Thin and dark, down and across.
            image[y : y + 20, x : x + 2] *= np.float32(0.4)
            image[y : y + 2, x : x + 20] *= np.float32(0.4)
        whole = Rect(0, 0, 400, 300)
        layers = (Layer("forehead", 0, whole, np.full((300, 400), 255, np.uint8)),)
        analysis = Analysis(400, 300, (), layers, ())
        return FaceZones(analysis, Edit(), Pyramid(Picture(to_integers(image, 16))))

    @settings(deadline=None, max_examples=40)
    @given(st.integers(0, 330), st.integers(0, 230), st.integers(1, 70), st.integers(1, 70))
    def test_parts_are_those_of_the_whole(self, x: int, y: int, w: int, h: int) -> None:
        zones = self.zones()
        whole = zones.cover("skin", None, Rect(0, 0, 400, 300), (300, 400))
        self.assertLess(float(whole.min()), 0.1)
        self.assertGreater(float(np.median(whole)), 0.95)
        part = zones.cover("skin", None, Rect(x, y, x + w, y + h), (h, w))
        np.testing.assert_array_equal(part, whole[y : y + h, x : x + w])


if __name__ == "__main__":
    unittest.main()

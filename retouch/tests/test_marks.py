"""Marks on drawn skin: what is offered, kept and only asked about."""

from __future__ import annotations

import unittest
from typing import Any

import cv2
import numpy as np

from retouch.face.marks import find_marks, visible
from retouch.geometry import Rect
from retouch.tests.scenes import skin, spot


class DrawnMarks(unittest.TestCase):
    """Spots drawn on invented skin at 6 px/mm."""

    PX_PER_MM = 6.0
    WHOLE = Rect(0, 0, 480, 360)

    def find(self, image: np.ndarray) -> Any:
        pixels = (np.clip(image, 0, 1) * 255 + 0.5).astype(np.uint8)
        everywhere = np.ones(pixels.shape[:2], np.float32)
        return visible(find_marks(pixels, self.WHOLE, everywhere, self.PX_PER_MM), 50)

    def near(self, marks: Any, x: float, y: float) -> Any:
        return [m for m in marks if np.hypot(m.x - x, m.y - y) < 8]

    def test_red_spots_are_to_be_cleared(self) -> None:
        image = skin(360, 480, slope=0.2)
        places = [(100, 100, 9), (300, 120, 6), (220, 260, 14)]
        for x, y, r in places:
            spot(image, x, y, r)
        marks = self.find(image)
        for x, y, r in places:
            with self.subTest(f"{x}, {y}"):
                (one,) = self.near(marks, x, y)
                self.assertEqual((one.kind, one.proposal), ("red", "clear"))
                self.assertLess(np.hypot(one.x - x, one.y - y), 2.5)
                self.assertTrue(0.3 * r < one.radius < 1.5 * r)
                self.assertGreater(one.reach, one.radius)

    def test_a_mole_is_to_be_kept(self) -> None:
        image = skin(360, 480)
        ys, xs = np.mgrid[:360, :480] + 0.5
        mole = np.clip((8 - np.hypot(xs - 200, ys - 150)) / 2 + 0.5, 0, 1)[..., None]
        # Melanin darkens blue most and red least, but red as well.
        image *= 1 - mole * np.array([0.35, 0.5, 0.6], np.float32)
        (one,) = self.near(self.find(image), 200, 150)
        self.assertEqual((one.kind, one.proposal), ("dark", "keep"))

    def disc(self, x: float, y: float, radius: float, soft: float) -> np.ndarray:
        ys, xs = np.mgrid[:360, :480] + 0.5
        return np.clip((radius - np.hypot(xs - x, ys - y)) / soft + 0.5, 0, 1)[..., None]

    def test_a_dark_core_in_a_red_halo_is_inflamed_and_one_without_is_a_mole(self) -> None:
        """A crust is as dark as a mole: blood around it tells (common practice)."""
        plain = skin(360, 480)
        crust = 1 - self.disc(200, 150, 4, 2) * np.array([0.3, 0.52, 0.55], np.float32)
        halo = 1 - self.disc(200, 150, 11, 10) * np.array([0.0, 0.28, 0.28], np.float32)
        (mole,) = self.near(self.find(plain * crust), 200, 150)
        self.assertEqual(mole.kind, "dark")
        self.assertNotEqual(mole.proposal, "clear")
        (inflamed,) = self.near(self.find(plain * crust * halo), 200, 150)
        self.assertEqual((inflamed.kind, inflamed.proposal), ("red", "clear"))
        self.assertGreater(inflamed.reach, 8)

    def test_a_faint_core_in_redness_without_an_end_is_asked_about(self) -> None:
        plain = skin(360, 480, grain=0.01)
        flush = 1 - self.disc(240, 180, 60, 110) * np.array([0.0, 0.3, 0.3], np.float32)
        for core, proposal in ((0.07, "ask"), (0.3, "clear")):
            spot_of = 1 - self.disc(240, 180, 10, 8) * np.array([0.0, core, core], np.float32)
            with self.subTest(core=core):
                (one,) = self.near(self.find(plain * flush * spot_of), 240, 180)
                self.assertEqual((one.kind, one.proposal), ("red", proposal))

    def test_a_brush_keeps_to_the_skin(self) -> None:
        """The mask's rim, 1.1 mm, is skin; beyond it begins the background."""
        image = skin(360, 480)
        halo = 1 - self.disc(120, 150, 20, 30) * np.array([0.0, 0.25, 0.25], np.float32)
        image = spot(image * halo, 120, 150, 7)
        pixels = (np.clip(image, 0, 1) * 255 + 0.5).astype(np.uint8)
        reach = {}
        for edge in (480, 140):
            left = np.zeros((360, 480), np.float32)
            left[:, :edge] = 1
            marks = visible(find_marks(pixels, self.WHOLE, left, self.PX_PER_MM), 50)
            reach[edge] = self.near(marks, 120, 150)[0].reach
        self.assertLess(reach[140], 24)
        self.assertLess(reach[140], reach[480] - 1)

    def test_light_fall_off_and_lines_are_no_marks(self) -> None:
        image = skin(360, 480, slope=0.5)
        cv2.line(image, (40, 300), (440, 280), (0.5, 0.33, 0.27), 3)
        self.assertEqual(self.near(self.find(image), 240, 290), [])

    def test_the_end_of_a_fold_is_only_asked_about(self) -> None:
        """A short dark red line, thick in its middle: it runs on to two sides."""
        image = skin(360, 480)
        cv2.ellipse(image, (240, 180), (26, 6), 30, 0, 360, (0.52, 0.3, 0.25), -1, cv2.LINE_AA)
        for one in self.near(self.find(image), 240, 180):
            self.assertNotEqual(one.proposal, "clear")

    def test_in_doubtful_places_only_the_surest_are_offered(self) -> None:
        plain = skin(360, 480, grain=0.06)
        faint = 1 - self.disc(120, 180, 4, 8) * np.array([0.0, 0.08, 0.08], np.float32)
        strong = 1 - self.disc(360, 180, 9, 6) * np.array([0.05, 0.6, 0.6], np.float32)
        pixels = (np.clip(plain * faint * strong, 0, 1) * 255 + 0.5).astype(np.uint8)
        ground = np.ones((360, 480), np.float32)
        for doubt, proposals in ((None, ("clear", "clear")), (ground, ("ask", "clear"))):
            marks = find_marks(pixels, self.WHOLE, ground, self.PX_PER_MM, doubt)
            got = tuple(self.near(marks, x, 180)[0].proposal for x in (120, 360))
            self.assertEqual(got, proposals)

    def test_small_pictures_only_ask(self) -> None:
        """Below 2.4 pixels a millimetre a pore and a blemish are the same few pixels."""
        image = spot(skin(360, 480), 200, 150, 6)
        pixels = (np.clip(image, 0, 1) * 255 + 0.5).astype(np.uint8)
        ground = np.ones((360, 480), np.float32)
        for scale, proposal in ((4.0, "clear"), (2.2, "ask")):
            (one,) = self.near(find_marks(pixels, self.WHOLE, ground, scale), 200, 150)[:1]
            self.assertEqual(one.proposal, proposal)

    def test_a_field_of_freckles_is_asked_about(self) -> None:
        image = skin(360, 480)
        rng = np.random.default_rng(2)
        freckle = np.array([0.12, 0.3, 0.34], np.float32)
        for x, y in rng.uniform(60, 300, (26, 2)):
            image *= 1 - self.disc(x, y, 3.5, 2) * freckle
        proposals = [m.proposal for m in self.find(image)]
        self.assertGreater(len(proposals), 12)
        self.assertLessEqual(proposals.count("clear"), 8)

    def test_plain_skin_has_none(self) -> None:
        self.assertLessEqual(len(self.find(skin(360, 480, slope=0.3))), 1)

    def test_outside_of_the_skin_is_not_looked_at(self) -> None:
        image = skin(360, 480)
        spot(image, 100, 100, 9)
        spot(image, 380, 100, 9)
        pixels = (np.clip(image, 0, 1) * 255 + 0.5).astype(np.uint8)
        left = np.zeros((360, 480), np.float32)
        left[:, :240] = 1
        marks = visible(find_marks(pixels, self.WHOLE, left, self.PX_PER_MM), 50)
        self.assertEqual(len(self.near(marks, 100, 100)), 1)
        self.assertEqual(self.near(marks, 380, 100), [])

    def test_too_small_to_tell(self) -> None:
        pixels = np.full((40, 40, 3), 150, np.uint8)
        self.assertEqual(
            find_marks(pixels, Rect(0, 0, 40, 40), np.ones((40, 40), np.float32), 0.3), []
        )

    def raised(self, glint: bool) -> np.ndarray:
        """A red bump in side light: dark on one side, a highlight on the other where it is moist."""
        image = skin(360, 480)
        image *= 1 - self.disc(196, 150, 9, 6) * np.array([0.35, 0.65, 0.62], np.float32)
        if glint:
            image += self.disc(206, 150, 5, 3) * (np.array([0.95, 0.92, 0.9], np.float32) - image)
        return image

    def test_a_highlight_beside_blood_is_one_raised_spot(self) -> None:
        """Half blood, half shade: asked about alone; with its highlight it is one inflamed spot."""
        plain = self.near(self.find(self.raised(glint=False)), 196, 150)
        self.assertNotIn("clear", [m.proposal for m in plain])
        near = self.near(self.find(self.raised(glint=True)), 200, 150)
        (whole,) = [m for m in near if m.proposal == "clear"]
        self.assertEqual(whole.kind, "red")
        self.assertGreater(whole.reach, np.hypot(whole.x - 211, whole.y - 150))
        self.assertGreater(whole.reach, np.hypot(whole.x - 187, whole.y - 150))

    def test_the_rim_of_a_mole_goes_with_the_mole(self) -> None:
        image = skin(360, 480)
        image *= 1 - self.disc(200, 150, 8, 3) * np.array([0.4, 0.55, 0.62], np.float32)
        image *= 1 - self.disc(212, 150, 3, 3) * np.array([0.03, 0.16, 0.16], np.float32)
        marks = [m for m in self.find(image) if np.hypot(m.x - 206, m.y - 150) < 16]
        self.assertIn("keep", [m.proposal for m in marks])
        self.assertNotIn("clear", [m.proposal for m in marks])

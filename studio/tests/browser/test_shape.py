"""Shape in the window: parts pulled, strokes, an outlined part, what is held; the pointer goes along."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from playwright.sync_api import Locator, expect

from retouch.edit import Edit
from retouch.face import landmarks as lm
from retouch.render.shaping import shape_of
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, rows
from studio.tests.browser.base import BrowserTest

# The corner of the jaw, on the face's right side.
JAW_R = 172


class Moving(BrowserTest):
    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def begin(self, name: str) -> None:
        self.in_features(name)
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Shape").click()

    @property
    def moves(self) -> Locator:
        return self.page.get_by_role("region", name="Moves")

    def point(self, number: int) -> tuple[float, float]:
        analysis = analysing.result(self.one)
        assert analysis is not None
        x, y = analysis.faces[0].points[number, :2]
        return float(x), float(y)

    def drag(self, start: tuple[float, float], by: tuple[float, float]) -> None:
        """From a place of the original, by CSS pixels."""
        x, y = self.at(*start)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        for n in range(1, 7):
            self.page.mouse.move(x + by[0] * n / 6, y + by[1] * n / 6)
        self.page.mouse.up()

    def test_a_part_of_the_face_is_pulled_and_its_number_goes_along(self) -> None:
        self.begin("eli")
        tip = self.point(lm.CHIN)
        self.zoom_to(*tip)
        self.moves.get_by_role("button", name="Pull").click()
        self.page.mouse.move(*self.at(*tip))
        expect(self.page.get_by_label("Hand tray").get_by_text("Chin", exact=True)).to_be_visible()
        below = (tip[0], tip[1] + 18)
        before = self.pixels(*below)
        self.drag(tip, (0.0, 16.0))
        self.until_painted(*below, before)
        one = self.edit().passes[-1]
        self.assertEqual(one.kind, "proportions")
        self.assertGreater(float(one.settings["face_chin"]), 1.5)  # type: ignore[arg-type]
        card = self.page.get_by_role("complementary", name="Passes")
        expect(card.get_by_label("Readings").get_by_text("Moved")).to_be_visible()
        # The pointer goes through the map: the same place is taken hold of where it is now.
        self.page.mouse.move(*self.at(*tip))
        expect(self.page.get_by_label("Hand tray").get_by_text("Chin", exact=True)).to_be_visible()
        # Back again: every pixel as it was.
        self.page.keyboard.press("Control+z")
        self.saved()
        self.sharp()
        np.testing.assert_array_equal(self.pixels(*below), before)

    def test_one_eye_and_then_the_other(self) -> None:
        self.begin("eli")
        corner = self.point(lm.CORNER_R)
        self.zoom_to(*corner)
        self.moves.get_by_role("button", name="Pull").click()
        before = self.pixels(*corner)
        self.drag(corner, (0.0, -8.0))
        self.until_painted(*corner, before)
        self.saved()
        own = self.edit().passes[-1].settings
        self.assertEqual((own["eye_tilt_right"] != 0, own["eye_tilt_left"]), (True, 0.0))
        self.page.mouse.click(*self.at(*corner))
        self.saved()
        own = self.edit().passes[-1].settings
        self.assertEqual(own["eye_tilt_left"], own["eye_tilt_right"])

    def test_strokes_are_touches_and_the_hand_finds_what_it_moved(self) -> None:
        self.begin("eli")
        x, y = self.point(JAW_R)
        self.zoom_to(x, y)
        self.moves.get_by_role("button", name="Nudge").click()
        self.brush(90)
        before = self.pixels(x + 10, y)
        self.drag((x, y), (30.0, 0.0))
        self.until_painted(x + 10, y, before)
        touch = self.edit().passes[-1].touches[0]
        self.assertEqual(touch.values["act"], "push")
        far = self.pixels(x + 220, y - 150)
        # A second stroke begins on what lies there now, which came from further left.
        before = self.pixels(x, y)
        self.drag((x, y), (0.0, -14.0))
        self.until_painted(x, y, before)
        expect(self.page.get_by_text("Stroke 2")).to_be_visible()
        first, second = self.edit().passes[-1].touches
        self.assertLess(second.path[0][0], first.path[0][0] - 12)
        alone = shape_of(Edit((replace(self.edit().passes[-1], touches=(first,)),)))
        shown = alone.forth(np.array([second.path[0]]))[0]
        self.assertLess(float(np.abs(shown - (x, y)).max()), 1.5)
        np.testing.assert_array_equal(self.pixels(x + 220, y - 150), far)

    def test_an_outlined_part_is_dragged(self) -> None:
        self.begin("eli")
        x, y = self.point(lm.CHIN)
        self.zoom_to(x, y)
        self.moves.get_by_role("button", name="Move a part").click()
        ring = [
            self.at(x + 60 * np.cos(t), y - 60 + 30 * np.sin(t)) for t in np.linspace(0, 6.1, 24)
        ]
        self.page.mouse.move(*ring[0])
        self.page.mouse.down()
        for place in ring[1:]:
            self.page.mouse.move(*place)
        self.page.mouse.up()
        before = self.pixels(x, y - 60)
        self.drag((x, y - 60), (10.0, -8.0))
        self.until_painted(x, y - 60, before)
        one = self.edit().passes[-1]
        self.assertEqual((one.kind, len(one.touches)), ("part", 1))
        self.assertGreater(float(one.touches[0].values["across_px"]), 3)

    def test_numbers_in_groups_and_both_sides_together(self) -> None:
        self.begin("eli")
        self.moves.get_by_role("button", name="By numbers").click()
        panel = self.page.get_by_role("complementary", name="Passes")
        panel.locator("summary", has_text="Brows").click()
        up = panel.get_by_role("textbox", name="Up, number")
        up.fill("2")
        up.press("Enter")
        self.saved()
        own = self.edit().passes[-1].settings
        self.assertEqual((own["brow_up_right"], own["brow_up_left"]), (2.0, 2.0))
        panel.get_by_role("button", name="Both sides").click()
        left = panel.get_by_role("textbox", name="Left up, number")
        left.fill("-1")
        left.press("Enter")
        self.saved()
        own = self.edit().passes[-1].settings
        self.assertEqual((own["brow_up_right"], own["brow_up_left"]), (2.0, -1.0))

"""Features by hand: Bright, a pass with its numbers and sides, red eyes."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import expect

from retouch.edit import Edit
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, rows
from studio.tests.browser.base import BrowserTest


class Features(BrowserTest):
    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def test_bright_then_teeth_beyond_their_ceiling(self) -> None:
        self.in_features("eli")
        analysis = analysing.result(self.one)
        assert analysis is not None
        x, y = analysis.faces[0].points[[13, 14], :2].mean(0)
        cheek = self.pixels(float(x) + 250, float(y) - 150)
        tooth = self.pixels(float(x), float(y))
        self.page.get_by_role("button", name="Bright", exact=True).click()
        self.until_painted(float(x), float(y), tooth)
        np.testing.assert_array_equal(self.pixels(float(x) + 250, float(y) - 150), cheek)
        panel = self.page.get_by_role("complementary", name="Passes")
        card = panel.get_by_role("button", name="Teeth", exact=True)
        if card.get_attribute("aria-expanded") != "true":
            card.click()
        readings = panel.get_by_label("Readings")
        expect(readings.get_by_text("Whiteness")).to_be_visible()
        expect(readings.locator(".mg-warn")).to_have_count(0)
        yellow = panel.get_by_role("textbox", name="Less yellow, number")
        yellow.fill("100")
        yellow.press("Enter")
        panel.get_by_role("switch", name="Beyond the ceiling").click()
        expect(readings.locator(".mg-warn").get_by_text("Ivory")).to_be_visible()
        self.assertTrue(self.edit().passes[-1].settings["beyond"])

    def test_one_side_is_chosen(self) -> None:
        self.in_features("eli")
        self.add_pass("Irises")
        self.saved()
        self.page.get_by_role("group", name="Side of the face").get_by_role(
            "button", name="Left"
        ).click()
        self.assertEqual({a.side for a in self.edit().passes[0].mask.areas}, {"left"})  # type: ignore[union-attr]

    def test_settings_are_kept_and_painted_on_by_hand(self) -> None:
        self.in_features("eli")
        self.add_pass("Lips")
        self.saved()
        panel = self.page.get_by_role("complementary", name="Passes")
        richer = panel.get_by_role("textbox", name="Richer, number")
        richer.fill("90")
        richer.press("Enter")
        self.saved()
        panel.get_by_role("button", name="Keep settings").click()
        panel.get_by_role("textbox", name="Name of the settings").fill("Cherry")
        panel.get_by_role("button", name="Keep", exact=True).click()
        expect(panel.get_by_role("button", name="Keep settings")).to_be_visible()
        self.page.get_by_role("button", name="Pass", exact=True).click()
        self.page.get_by_role("button", name="Paint Cherry").click()
        expect(self.page.get_by_role("button", name="Ease", pressed=True).first).to_be_visible()
        edit = self.edit()
        made = next(p for p in edit.passes if p.name == "Cherry")
        self.assertEqual((made.settings["richer"], made.mask.areas), (90, ()))
        self.assertTrue(made.mask.invert)
        # A cheek gets richer where it is painted, and nowhere else.
        before = self.pixels(560, 1100)
        self.page.mouse.click(*self.at(560, 1100))
        self.until_painted(560, 1100, before)

    def test_red_eyes_are_darkened_by_one_click_or_by_hand(self) -> None:
        self.in_features("ana-flash")
        card = self.page.get_by_role("region", name="Red eyes")
        expect(card.get_by_text("2 found")).to_be_visible()
        analysis = analysing.result(self.one)
        assert analysis is not None
        face = analysis.faces[0]
        card.get_by_role("button", name="Right eye").click()
        expect(card.get_by_text("1 found")).to_be_visible()
        # The other one by hand.
        card.get_by_role("button", name="By hand").click()
        iris = face.left_iris
        x, y = 844.5, 819.5
        self.assertLess(np.hypot(iris.x - x, iris.y - y), iris.radius)
        before = self.pixels(x, y, half=2)
        self.page.mouse.click(*self.at(x, y))
        self.until_painted(x, y, before)
        self.assertLess(float(self.pixels(x, y, half=2).mean()), 70)
        expect(card.get_by_text("darkened")).to_be_visible()
        touches = next(p for p in self.edit().passes if p.kind == "red_eye").touches
        self.assertEqual(len(touches), 2)

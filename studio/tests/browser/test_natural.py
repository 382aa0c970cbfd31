"""The natural check in the bench: asked for, told with its place, old once something changes."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from studio.tests.browser.base import BrowserTest


class Natural(BrowserTest):
    def test_what_is_beyond_is_told_and_shown(self) -> None:
        self.in_features("eli")
        page = self.page
        part = page.get_by_role("region", name="Natural check")
        part.get_by_role("button", name="Natural?").click()
        expect(part.get_by_text("readings within limits")).to_be_visible()
        # Far too light: it clips, and the skin is another one.
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        page.get_by_role("button", name="Pass", exact=True).click()
        page.locator(".dropdown-menu.show").get_by_role("button", name="Light", exact=True).click()
        number = page.get_by_role("textbox", name="Exposure, number")
        number.fill("1.5")
        number.press("Enter")
        self.saved()
        expect(part.get_by_text("before the last steps")).to_be_visible()
        part.get_by_role("button", name="Natural?").click()
        listed = part.get_by_role("list", name="Beyond the limits")
        expect(listed.get_by_text("Clipped")).to_be_visible()
        # The pass that causes it is taken back, as one step that can be undone; it is read again.
        part.get_by_role("button", name="Ease Clipped").click()
        expect(listed.get_by_text("Clipped")).to_have_count(0)
        strength = page.get_by_role("textbox", name="Strength, number").first
        self.assertTrue(0 < float(strength.input_value()) < 100)
        page.get_by_role("button", name="Undo").click()
        self.saved()
        part.get_by_role("button", name="Natural?").click()
        expect(part.get_by_role("button", name="Ease Clipped")).to_be_enabled()
        shift = listed.get_by_role("button", name=re.compile(r"^\d+ Colour shift"))
        expect(shift).to_be_enabled()
        shown = self.picture().screenshot()
        shift.click()
        self.sharp()
        self.assertNotEqual(self.picture().screenshot(), shown)

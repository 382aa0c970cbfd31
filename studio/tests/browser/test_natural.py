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

    def test_since_when_where_and_whether_it_would_be_seen(self) -> None:
        self.in_features("eli")
        page = self.page
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        self.add_pass("Light")
        for label, value in (("Contrast", "2"), ("Exposure", "1.2")):
            number = page.get_by_role("textbox", name=f"{label}, number")
            number.fill(value)
            number.press("Enter")
            self.saved()
        part = page.get_by_role("region", name="Natural check")
        part.get_by_role("button", name="Natural?").click()
        part.get_by_role("button", name="Since when: Colour shift").click()
        expect(part.get_by_text("Since step 3: Light: Exposure")).to_be_visible()
        # The zones of what lies beyond are told by the map, the places outlined in the picture.
        whites = self.picture().get_by_role("img", name=re.compile("Eye whites lifted"))
        expect(whites).to_be_visible()
        part.get_by_label("Outline the places").uncheck()
        expect(whites).to_have_count(0)
        part.get_by_role("button", name="Spot it").click()
        dialog = page.get_by_role("dialog", name="Spot the retouch")
        for n in range(1, 9):
            expect(dialog.get_by_text(f"Place {n} of 8")).to_be_visible()
            dialog.get_by_role("button", name="The left one").click()
        expect(dialog.get_by_text(re.compile(r"You told \d of 8 right"))).to_be_visible()
        dialog.get_by_role("button", name="Again, at other places").click()
        expect(dialog.get_by_text("Place 1 of 8")).to_be_visible()

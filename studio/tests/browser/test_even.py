"""The stage Even: a routine in one click, its texture in numbers, light by hand."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import expect

from studio.tests.browser.test_bench import SPOT, Bench


class Even(Bench):
    def stage(self) -> None:
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Even").click()

    def test_a_routine_and_how_much_texture_it_leaves(self) -> None:
        self.stage()
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=90_000)
        self.page.get_by_role("button", name="Everyday", exact=True).click()
        for name in ("Skin bands", "Redness", "Shine", "Shadows"):
            card = self.page.get_by_role("switch", name=f"{name} on or off")
            expect(card).to_be_visible(timeout=60_000)
        self.saved()
        passes = {p.kind: p for p in self.edit().passes}
        self.assertEqual(passes["redness"].settings["amount"], 50)
        self.assertNotEqual(passes["redness"].fit.values["skin_l"], 65.0, "not fitted to the face")
        self.assertGreater(len(passes["heal"].touches), 5)
        self.page.get_by_role("button", name="Texture").click()
        cell = self.page.get_by_role("row", name=re.compile("^Forehead")).get_by_role("cell").first
        expect(cell).to_have_text(re.compile(r"^(8[5-9]|9\d|10\d) %$"), timeout=30_000)
        mapped = self.page.get_by_role("group", name="Zones of the face")
        expect(
            mapped.get_by_role("button", name=re.compile("^Forehead.*texture \\d+ %"))
        ).to_have_count(1)
        self._found_is_shown()
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("switch", name="Redness on or off")).to_have_count(0)

    def _found_is_shown(self) -> None:
        """What a pass works on, amplified on grey; where it finds nothing, grey alone."""
        self.page.keyboard.press("0")
        expect(self.picture()).to_have_attribute("data-sharp", "true")
        before = self.pixels(30, 30)
        self.page.get_by_role("button", name="Redness", exact=True).click()
        found = self.page.get_by_role("button", name="Show what is found")
        found.click()
        grey = self.until_painted(30, 30, before)
        self.assertLess(float(np.abs(grey - 127.5).max()), 4)
        found.click()
        again = self.until_painted(30, 30, grey)
        self.assertLess(float(np.abs(again - before).max()), 4)

    def test_a_colour_is_pressed_and_dragged_lighter(self) -> None:
        self.stage()
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=90_000)
        before = self.pixels(*SPOT)
        self.page.get_by_role("button", name="Press a colour").click()
        x, y = self.at(*SPOT)
        with self.page.expect_response(lambda r: "/sample" in r.url):
            self.page.mouse.move(x, y)
            self.page.mouse.down()
        self.page.mouse.move(x, y - 120, steps=4)
        lighter = self.until_painted(*SPOT, before)
        self.assertGreater(lighter.mean(), before.mean() + 5)
        self.page.mouse.up()
        expect(self.page.get_by_role("switch", name="One colour on or off")).to_be_visible(
            timeout=30_000
        )
        self.saved()
        (one,) = self.edit().passes
        self.assertEqual(one.settings["light"], 12.0)
        self.assertEqual(one.settings["towards"], 0.0)

    def test_the_neck_is_brought_to_the_face(self) -> None:
        self.stage()
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=90_000)
        self.page.get_by_role("button", name="Neck to face").click()
        expect(self.page.get_by_role("switch", name="Neck to face on or off")).to_be_visible(
            timeout=30_000
        )
        self.saved()
        (one,) = self.edit().passes
        zones = [a.zone for a in one.mask.areas]  # type: ignore[union-attr]
        self.assertEqual(zones, ["neck", "other_skin"])
        self.assertNotEqual(one.fit.values["skin_l"], 65.0, "the face's own colour is the target")

    def test_dodge_lightens_and_burn_darkens(self) -> None:
        before = self.pixels(*SPOT)
        self.page.keyboard.press("a")
        self.brush(40)
        tray = self.page.get_by_role("contentinfo", name="Hand tray")
        exposure = tray.get_by_role("textbox", name="Exposure, number")
        exposure.fill("60")
        exposure.press("Enter")
        exposure.blur()
        self.page.mouse.click(*self.at(*SPOT))
        lighter = self.until_painted(*SPOT, before)
        self.assertGreater(lighter.mean(), before.mean() + 5)
        self.page.keyboard.press("a")
        expect(tray.get_by_role("button", name="Burn: darker")).to_be_visible()
        self.page.mouse.click(*self.at(*SPOT))
        darker = self.until_painted(*SPOT, lighter)
        self.assertLess(darker.mean(), lighter.mean() - 5)
        self.saved()
        (one,) = self.edit().passes
        self.assertEqual([t.values["way"] for t in one.touches], ["dodge", "burn"])

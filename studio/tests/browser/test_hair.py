"""Hair and clothing in the window: strands thinned out and kept, the outline drawn, lint cleared."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Locator, expect

from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.picture import read
from studio.portraits.models import Portrait
from studio.portraits.services import desk, rows
from studio.tests.browser.base import BrowserTest

_STRANDS = np.abs(
    np.subtract(
        *(read(DEMO / "portraits" / f"{n}.jpg").pixels.astype(int) for n in ("ana-fly", "ana"))
    )
).mean(-1)


def seen_strand(place: tuple[float, float]) -> float:
    """How clearly a strand is seen at a place of the demo portrait with loose strands."""
    x, y = int(place[0]), int(place[1])
    return float(_STRANDS[max(y - 3, 0) : y + 4, max(x - 3, 0) : x + 4].mean())


class HairAndClothing(BrowserTest):
    def begin(self, name: str) -> None:
        self.in_features(name)
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Shape").click()

    def card(self, name: str) -> Locator:
        return self.page.get_by_role("region", name=name, exact=True)

    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def test_strands_are_thinned_kept_and_the_outline_is_drawn(self) -> None:
        self.begin("ana-fly")
        hair = self.card("Hair")
        hair.get_by_role("button", name="Clear loose strands").click()
        counted = hair.get_by_text(re.compile(r"^\d+ of \d+ strands cleared$"))
        expect(counted).to_be_visible()
        cleared, found = (int(n) for n in re.findall(r"\d+", counted.inner_text()))
        self.assertGreater(found, 150)
        self.assertEqual(cleared, round(0.8 * found))

        # A click on one that is cleared keeps it, and shows it again.
        hair.get_by_role("button", name="Strands", exact=True).click()
        places = [
            place
            for p in self.edit().passes
            for t in p.touches
            if p.kind == "strands" and t.enabled
            for place in t.path[2:-2]
        ]
        x, y = max(places, key=seen_strand)
        self.sharp()
        before = self.pixels(x, y, half=3)
        self.page.mouse.click(*self.at(x, y))
        expect(counted).to_have_text(f"{cleared - 1} of {found} strands cleared")
        self.until_painted(x, y, before)

        number = hair.get_by_label("Thin out, number")
        number.fill("0")
        number.press("Enter")
        expect(counted).to_have_text(f"0 of {found} strands cleared")

        hair.get_by_role("button", name="Outline", exact=True).click()
        hair.get_by_role("button", name="Draw outline").click()
        (before_line,) = (p.touches[0].path for p in self.edit().passes if p.kind == "hair_outline")
        start, end = self.at(800, 330), self.at(1300, 330)
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move((start[0] + end[0]) / 2, start[1] - 30, steps=5)
        self.page.mouse.move(*end, steps=5)
        self.page.mouse.up()
        undo = self.page.get_by_role("button", name="Undo")
        expect(undo).to_have_attribute("title", re.compile("Hair outline mended"))
        self.saved()
        (after_line,) = (p.touches[0].path for p in self.edit().passes if p.kind == "hair_outline")
        self.assertLess(min(y for _, y in after_line), min(y for _, y in before_line))

        feather = hair.get_by_label("Feather, number")
        expect(feather).to_have_value("1")
        feather.fill("4")
        feather.press("Enter")
        expect(undo).to_have_attribute("title", re.compile("touches"))
        self.saved()
        told = {t.values["feather_px"] for p in self.edit().passes for t in p.touches}
        self.assertEqual(told, {4.0})

    def test_lint_goes_and_cloth_takes_another_hue(self) -> None:
        self.begin("bela-stain")
        # On the blue shirt.
        plain = self.pixels(500, 2350)
        clothing = self.card("Clothing")
        clothing.get_by_role("button", name="Clear lint").click()
        panel = self.page.get_by_role("complementary", name="Passes")
        expect(panel.get_by_role("button", name=re.compile(r"^Lint\d*$"))).to_be_visible()
        kinds = [p.kind for p in self.edit().passes]
        self.assertEqual(sorted(kinds), ["heal", "lint"])
        clothing.get_by_role("button", name="Creases, colour").click()
        number = panel.get_by_role("textbox", name="Turn the hue, number")
        number.fill("120")
        number.press("Enter")
        turned = self.until_painted(500, 2350, plain)
        # Blue has turned to red.
        self.assertGreater(plain[..., 2].mean(), plain[..., 0].mean() + 8)
        self.assertGreater(turned[..., 0].mean(), turned[..., 2].mean() + 8)

    def test_the_head_is_turned_and_it_is_told(self) -> None:
        self.begin("eli")
        moves = self.card("Moves")
        moves.get_by_role("button", name="By numbers").click()
        panel = self.page.get_by_role("complementary", name="Passes")
        # Its numbers are in sight, and pressed again it opens the same ones.
        expect(panel.locator("summary", has_text=re.compile(r"^Eyes"))).to_be_in_viewport()
        moves.get_by_role("button", name="By numbers").click()
        expect(panel.get_by_role("button", name="Proportions", exact=True)).to_have_count(1)
        panel.locator("summary", has_text=re.compile(r"^Head")).click()
        number = panel.get_by_role("textbox", name="Turn, number")
        number.fill("3")
        number.press("Enter")
        self.saved()
        moves.get_by_text("Everything moved").click()
        listed = moves.get_by_role("list", name="Everything moved").get_by_role("listitem")
        expect(listed).to_contain_text("Head: turn +3 °")
        expect(listed).to_contain_text(re.compile(r"\d\.\d mm, \d\.\d % of the face's height"))

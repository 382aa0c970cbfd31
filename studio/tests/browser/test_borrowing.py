"""Glasses taken off, eyes borrowed, a source in another picture: by hand."""

from __future__ import annotations

from playwright.sync_api import expect

from studio.portraits.models import Portrait
from studio.portraits.services import desk, rows
from studio.tests.browser.base import BrowserTest


class Borrowing(BrowserTest):
    def test_glasses_off(self) -> None:
        self.in_features("bela-glasses")
        card = self.page.get_by_role("region", name="Glasses")
        expect(card.get_by_text("3 glares")).to_be_visible()
        card.get_by_role("button", name="Show").click()
        expect(card.get_by_role("button", name="Show", pressed=True)).to_be_visible()
        card.get_by_role("button", name="Show").click()
        rim = self.pixels(800, 1314, half=3)
        card.get_by_role("button", name="Glasses off").click()
        expect(self.page.get_by_role("progressbar", name="How much is done")).to_be_visible()
        self.until_painted(800, 1314, rim)
        self.assertGreater(float(self.pixels(800, 1314, half=3).mean() - rim.mean()), 30)
        expect(card.get_by_text("found")).to_be_visible()
        self.page.get_by_role("button", name="Undo").click()
        expect(card.get_by_text("3 glares")).to_be_visible()

    def test_eyes_and_a_source_from_another_portrait(self) -> None:
        other = self.portrait("dan")
        self.in_features("dan-blink")
        card = self.page.get_by_role("region", name="Borrow")
        card.get_by_label("Borrow from").select_option(label=other.name)
        lid = self.pixels(600, 815, half=6)
        card.get_by_role("button", name="Both eyes").click()
        # The faces of the other portrait may have to be found first.
        expect(card.get_by_text("Laying it in place")).to_have_count(0, timeout=240_000)
        self.until_painted(600, 815, lid)
        panel = self.page.get_by_role("complementary", name="Passes")
        expect(
            panel.get_by_role("button", name=f"Borrowed from {other.name}").first
        ).to_be_visible()
        # The other picture beside this one: what Alt-click chooses there is cloned here.
        card.get_by_role("button", name="Beside").click()
        beside = self.page.get_by_role("figure", name=f"Beside: {other.name}")
        expect(beside.get_by_role("img", name=other.name)).to_be_visible()
        self.page.get_by_role("button", name="Clone", exact=True).click()
        beside.get_by_role("img", name=other.name).click(
            modifiers=["Alt"], position={"x": 40, "y": 200}
        )
        before = self.pixels(500, 1400)
        self.page.mouse.click(*self.at(500, 1400))
        self.until_painted(500, 1400, before)
        self.saved()
        desk.forget_all()
        edit = rows.load(Portrait.objects.get(pk=self.one.pk)).edit
        clone = next(p for p in edit.passes if p.kind == "clone").touches[0]
        assert clone.elsewhere is not None
        self.assertEqual(clone.elsewhere.picture, other.sha256)

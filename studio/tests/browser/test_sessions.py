"""Sessions in the window: folders on the wall, what is said about many portraits, one look and marks over them."""

from __future__ import annotations

import io
import re

from playwright.sync_api import Locator, expect

from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, library
from studio.tests.base import portrait_file
from studio.tests.browser.base import BrowserTest


class Sessions(BrowserTest):
    def session(self, name: str) -> Locator:
        """A new session, all portraits shown; the list of sessions."""
        # All is there: nothing moves under the pointer any more.
        expect(self.page.get_by_text("megapixels and")).to_be_visible()
        expect(self.page.get_by_role("list", name="Portraits")).to_be_visible()
        self.page.get_by_role("button", name="New session").click()
        self.page.get_by_label("Name of the new session").fill(name)
        self.page.keyboard.press("Enter")
        sessions = self.page.get_by_role("navigation", name="Sessions")
        expect(sessions.get_by_role("button", name=f"{name} (0)", pressed=True)).to_be_visible()
        sessions.get_by_role("button", name="All", exact=True).click()
        return sessions

    def test_portraits_are_moved_starred_flagged_and_found_again(self) -> None:
        for name in ("Ana", "Bela", "Chi"):
            data = portrait_file()
            library.take_in(self.user, io.BytesIO(data), f"{name}.png", len(data))
        page = self.page
        page.goto(self.live_server_url)
        sessions = self.session("Monday")
        for name in ("Ana", "Chi"):
            page.get_by_label(f"Pick {name}", exact=True).check()
        picked = page.get_by_role("region", name="Picked portraits")
        picked.get_by_role("button", name="Move to").click()
        page.get_by_role("button", name="Monday", exact=True).click()
        expect(sessions.get_by_role("button", name="Monday (2)")).to_be_visible()
        picked.get_by_role("button", name="Flag").click()
        page.get_by_role("button", name="look again", exact=True).click()
        wall = page.get_by_role("list", name="Portraits")
        expect(wall.get_by_text("look again")).to_have_count(2)
        page.get_by_role("button", name="Star Chi", exact=True).click()
        page.get_by_label("starred only").check()
        expect(wall.get_by_role("listitem")).to_have_count(1)
        page.get_by_label("starred only").uncheck()
        page.get_by_label("Find by name").fill("an")
        expect(wall.get_by_role("listitem")).to_have_count(1)
        expect(wall.get_by_text("Ana", exact=True)).to_be_visible()
        page.get_by_label("Find by name").fill("")
        sessions.get_by_role("button", name="In no session").click()
        expect(wall.get_by_role("listitem")).to_have_count(1)
        sessions.get_by_role("button", name="Monday (2)").click()
        expect(wall.get_by_role("listitem")).to_have_count(2)
        # A name that is dropped leaves the old one, one that is left stands.
        for key, name in (("Escape", "Monday"), ("Tab", "Tuesday")):
            page.get_by_role("button", name="More for the session Monday").click()
            page.get_by_role("button", name="Rename", exact=True).click()
            page.get_by_label("Name of the session", exact=True).fill("Tuesday")
            page.keyboard.press(key)
            expect(sessions.get_by_role("button", name=f"{name} (2)")).to_be_visible()
        page.get_by_role("button", name="More for the session Tuesday").click()
        page.get_by_role("button", name="Take the session away").click()
        expect(sessions.get_by_role("button", name="Tuesday")).to_have_count(0)
        expect(wall.get_by_role("listitem")).to_have_count(3)
        self.assertEqual(Portrait.objects.filter(session=None).count(), 3)

    def test_keys_go_from_portrait_to_portrait_pick_and_open(self) -> None:
        for name in ("Ana", "Bela", "Chi"):
            data = portrait_file()
            library.take_in(self.user, io.BytesIO(data), f"{name}.png", len(data))
        page = self.page
        page.goto(self.live_server_url)
        # The latest stands first.
        page.get_by_role("link", name="Open Chi", exact=True).focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("link", name="Open Bela", exact=True)).to_be_focused()
        page.keyboard.press("Space")
        expect(page.get_by_label("Pick Bela", exact=True)).to_be_checked()
        page.keyboard.press("End")
        page.keyboard.press("Space")
        expect(page.get_by_role("region", name="Picked portraits")).to_contain_text("2")
        page.keyboard.press("Space")
        expect(page.get_by_label("Pick Ana", exact=True)).not_to_be_checked()
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Ana")).to_be_visible()

    def test_one_look_and_decisions_over_a_session(self) -> None:
        page = self.page
        one, two = self.portrait("dan"), self.portrait("dan-blink")
        for portrait in (one, two):
            self.open(portrait)
            expect(page.get_by_role("button", name="Sweep")).to_be_visible(timeout=120_000)
        self.assertIsNotNone(analysing.result(one))
        page.goto(self.live_server_url)
        self.session("Dan")
        for name in ("dan", "dan-blink"):
            page.get_by_label(f"Pick {name}", exact=True).check()
        page.get_by_role("button", name="Move to").click()
        page.get_by_role("button", name="Dan", exact=True).click()
        expect(page.get_by_role("button", name="Dan (2)")).to_be_visible()
        # One is made darker; the other is matched to it.
        self.open(one)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        self.add_pass("Light")
        number = page.get_by_role("textbox", name="Exposure, number")
        number.fill("-0.8")
        number.press("Enter")
        self.saved()
        self.open(two)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        at = (750.0, 1100.0)
        before = self.pixels(*at)
        page.get_by_label("Match to").select_option("dan")
        after = self.until_painted(*at, before)
        self.assertLess(float(after.mean()), float(before.mean()) - 15)
        expect(page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile(r"Matched to dan: skin CIEDE2000 \d+\.\d to [01]\.\d")
        )
        self.saved()
        # What is decided here is offered there.
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Clear").click()
        marks = page.get_by_role("region", name="Marks", exact=True)
        marks.get_by_label("Show marks").check()
        expect(marks.get_by_text("Seen on 1 more picture of this person")).to_be_visible()
        marks.get_by_role("button", name="Keep", exact=True).click()
        self.saved()
        self.open(one)
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Clear").click()
        if not marks.get_by_label("Show marks").is_checked():
            marks.get_by_label("Show marks").check()
        marks.get_by_role("button", name="Keep those").click()
        self.saved()
        desk.forget_all()
        edit = desk.edit_of(Portrait.objects.get(pk=one.pk))
        decisions = [
            t.values["decision"] for p in edit.passes if p.kind == "marks" for t in p.touches
        ]
        self.assertGreater(len(decisions), 10)
        self.assertEqual(set(decisions), {"keep"})

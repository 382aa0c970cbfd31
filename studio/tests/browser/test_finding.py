"""Find by saying: a need in plain words leads to what serves it, ready to start; by keys alone."""

from __future__ import annotations

from playwright.sync_api import expect

from studio.tests.browser.base import BrowserTest


class Finding(BrowserTest):
    def say(self, need: str, title: str) -> None:
        self.page.keyboard.press("/")
        self.page.keyboard.type(need)
        found = self.page.get_by_role("listbox", name="What serves it")
        expect(found.get_by_role("option", selected=True)).to_contain_text(title)
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("dialog", name="Find by saying")).to_have_count(0)

    def test_a_pass_a_panel_a_hand_and_a_page(self) -> None:
        self.in_features("eli")
        page = self.page
        self.say("yellow teeth", "Teeth")
        expect(page.get_by_role("switch", name="Teeth on or off")).to_be_visible()
        # Its first setting is in the hand: a key changes it.
        slider = page.get_by_role("slider", name="Less yellow")
        expect(slider).to_be_focused()
        self.saved()
        page.evaluate("document.activeElement.blur()")
        # A setting in a folded group as well; asked for again, it is the same pass.
        for _ in range(2):
            self.say("narrower nose", "Proportions: nose")
            nose = page.locator("details", has_text="Nose").get_by_role("slider", name="Width")
            expect(nose).to_be_focused()
            page.keyboard.press("ArrowLeft")
            self.saved()
            page.evaluate("document.activeElement.blur()")
        (shape,) = self.one.passes.filter(kind="proportions")
        self.assertLess(shape.settings["nose_width"], 0)
        self.say("crop to a square", "Frame")
        expect(page.get_by_role("button", name="Lines behind")).to_be_visible()
        page.evaluate("document.activeElement.blur()")
        self.say("get rid of the cable", "Fill")
        tray = page.get_by_role("contentinfo", name="Hand tray")
        expect(tray.get_by_role("button", name="Fill", pressed=True)).to_be_visible()
        self.say("my own preset", "Routines")
        expect(page.get_by_role("heading", name="Routines")).to_be_visible()

    def test_enter_before_the_answer_goes_to_the_first_that_is_found(self) -> None:
        self.in_features("eli")
        page = self.page
        page.keyboard.press("/")
        page.keyboard.type("everyday routine")
        page.keyboard.press("Enter")
        expect(page.get_by_role("dialog", name="Find by saying")).to_have_count(0)
        expect(page.get_by_role("button", name="Everyday")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("switch", name="Even on or off")).to_be_visible()
        self.saved()
        self.assertGreater(self.one.passes.count(), 3)
        # Space is the key of moving the picture, too; on what was reached by keys it presses.
        on = page.get_by_role("switch", name="Even on or off")
        page.get_by_role("heading", name="Even", level=2).evaluate(
            "e => (e.tabIndex = -1, e.focus())"
        )
        page.keyboard.press("Tab")
        expect(on).to_be_focused()
        page.keyboard.press("Space")
        expect(on).not_to_be_checked()
        # What a click has left the focus on doesn't take it: the hand goes on at the picture.
        on.click()
        expect(on).to_be_checked()
        page.keyboard.press("Space")
        expect(on).to_be_checked()

    def test_what_is_not_there_is_said(self) -> None:
        self.in_features("ivo")
        page = self.page
        page.keyboard.press("/")
        page.keyboard.type("qqqq zzzz")
        expect(page.get_by_text("Nothing is found for that")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog", name="Find by saying")).to_have_count(0)
        self.say("reflection in glasses", "Glasses")
        expect(page.get_by_role("region", name="Glasses")).to_contain_text("none found")

"""Working light, a second window, tablets, the first retouch, and the card that shows what the hand works in."""

from __future__ import annotations

import io

from PIL import Image
from playwright.sync_api import expect

from studio.tests.browser.base import BrowserTest

TABLET = {"width": 820, "height": 1180}


class Working(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")

    def test_the_surround_is_set_and_everything_hides_but_the_picture(self) -> None:
        self.open(self.one)
        page = self.page

        def around() -> list[int]:
            # Beside the fitted picture.
            box = self.picture().bounding_box()
            assert box is not None
            return list(self.pixels_of_screen(box["x"] + 4, box["y"] + 4))

        seen = {}
        for name in ("Dark", "Light", "Mid"):
            # Opened, closed and opened again without a pause: it is there.
            box = page.get_by_role("button", name="Working light").bounding_box()
            assert box is not None
            page.mouse.click(box["x"] + 8, box["y"] + 8)
            page.keyboard.press("Escape")
            page.mouse.click(box["x"] + 8, box["y"] + 8)
            page.get_by_role("button", name=name, exact=True).click()
            page.keyboard.press("Escape")
            self.sharp()
            seen[name] = around()
            self.assertEqual(len(set(seen[name])), 1, f"{name} isn't neutral: {seen[name]}")
        self.assertTrue(seen["Dark"][0] < seen["Mid"][0] < seen["Light"][0], seen)
        page.keyboard.press("\\")
        expect(page.get_by_role("banner")).to_be_hidden()
        box = self.picture().bounding_box()
        assert box is not None
        self.assertEqual((box["width"], box["height"]), (1280, 800))
        page.get_by_role("button", name="Everything").click()
        expect(page.get_by_role("banner")).to_be_visible()

    def pixels_of_screen(self, x: float, y: float) -> tuple[int, ...]:
        shot = self.page.screenshot(clip={"x": x, "y": y, "width": 1, "height": 1})
        pixel = Image.open(io.BytesIO(shot)).convert("RGB").getpixel((0, 0))
        assert isinstance(pixel, tuple)
        return tuple(int(v) for v in pixel)

    def test_a_second_window_follows(self) -> None:
        self.open(self.one)
        page = self.page
        page.get_by_role("button", name="Working light").click()
        with self.context.expect_page() as waiting:
            page.get_by_role("button", name="Second window").click()
        whole = waiting.value
        picture = whole.get_by_role("img", name="eli, as it stands")
        expect(picture).to_be_visible()
        first = picture.get_attribute("src")
        page.bring_to_front()
        page.keyboard.press("Escape")
        self.zoom_to(960, 1050)
        outline = whole.locator(".mg-whole span")
        expect(outline).to_have_count(1)
        self.heal(960, 1050)
        expect(picture).not_to_have_attribute("src", first or "")

    def test_a_tablet_held_upright(self) -> None:
        own = self.browser.new_context(viewport=TABLET, has_touch=True, is_mobile=True)  # type: ignore[arg-type]
        self.addCleanup(own.close)
        own.add_cookies(self.context.cookies())  # type: ignore[arg-type]
        page = own.new_page()
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        self.open(self.one, page)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), TABLET["width"])
        for name in ("Deliver", "Natural?", "Undo", "Heal"):
            expect(page.get_by_role("button", name=name, exact=True)).to_be_in_viewport()
        small = page.evaluate(
            """[...document.querySelectorAll('.mg-tray button, .mg-top button')]
               .filter(b => b.offsetWidth && (b.offsetWidth < 40 || b.offsetHeight < 40)).map(b => b.outerHTML.slice(0, 90))"""
        )
        self.assertEqual(small, [])
        page.touchscreen.tap(*self.at(960, 1050, page))
        expect(page.get_by_role("button", name="Spot 1")).to_be_visible()

    def test_the_first_retouch_ticks_what_is_done_and_can_be_had_again(self) -> None:
        self.open(self.one)
        page = self.page
        guide = page.get_by_role("region", name="First retouch")
        current = guide.locator("[aria-current=step]")
        expect(current).to_contain_text("Zoom in")
        self.zoom_to(960, 1050)
        expect(current).to_contain_text("Click a spot")
        self.heal(960, 1050)
        expect(current).to_contain_text("Hold Q")
        page.keyboard.down("q")
        expect(current).to_contain_text("Open Even")
        page.keyboard.up("q")
        guide.get_by_role("button", name="Not now").click()
        expect(guide).to_have_count(0)
        page.reload()
        self.sharp()
        expect(guide).to_have_count(0)
        page.goto(f"{self.live_server_url}/help")
        page.get_by_role("button", name="Show the first retouch again").click()
        self.open(self.one)
        expect(current).to_contain_text("Zoom in")

    def test_the_card_shows_what_the_hand_works_in(self) -> None:
        self.open(self.one)
        page = self.page
        stages = page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Finish").click()
        page.keyboard.press("a")
        self.zoom_to(960, 1050)
        page.mouse.click(*self.at(960, 1050))
        expect(stages.get_by_role("button", name="Even")).to_have_attribute("aria-current", "step")
        expect(page.get_by_role("switch", name="Light by hand on or off")).to_be_visible()

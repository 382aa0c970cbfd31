"""A client's page from sending to signing off: on a phone, by keyboard, and what the bench makes of it."""

from __future__ import annotations

from django.core.cache import cache
from playwright.sync_api import Page, expect

from studio.clients.models import ClientLink, Pin
from studio.tests.browser.base import PATIENCE, BrowserTest

# The narrowest phone there is to be at home on.
PHONE = {"width": 320, "height": 640}


class Clients(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()

    def link(self, **wish: object) -> str:
        """The address of a link to a demo portrait, made in the studio's own window."""
        self.one = self.portrait("eli")
        page = self.page
        page.goto(self.live_server_url)
        page.get_by_role("checkbox", name=f"Pick {self.one.name}").check()
        page.get_by_role("button", name="Show to a client…").click()
        dialog = page.get_by_role("dialog")
        for label, value in wish.items():
            dialog.get_by_label(label).fill(str(value))
        dialog.get_by_role("button", name="Make the link").click()
        return dialog.get_by_role("textbox", name="Address for the client").input_value()

    def visitor(self, address: str, **context: object) -> Page:
        """A window of somebody who isn't signed in; other places than ours may not be asked."""
        own = self.browser.new_context(**context)  # type: ignore[arg-type]
        self.addCleanup(own.close)
        own.set_default_timeout(PATIENCE)
        page = own.new_page()
        page.on("pageerror", lambda error: self.problems.append(str(error)))
        page.on(
            "request",
            lambda r: (
                None
                if r.url.startswith((self.live_server_url, "data:", "blob:"))
                else self.problems.append(r.url)
            ),
        )
        page.goto(address)
        return page

    def loaded(self, page: Page, name: str) -> None:
        page.wait_for_function(
            "name => { const i = document.querySelector(`img[alt='${name}']`); return i && i.complete && i.naturalWidth > 0 }",
            arg=name,
        )

    def test_from_sending_to_signing_off_on_a_phone(self) -> None:
        address = self.link(Title="For Ada", **{"Pass phrase": "blue sky"})
        page = self.visitor(
            address, viewport=PHONE, has_touch=True, is_mobile=True, device_scale_factor=2
        )
        page.get_by_label("Pass phrase").fill("blue sky")
        page.get_by_role("button", name="Look").click()
        expect(page.get_by_role("heading", name="For Ada")).to_be_visible()
        name = self.one.name
        self.loaded(page, f"{name}, retouched")
        # A pin where the finger taps, with words that stay words.
        page.get_by_role("button", name="Set a pin").click()
        box = page.get_by_role("img", name=f"{name}, retouched").bounding_box()
        assert box is not None
        page.touchscreen.tap(box["x"] + 0.4 * box["width"], box["y"] + 0.5 * box["height"])
        form = page.get_by_role("form", name="New pin")
        form.get_by_label("In your words").fill("<b>softer</b> here")
        form.get_by_role("button", name="Set the pin").click()
        pins = page.get_by_role("list", name="Pins")
        expect(pins).to_contain_text("<b>softer</b> here")
        pin = Pin.objects.get()
        self.assertAlmostEqual(pin.x_px / self.one.width, 0.4, delta=0.01)
        self.assertAlmostEqual(pin.y_px / self.one.height, 0.5, delta=0.01)
        # Wiping lays the original over the left part.
        page.get_by_role("button", name="Wipe").click()
        self.loaded(page, f"{name}, before")
        page.get_by_role("slider", name="Wipe between before and after").fill("30")
        clip = page.get_by_role("img", name=f"{name}, before").evaluate(
            "e => getComputedStyle(e).clipPath"
        )
        self.assertIn("70%", clip)
        # Nothing is wider than the phone, and what is tapped is large enough (WCAG 2.5.8 asks for 24 px).
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        small = page.evaluate(
            "[...document.querySelectorAll('button')].filter(b => Math.min(b.offsetWidth, b.offsetHeight) < 24).length"
        )
        self.assertEqual(small, 0)
        page.get_by_label("to be changed").check()
        page.get_by_role("button", name="Send my wishes").click()
        expect(page.get_by_text("Your wishes were sent")).to_be_visible()
        # On the wall and the bench.
        self.page.goto(self.live_server_url)
        expect(self.page.get_by_text("1 new wish")).to_be_visible()
        self.open(self.one)
        listed = self.page.get_by_role("region", name="Clients' pins")
        expect(listed).to_contain_text("<b>softer</b> here")
        expect(self.page.get_by_role("img", name="Pin 1: <b>softer</b> here")).to_be_visible()
        listed.get_by_role("checkbox", name="Pin 1 is done").check()
        expect(listed).to_contain_text("all done")
        self.page.goto(f"{self.live_server_url}/links")
        links = self.page.get_by_role("list", name="Links")
        expect(links).to_contain_text("1 to be changed, wishes sent")
        links.get_by_role("button", name="Show as it is now").click()
        expect(links).to_contain_text("nothing said yet")
        # The client is asked again, and signs off.
        page.reload()
        expect(page.get_by_role("list", name="Pins")).to_contain_text("done")
        page.get_by_label("fine", exact=True).check()
        page.get_by_label("Your name").fill("Ada")
        page.get_by_role("button", name="Sign off").click()
        expect(page.get_by_text("Signed off by Ada")).to_be_visible()
        expect(page.get_by_role("button", name="Set a pin")).to_have_count(0)
        self.page.reload()
        expect(links).to_contain_text("signed off by Ada")
        # Withdrawn, it is gone at once.
        links.get_by_role("button", name="Withdraw").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Withdraw").click()
        expect(links).to_contain_text("withdrawn")
        page.reload()
        expect(page.get_by_role("alert")).to_contain_text("isn't here")

    def test_by_keys_alone(self) -> None:
        page = self.visitor(self.link(), viewport={"width": 1280, "height": 800})
        name = self.one.name
        self.loaded(page, f"{name}, retouched")
        # The whole picture is seen without scrolling.
        picture = page.get_by_role("img", name=f"{name}, retouched").bounding_box()
        assert picture is not None
        self.assertLessEqual(picture["height"], 0.73 * 800)
        hold = page.get_by_role("button", name="Hold: before")
        hold.focus()
        page.keyboard.down("Enter")
        self.loaded(page, f"{name}, before")
        page.keyboard.up("Enter")
        expect(page.get_by_role("img", name=f"{name}, before")).to_have_count(0)
        page.get_by_role("button", name="Set a pin").press("Enter")
        expect(page.get_by_role("group", name="Picture, place for a pin")).to_be_focused()
        for key in ("Shift+ArrowLeft", "ArrowUp", "ArrowUp", "Enter"):
            page.keyboard.press(key)
        form = page.get_by_role("form", name="New pin")
        expect(form.get_by_label("In your words")).to_be_focused()
        page.keyboard.type("less shine")
        form.get_by_role("button", name="Set the pin").press("Enter")
        expect(page.get_by_role("list", name="Pins")).to_contain_text("less shine")
        pin = Pin.objects.get()
        self.assertAlmostEqual(pin.x_px / self.one.width, 0.4, delta=0.001)
        self.assertAlmostEqual(pin.y_px / self.one.height, 0.46, delta=0.001)
        page.get_by_role("button", name="Take pin 1 away").press("Enter")
        expect(page.get_by_role("list", name="Pins")).to_have_count(0)

    def test_never_more_pixels_than_allowed(self) -> None:
        address = self.link()
        ClientLink.objects.update(long_side=600)
        self.page.goto(f"{self.live_server_url}/links")
        self.page.get_by_role("button", name="Show as it is now").click()
        expect(self.page.get_by_role("list", name="Links")).to_contain_text("nothing said yet")
        own = self.browser.new_context(
            viewport={"width": 1600, "height": 1200}, device_scale_factor=3
        )
        self.addCleanup(own.close)
        page = own.new_page()
        page.goto(address)
        self.loaded(page, f"{self.one.name}, retouched")
        for _ in range(4):
            page.get_by_role("button", name="Larger").click()
        page.get_by_role("button", name="Wipe").click()
        self.loaded(page, f"{self.one.name}, before")
        served = page.evaluate(
            """async () => {
              const out = [];
              for (const i of document.images) {
                const b = await createImageBitmap(await (await fetch(i.currentSrc)).blob());
                out.push(Math.max(b.width, b.height));
              }
              return out;
            }"""
        )
        self.assertEqual(served, [600, 600])

"""The whole first story, on each demo portrait: open, heal, compare, deliver."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import expect

from benchmarks import scoring
from retouch.colour.depth import to_float
from retouch.picture import read
from studio.tests.browser.base import PASSWORD, BrowserTest


class Story(BrowserTest):
    def test_sign_in_first(self) -> None:
        one = self.portrait("eli")
        self.context.clear_cookies()
        self.page.goto(f"{self.live_server_url}/portraits/{one.id}")
        self.page.get_by_label("Name").fill("mira")
        self.page.get_by_label("Password").fill("wrong")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("alert")).to_contain_text("don't belong together")
        self.page.get_by_label("Password").fill(PASSWORD)
        self.page.get_by_role("button", name="Sign in").click()
        self.sharp()
        expect(self.page.get_by_role("heading", name="eli")).to_be_visible()

    def _story(self, name: str) -> None:
        person = scoring.load(name)
        # The two spots that show most, not too near to each other.
        order = sorted(person.spots, key=lambda s: -scoring.score(person.raw, person.keep, s)[0])
        spots = [order[0]]
        spots.append(
            next(s for s in order if np.hypot(s.x - spots[0].x, s.y - spots[0].y) > 6 * s.r)
        )
        one = self.portrait(name)
        self.page.goto(self.live_server_url)
        self.page.get_by_role("link", name=f"Open {name}").click()
        self.sharp()

        for spot in spots:
            self.page.keyboard.press("0")
            self.sharp()
            self.zoom_to(spot.x, spot.y)
            self.brush(round(1.3 * spot.r * 2) / 2)
            raw = self.pixels(spot.x, spot.y)
            healed = self.heal(spot.x, spot.y)

            # Held: the original. Let go: the result.
            self.page.keyboard.down("q")
            self.until_like(spot.x, spot.y, raw, 6)
            expect(self.page.get_by_text("Original", exact=True).first).to_be_visible()
            self.page.keyboard.up("q")
            self.until_like(spot.x, spot.y, healed, 0)
        touches = self.page.get_by_role("list", name="Touches of Skin spots")
        expect(touches.get_by_role("listitem")).to_have_count(2)

        self.page.get_by_role("button", name="Deliver").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Format").select_option("png")
        path = self.download()
        self.assertEqual(path.name, f"{name} retouched.png")

        # The file: healed there, bit-identical everywhere else.
        result = read(path)
        before = read(one.original)
        ys, xs = np.mgrid[: before.height, : before.width] + 0.5
        away = np.ones((before.height, before.width), bool)
        for spot in spots:
            away &= np.hypot(xs - spot.x, ys - spot.y) > 1.3 * spot.r + 2
        np.testing.assert_array_equal(result.pixels[away], before.pixels[away])
        for spot in spots:
            raw_tone, _ = scoring.score(person.raw, person.keep, spot)
            tone, _ = scoring.score(to_float(result.pixels), person.keep, spot)
            self.assertLess(tone, raw_tone)

    def test_light_freckled_skin(self) -> None:
        self._story("ana")

    def test_lined_stubbled_skin(self) -> None:
        self._story("bela")

    def test_very_dark_skin(self) -> None:
        self._story("chi")

    def test_heavy_acne(self) -> None:
        self._story("dan")

    def test_smile(self) -> None:
        self._story("eli")

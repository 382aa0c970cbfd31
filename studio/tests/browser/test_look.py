"""Light and colour by hand: the tone strip, curves, neutral places, picked colours, raw files."""

from __future__ import annotations

import io

import numpy as np
from playwright.sync_api import expect

from demo.raw import demo
from retouch.edit import Edit, Pass
from studio.portraits.models import Portrait
from studio.portraits.services import desk, library, rows
from studio.tests.browser.base import BrowserTest


class Look(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")
        self.open(self.one)
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Look"
        ).click()

    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def of_kind(self, kind: str) -> Pass:
        return next(p for p in self.edit().passes if p.kind == kind)

    def add(self, title: str) -> None:
        self.add_pass(title)
        self.saved()
        self.sharp()

    def test_a_range_of_the_tone_strip_is_dragged(self) -> None:
        strip = self.page.get_by_role("group", name="Tones")
        shade = strip.get_by_role("slider", name="Shade")
        before = self.pixels(1000, 2200)
        box = shade.bounding_box()
        assert box is not None
        x, y = box["x"] + 15, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x, y - 80, steps=5)
        self.page.mouse.up()
        self.until_painted(1000, 2200, before)
        expect(shade).to_have_attribute("aria-valuenow", "48")
        self.assertEqual(self.of_kind("tone").settings["shade"], 48)
        shade.press("ArrowUp")
        self.saved()
        self.assertEqual(self.of_kind("tone").settings["shade"], 49)
        # Faster than answers come: one pass all the same.
        peaks = strip.get_by_role("slider", name="Peaks")
        for _ in range(4):
            peaks.press("PageDown")
        self.saved()
        tones = [p for p in self.edit().passes if p.kind == "tone"]
        self.assertEqual([p.settings["peaks"] for p in tones], [-40])
        shade.dblclick()
        expect(shade).to_have_attribute("aria-valuenow", "0")

    def test_a_point_on_a_curve(self) -> None:
        self.add("Curves")
        curve = self.page.get_by_label("Curve of light")
        box = curve.bounding_box()
        assert box is not None
        before = self.pixels(1000, 1300)
        at = (box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
        self.page.mouse.move(*at)
        self.page.mouse.down()
        self.page.mouse.move(at[0], at[1] - box["height"] * 0.2, steps=4)
        self.page.mouse.up()
        after = before
        while after.mean() < before.mean() + 10:
            # The first steps of the way may be painted before the last.
            after = self.until_painted(1000, 1300, after)
        points = self.of_kind("curves").settings["light"]
        assert isinstance(points, tuple)
        self.assertEqual(len(points), 3)
        np.testing.assert_allclose(points[1], (0.5, 0.7), atol=0.03)
        self.page.get_by_role("button", name="Point 2").dblclick()
        expect(self.page.get_by_role("button", name="Point 3")).to_have_count(0)

    def test_a_neutral_place_and_a_picked_colour(self) -> None:
        self.add("White balance")
        self.page.get_by_role("button", name="Neutral place").click()
        before = self.pixels(150, 300)
        self.page.mouse.click(*self.at(150, 300))
        after = self.until_painted(150, 300, before)
        r, g, b = after.mean((0, 1))
        self.assertLess(max(r, g, b) - min(r, g, b), 6)
        self.assertNotEqual(self.of_kind("white_balance").settings["temperature_k"], 6500)
        expect(self.page.get_by_label("Hue of the skin")).to_be_visible(timeout=120_000)

        self.add("Picked colour")
        self.page.get_by_role("button", name="Pick the colour").click()
        x, y = self.at(1000, 1500)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 80, y, steps=4)
        self.page.mouse.up()
        expect(self.page.get_by_role("textbox", name="Saturation, number")).to_have_value("40")
        self.assertEqual(self.of_kind("picked_colour").settings["richer"], 40)

    def test_proposed_and_taken_back(self) -> None:
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=120_000)
        self.page.get_by_role("button", name="Propose light and colour").click()
        expect(self.page.get_by_role("button", name="Light on or off")).to_have_count(0)
        expect(self.page.get_by_role("switch", name="Light on or off")).to_be_visible()
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("switch", name="Light on or off")).to_have_count(0)
        self.assertEqual(self.edit().passes, ())


class RawByHand(BrowserTest):
    def test_a_raw_file_from_the_wall_to_another_development(self) -> None:
        data = demo()
        one = library.take_in(self.user, io.BytesIO(data), "kofi.dng", len(data))
        self.page.goto(self.live_server_url)
        expect(self.page.get_by_role("link", name="Open kofi")).to_be_visible()
        self.open(one)
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Look"
        ).click()
        card = self.page.get_by_role("region", name="Raw development")
        before = self.pixels(560, 700)
        card.get_by_label("Noise", exact=True).press("End")
        self.saved()
        after = self.until_painted(560, 700, before)
        self.assertLess(after.std(), before.std())
        card.get_by_label("Profile").select_option("display_p3")
        self.saved()
        desk.forget_all()
        edit = rows.load(Portrait.objects.get(pk=one.pk)).edit
        self.assertEqual(edit.passes[0].settings["profile"], "display_p3")
        self.assertEqual(edit.passes[0].settings["noise"], 1000)

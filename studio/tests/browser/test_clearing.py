"""Patches, fills, easing, bands and several touches, by hand in the bench."""

from __future__ import annotations

import math

import numpy as np
from playwright.sync_api import expect

from retouch.edit import Edit
from studio.portraits.models import Portrait
from studio.portraits.services import desk, rows
from studio.tests.browser.base import BrowserTest

# Blemishes of the demo portrait "eli" (demo/truth/eli.json).
SPOT = (983.0, 1106.0)
NEAR = (961.0, 986.0)


class Clearing(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")
        self.open(self.one)
        self.zoom_to(*SPOT)
        self.brush(20)

    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def line(self, *places: tuple[float, float]) -> None:
        self.page.mouse.move(*self.at(*places[0]))
        self.page.mouse.down()
        for place in places[1:]:
            self.page.mouse.move(*self.at(*place), steps=3)
        self.page.mouse.up()

    def circle(self, x: float, y: float, r: float) -> list[tuple[float, float]]:
        turns = [2 * math.pi * i / 16 for i in range(17)]
        return [(x + r * math.cos(t), y + r * math.sin(t)) for t in turns]

    def hand(self, name: str) -> None:
        self.page.get_by_role("group", name="What the hand does").get_by_role(
            "button", name=name
        ).click()

    def test_a_patch_is_outlined_dragged_and_moved_on(self) -> None:
        before = self.pixels(*SPOT)
        self.hand("Patch")
        self.line(*self.circle(*SPOT, 26))
        outline = self.page.get_by_role("img", name="Outline")
        expect(outline).to_be_visible()
        self.line(SPOT, (SPOT[0] + 40, SPOT[1] + 50), (SPOT[0] + 70, SPOT[1] + 90))
        self.until_painted(*SPOT, before)
        expect(outline).to_have_count(0)
        touch = self.edit().passes[0].touches[0]
        np.testing.assert_allclose(touch.source, (70, 90), atol=2)
        self.assertGreater(len(touch.path), 8)
        # Its red is gone.
        after = self.pixels(*SPOT)
        self.assertGreater((after[..., 1] - before[..., 1]).mean(), 8)
        # Both the area and where it takes from can be moved later.
        self.page.get_by_role("button", name="Patch 1").click()
        source = self.page.get_by_role("button", name="Move the source")
        box = source.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 12, y - 20, steps=4)
        self.page.mouse.up()
        np.testing.assert_allclose(self.edit().passes[0].touches[0].source, (82, 70), atol=3)

    def test_a_patch_can_find_its_source_and_an_outline_can_be_let_go(self) -> None:
        self.hand("Patch")
        self.line(*self.circle(*SPOT, 26))
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("img", name="Outline")).to_have_count(0)
        before = self.pixels(*SPOT)
        self.line(*self.circle(*SPOT, 26))
        self.page.get_by_role("button", name="Find a source").click()
        self.until_painted(*SPOT, before)
        self.assertIsNotNone(self.edit().passes[0].touches[0].source)

    def test_a_fill_by_nodes_and_another_try(self) -> None:
        before = self.pixels(*SPOT)
        self.hand("Fill")
        self.page.get_by_role("button", name="Fill by brush").click()
        self.page.get_by_role("combobox", name="Form of the outline").select_option("curve")
        corners = [(-24, -24), (24, -24), (24, 24), (-24, 24)]
        for dx, dy in corners:
            self.page.mouse.click(*self.at(SPOT[0] + dx, SPOT[1] + dy))
        first = self.page.get_by_role("button", name="Close the outline")
        first.click()
        self.until_painted(*SPOT, before)
        one = self.edit().passes[0]
        self.assertEqual((one.kind, one.name, len(one.touches)), ("fill", "Fills", 1))
        filled = self.pixels(*SPOT)
        self.assertGreater((filled[..., 1] - before[..., 1]).mean(), 8)
        self.page.get_by_role("button", name="Fill 1").click()
        self.page.get_by_role("button", name="Another try").click()
        self.until_painted(*SPOT, filled)
        self.assertEqual(self.edit().passes[0].touches[0].values["seed"], 1)

    def test_easing_takes_back_and_brings_back(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.hand("Ease")
        self.brush(40)
        self.page.get_by_role("slider", name="Softness").fill("0")
        self.page.mouse.click(*self.at(*SPOT))
        self.until_like(*SPOT, raw, 3)
        self.page.keyboard.press("x")
        expect(self.page.get_by_role("button", name="Bring back")).to_be_visible()
        self.page.mouse.click(*self.at(*SPOT))
        self.until_like(*SPOT, healed, 3)
        self.assertEqual(len(self.edit().passes[0].mask.strokes), 2)
        self.page.get_by_role("button", name="Mask painted").click()
        self.page.get_by_role("button", name="Everywhere").click()
        expect(self.page.get_by_role("button", name="Eased")).to_have_count(0)
        self.assertEqual(self.edit().passes[0].mask.strokes, ())

    def test_several_touches_are_picked_switched_off_and_deleted(self) -> None:
        raw = self.pixels(*SPOT)
        self.heal(*SPOT)
        self.heal(*NEAR)
        self.page.get_by_role("button", name="Spot 1").click()
        self.page.get_by_role("button", name="Spot 2").click(modifiers=["Control"])
        group = self.page.get_by_role("group", name="Picked touches")
        expect(group).to_contain_text("2 picked")
        group.get_by_role("button", name="Off").click()
        self.until_like(*SPOT, raw, 3)
        self.assertEqual([t.enabled for t in self.edit().passes[0].touches], [False, False])
        group.get_by_role("button", name="Duplicate").click()
        expect(self.page.get_by_role("button", name="Spot 4")).to_be_visible()
        group.get_by_role("button", name="Delete").click()
        expect(self.page.get_by_role("button", name="Spot 4")).to_have_count(0)
        self.assertEqual(len(self.edit().passes[0].touches), 2)

    def test_the_source_is_turned_and_enlarged_by_its_handle(self) -> None:
        self.heal(*SPOT)
        self.page.get_by_role("button", name="Spot 1").click()
        box = self.page.get_by_role("button", name="Turn and resize the source").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        sx, sy = self.edit().passes[0].touches[0].source or (0, 0)
        cx, cy = self.at(SPOT[0] + sx, SPOT[1] + sy)
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        # A quarter turn, half as far again from the middle.
        reach = 1.5 * np.hypot(x - cx, y - cy)
        self.page.mouse.move(cx + reach, cy, steps=6)
        self.page.mouse.up()
        self.saved()
        values = self.edit().passes[0].touches[0].values
        self.assertAlmostEqual(float(values["source_turn"]), 90, delta=4)
        self.assertAlmostEqual(float(values["source_size"]), 150, delta=8)

    def test_the_picked_touch_has_values_of_its_own(self) -> None:
        self.heal(*SPOT)
        self.page.get_by_role("button", name="Spot 1").click()
        own = self.page.get_by_role("group", name="Picked touch")
        size = own.get_by_role("textbox", name="Size, number", exact=True)
        size.fill("33")
        size.press("Enter")
        expect(size).to_have_value("33")
        self.assertEqual(self.edit().passes[0].touches[0].values["radius_px"], 33)
        # The next touch keeps the hand's size.
        tray = self.page.get_by_role("contentinfo", name="Hand tray")
        expect(tray.get_by_role("textbox", name="Size, number")).to_have_value("20")

    def test_a_band_is_shown_and_healed_in(self) -> None:
        self.page.get_by_role("button", name="By size").click()
        self.page.get_by_role("button", name="Tone", exact=True).click()
        expect(self.picture().get_by_text("Tone", exact=True)).to_be_visible()
        self.page.get_by_role("button", name="In the Glass").click()
        expect(self.page.get_by_text("tone", exact=True)).to_be_visible()
        before = self.pixels(*SPOT)
        self.page.mouse.click(*self.at(*SPOT))
        self.until_painted(*SPOT, before)
        one = self.edit().passes[0]
        self.assertEqual((one.name, one.settings["band"]), ("Tone: heal", "tone"))
        # Back in the whole picture another pass takes the next touch.
        self.page.get_by_role("button", name="Work in the whole picture").click()
        self.heal(*NEAR)
        self.assertEqual([p.settings["band"] for p in self.edit().passes], ["tone", "all"])

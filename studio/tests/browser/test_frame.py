"""Straightening and cropping by hand, and working on a turned picture."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import expect

from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.picture import read
from retouch.render.framing import warp_of
from retouch.warp import Warp
from studio.portraits.models import Portrait
from studio.portraits.services import desk, rows
from studio.tests.browser.base import BrowserTest

# A blemish of the demo portrait "eli" (demo/truth/eli.json).
SPOT = (983.0, 1106.0)


class Frame(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")
        self.open(self.one)

    def edit(self) -> Edit:
        self.saved()
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def warp(self) -> Warp:
        return warp_of(self.edit(), Rect(0, 0, self.one.width, self.one.height))

    def begin(self) -> None:
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Look"
        ).click()
        self.page.get_by_role("button", name="Straighten, crop", exact=True).click()
        self.ready()

    def ready(self) -> None:
        stage = self.page.get_by_role("application", name="Frame")
        expect(stage).to_have_attribute("data-ready", "true")

    def number(self, name: str, value: float) -> None:
        box = self.page.get_by_role("textbox", name=f"{name}, number")
        box.fill(str(value))
        box.press("Enter")
        box.blur()
        self.saved()

    def drag(self, name: str, dx: float, dy: float) -> None:
        box = self.page.get_by_role("button", name=name).bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + dx, y + dy, steps=5)
        self.page.mouse.up()

    def test_straighten_crop_turn_and_take_it_back(self) -> None:
        self.begin()
        self.number("Angle", 3.25)
        self.drag("Frame: top left corner", 60, 80)
        expect(self.page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile("Frame: crop")
        )
        self.saved()
        first = self.warp()
        self.assertLess(first.width, self.one.width)
        self.page.get_by_role("group", name="Turns").get_by_role("button", name="Right").click()
        self.page.get_by_role("button", name="Done").click()
        self.sharp()
        turned = self.warp()
        self.assertEqual((turned.width, turned.height), (first.height, first.width))
        expect(self.page.get_by_text(f"{turned.width} × {turned.height} of")).to_be_visible()
        for _ in range(3):
            self.page.keyboard.press("Control+z")
        expect(self.page.get_by_text("px of")).to_have_count(0)
        self.assertTrue(self.warp().identity)

    def test_a_line_drawn_is_level(self) -> None:
        self.begin()
        self.page.get_by_role("button", name="A line drawn").click()
        box = self.page.get_by_role("application", name="Frame").bounding_box()
        assert box is not None
        x, y = box["x"] + 300, box["y"] + 300
        self.page.mouse.move(x, y)
        self.page.mouse.down()
        self.page.mouse.move(x + 200, y + 20, steps=4)
        self.page.mouse.up()
        expect(self.page.get_by_role("textbox", name="Angle, number")).to_have_value("-5.71")
        self.saved()
        self.assertAlmostEqual(self.edit().passes[0].settings["angle_deg"], -5.71)  # type: ignore[arg-type]

    def test_a_touch_lands_where_it_points_on_a_turned_picture(self) -> None:
        """At several zooms, within half a pixel of the original; the pixels change right there."""
        self.begin()
        self.number("Angle", 17)
        self.number("Upright", 20)
        self.page.get_by_role("button", name="Mirror").click()
        self.page.get_by_role("button", name="Done").click()
        self.sharp()
        warp = self.warp()
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Clear"
        ).click()
        self.brush(16)
        seen = warp.to_result(np.array([SPOT]))[0]
        before = self.pixels(*seen, half=6)
        self.page.mouse.click(*self.at(*seen))
        after = self.until_painted(*seen, before)
        self.assertGreater(np.abs(after - before).max(), 10)
        wanted = [SPOT]
        for place in ((900.0, 900.0), (1100.0, 1250.0)):
            here = warp.to_result(np.array([place]))[0]
            self.zoom_to(*here)
            # The pointer stands on whole pixels of the screen.
            x, y = (round(v) for v in self.at(*here))
            box = self.picture().bounding_box()
            vx, vy, scale = self._view()
            assert box is not None
            framed = [(vx + (x - box["x"]) / scale, vy + (y - box["y"]) / scale)]
            wanted.append(tuple(warp.to_original(np.array(framed))[0]))
            self.page.mouse.click(x, y)
            self.page.get_by_role("button", name=f"Spot {len(wanted)}").click()
            ring = self.page.get_by_role("button", name="Move the touch").bounding_box()
            assert ring is not None
            self.assertLess(abs(ring["x"] + ring["width"] / 2 - x), 1.5)
            self.assertLess(abs(ring["y"] + ring["height"] / 2 - y), 1.5)
            self.page.keyboard.press("0")
            self.sharp()
        got = [t.path[0] for p in self.edit().passes for t in p.touches]
        self.assertEqual(len(got), 3)
        # At fit a pixel of the screen is several of the original.
        off = np.abs(np.array(got) - wanted)
        self.assertLess(off[1:].max(), 0.5)
        self.assertLess(off[0].max(), 0.5 + 0.5 / 0.2)

    def test_the_delivered_file_has_the_frame(self) -> None:
        self.begin()
        self.page.get_by_label("Ratio").select_option("1:1")
        self.saved()
        self.page.keyboard.press("Escape")
        self.sharp()
        self.page.get_by_role("button", name="Deliver").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Format").select_option("png")
        warp = self.warp()
        self.assertEqual(warp.width, warp.height)
        expect(dialog.get_by_text(f"{warp.width} × {warp.height} pixels")).to_be_visible()
        file = read(self.download())
        whole = warp.whole_pixels
        assert whole is not None
        np.testing.assert_array_equal(
            file.pixels,
            read(self.one.original).pixels[
                whole.rect.y0 : whole.rect.y1, whole.rect.x0 : whole.rect.x1
            ],
        )

"""The bench: touches by hand, passes, the Glass, history, keys, windows, the line."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import expect

from retouch.edit import Edit
from studio.portraits.models import Portrait, Touch
from studio.portraits.services import desk, rows
from studio.tests.browser.base import BrowserTest

# Blemishes of the demo portrait "eli" (demo/truth/eli.json).
SPOT = (983.0, 1106.0)
NEAR = (961.0, 986.0)


class Bench(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")
        self.open(self.one)
        self.zoom_to(*SPOT)
        self.brush(20)

    def edit(self) -> Edit:
        desk.forget_all()
        return rows.load(Portrait.objects.get(pk=self.one.pk)).edit

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=4)
        self.page.mouse.move(*end, steps=4)
        self.page.mouse.up()

    def more(self, name: str, what: str) -> None:
        """An entry of a pass's menu."""
        self.page.get_by_role("button", name=f"More for {name}", exact=True).click()
        self.page.get_by_role("button", name=what, exact=True).click()

    def pick(self, name: str = "Spot 1") -> None:
        self.page.get_by_role("button", name=name).click()
        expect(self.page.get_by_role("button", name="Move the touch")).to_be_visible()


class Touches(Bench):
    def test_a_stroke(self) -> None:
        self.drag(self.at(SPOT[0] - 30, SPOT[1]), self.at(SPOT[0] + 30, SPOT[1] + 10))
        expect(self.page.get_by_role("button", name="Stroke 1")).to_be_visible()
        self.saved()
        path = self.edit().passes[0].touches[0].path
        self.assertGreater(len(path), 3)
        np.testing.assert_allclose(path[0], (SPOT[0] - 30, SPOT[1]), atol=1)

    def test_what_is_painted_at_once_is_what_a_reload_shows(self) -> None:
        """Pixels that come with an answer lie where those lie that are asked for."""
        raw = self.pixels(*SPOT, half=40)
        self.heal(*SPOT)
        now = self.pixels(*SPOT, half=40)
        self.assertGreater(float(np.abs(now - raw).max()), 15)
        self.page.reload()
        self.sharp()
        self.zoom_to(*SPOT)
        self.until_like(*SPOT, now, atol=3)
        self.page.keyboard.press("Control+z")
        self.until_like(*SPOT, raw, atol=3)
        self.saved()
        self.assertEqual(self.edit().passes, ())

    def test_a_move_of_the_view_is_asked_for_once(self) -> None:
        """One look at the server for a move, whatever is drawn anew for it."""
        asked: list[str] = []
        self.page.on("request", lambda r: asked.append(r.url) if "/view?" in r.url else None)
        before = self.picture().get_attribute("data-view")
        self.page.mouse.move(*self.at(*SPOT))
        self.page.mouse.wheel(0, 200)
        expect(self.picture()).not_to_have_attribute("data-view", before or "")
        self.sharp()
        self.assertEqual(len(asked), 1, asked)

    def test_move_resize_source_and_delete(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.pick()
        before = self.edit().passes[0].touches[0]

        # The source along its thread: the result follows before the hand lets go.
        sx, sy = before.source or (0, 0)
        grip = self.at(SPOT[0] + sx, SPOT[1] + sy)
        self.page.mouse.move(*grip)
        self.page.mouse.down()
        self.page.mouse.move(grip[0] + 14, grip[1] - 9, steps=5)
        live = self.until_painted(*SPOT, healed)
        self.assertEqual(self.edit().passes[0].touches[0].source, before.source, "not saved yet")
        self.page.mouse.up()
        self.saved()
        expect(self.page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile(r"Undo: Move source.*\(Ctrl \+ Z\)")
        )
        moved = self.edit().passes[0].touches[0].source
        np.testing.assert_allclose(moved, (sx + 14, sy - 9), atol=1)
        # The live view is more strongly compressed than the one at rest.
        self.assertLess(np.abs(self.pixels(*SPOT) - live).mean(), 6)

        knob = self.page.get_by_role("button", name="Resize the touch").bounding_box()
        assert knob is not None
        here = (knob["x"] + knob["width"] / 2, knob["y"] + knob["height"] / 2)
        centre = self.at(*SPOT)
        self.drag(here, (2 * here[0] - centre[0], 2 * here[1] - centre[1]))
        expect(self.page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile(r"^Undo: Resize touch(, .+)? \(Ctrl \+ Z\)$")
        )
        self.saved()
        self.assertAlmostEqual(self.edit().passes[0].touches[0].values["radius_px"], 40, delta=1.5)

        self.drag(self.at(SPOT[0] + 5, SPOT[1] + 5), self.at(SPOT[0] + 25, SPOT[1] - 35))
        expect(self.page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile(r"^Undo: Move touch(, .+)? \(Ctrl \+ Z\)$")
        )
        self.saved()
        np.testing.assert_allclose(
            self.edit().passes[0].touches[0].path[0], (SPOT[0] + 20, SPOT[1] - 40), atol=1.5
        )

        self.page.keyboard.press("n")
        expect(self.page.get_by_role("button", name="Undo")).to_have_attribute(
            "title", re.compile(r"^Undo: New source(, .+)? \(Ctrl \+ Z\)$")
        )
        self.saved()
        there = (SPOT[0] + 20, SPOT[1] - 40)
        now = self.pixels(*there)
        self.page.keyboard.press("Delete")
        self.until_painted(*there, now)
        self.saved()
        np.testing.assert_allclose(self.pixels(*SPOT), raw, atol=6)
        self.assertEqual(Touch.objects.count(), 0)

    def test_rings(self) -> None:
        self.heal(*SPOT)
        rings = self.page.locator(".mg-touch")
        self.page.mouse.move(*self.at(SPOT[0] + 30, SPOT[1]))
        expect(rings).to_have_count(1)
        self.page.mouse.move(*self.at(SPOT[0] + 250, SPOT[1]))
        expect(rings).to_have_count(0)
        button = self.page.get_by_role("button", name="Rings")
        self.page.keyboard.press("r")
        expect(button).to_have_accessible_name("Rings: only the picked one")
        self.page.mouse.move(*self.at(SPOT[0] + 30, SPOT[1]))
        expect(rings).to_have_count(0)
        self.page.keyboard.press("r")
        expect(button).to_have_accessible_name("Rings: never")
        self.page.mouse.move(*self.at(SPOT[0] + 30, SPOT[1]))
        expect(rings).to_have_count(0)
        self.page.keyboard.press("r")
        expect(button).to_have_accessible_name("Rings: always")
        self.page.mouse.move(*self.at(SPOT[0] + 250, SPOT[1]))
        expect(rings).to_have_count(1)
        # A click on its middle picks it instead of healing again.
        self.page.mouse.click(*self.at(*SPOT))
        expect(self.page.get_by_role("button", name="Spot 1")).to_have_attribute(
            "aria-pressed", "true"
        )
        self.assertEqual(Touch.objects.count(), 1)


class Passes(Bench):
    def test_switch_strength_name_and_delete(self) -> None:
        raw = self.pixels(*SPOT)
        self.heal(*SPOT)
        switch = self.page.get_by_role("switch", name="Skin spots on or off")
        switch.click()
        self.until_like(*SPOT, raw, 6)
        # Pixels come before the cards do; a key acts on what the card says.
        expect(switch).not_to_be_checked()
        self.page.keyboard.press("e")
        self.until_painted(*SPOT, raw)
        self.saved()

        # The slider shows its effect while it moves, and saves when it is let go.
        card = self.page.get_by_role("complementary", name="Passes")
        slider = card.get_by_role("slider", name="Strength")
        box = slider.bounding_box()
        assert box is not None
        now = self.pixels(*SPOT)
        self.page.mouse.move(box["x"] + box["width"] - 8, box["y"] + box["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, steps=6)
        half = self.until_painted(*SPOT, now)
        self.assertEqual(self.edit().passes[0].strength, 100)
        self.page.mouse.up()
        self.saved()
        strength = self.edit().passes[0].strength
        self.assertTrue(40 < strength < 60, strength)
        want = raw + (now - raw) * strength / 100
        self.assertLess(np.abs(half.mean((0, 1)) - want.mean((0, 1))).max(), 14)

        number = card.get_by_role("textbox", name="Strength, number")
        number.fill("80")
        number.press("Enter")
        self.saved()
        self.assertEqual(self.edit().passes[0].strength, 80)
        card.get_by_text("Strength", exact=True).dblclick()
        expect(number).to_have_value("100")
        self.saved()

        self.more("Skin spots", "Rename")
        field = self.page.get_by_role("textbox", name="Name of the pass")
        field.fill("Cheeks")
        field.press("Enter")
        expect(self.page.get_by_role("switch", name="Cheeks on or off")).to_be_visible()
        self.more("Cheeks", "Delete")
        expect(self.page.get_by_role("switch", name="Cheeks on or off")).to_have_count(0)
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_role("button", name="Spot 1")).to_have_count(0)
        card.get_by_role("button", name=re.compile("^Cheeks")).click()
        expect(self.page.get_by_role("button", name="Spot 1")).to_be_visible()

    def test_a_pass_of_another_stage(self) -> None:
        now = self.pixels(*SPOT)
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Look").click()
        self.add_pass("Light")
        number = self.page.get_by_role("textbox", name="Exposure, number")
        number.fill("1")
        number.press("Enter")
        brighter = self.until_painted(*SPOT, now)
        self.assertGreater(brighter.mean(), now.mean() + 10)


class Comparing(Bench):
    def test_the_glass_shows_the_original_inside_only(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.page.keyboard.press("g")
        grip = self.page.get_by_role("button", name="Move the Glass")
        expect(grip).to_be_visible()
        box = self.picture().bounding_box()
        circle = grip.bounding_box()
        assert box is not None
        assert circle is not None
        radius = circle["width"] / 2
        centre = (circle["x"] + radius, circle["y"] + radius)
        target = self.at(*SPOT)
        # By its rim, so that its middle comes to lie on the spot.
        start = (centre[0] - radius, centre[1])
        self.drag(start, (target[0] - radius, target[1]))
        self.until_like(*SPOT, raw, 6)

        # Away again: the result shows; and the place is remembered.
        self.drag((target[0] - radius, target[1]), (target[0] - radius - 260, target[1] - 200))
        self.until_like(*SPOT, healed, 6)
        placed = grip.bounding_box()
        self.page.reload()
        self.sharp()
        again = self.page.get_by_role("button", name="Move the Glass").bounding_box()
        assert placed is not None
        assert again is not None
        np.testing.assert_allclose([again["x"], again["y"]], [placed["x"], placed["y"]], atol=2)

        knob = self.page.get_by_role("button", name="Resize the Glass").bounding_box()
        assert knob is not None
        self.drag((knob["x"] + 7, knob["y"] + 7), (knob["x"] + 40, knob["y"] + 40))
        larger = self.page.get_by_role("button", name="Move the Glass").bounding_box()
        assert larger is not None
        self.assertGreater(larger["width"], again["width"] + 40)


class HistoryTest(Bench):
    def test_undo_and_redo_survive_a_reload(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.page.keyboard.press("Control+z")
        self.until_like(*SPOT, raw, 6)
        self.saved()
        desk.forget_all()
        self.page.reload()
        self.sharp()
        self.zoom_to(*SPOT)
        raw = self.pixels(*SPOT)
        self.page.get_by_role("button", name="Redo").click()
        self.until_like(*SPOT, healed, 8)
        self.heal(*NEAR)
        self.page.get_by_role("button", name="Thread", exact=True).click()
        steps = self.page.get_by_role("list", name="History")
        expect(steps.get_by_role("button", name="Heal")).to_have_count(2)
        steps.get_by_role("button", name="As photographed").click()
        self.saved()
        expect(self.page.get_by_role("switch", name="Skin spots on or off")).to_have_count(0)
        steps.get_by_role("button", name="Heal").first.click()
        expect(self.page.get_by_role("switch", name="Skin spots on or off")).to_have_count(1)
        self.saved()
        self.assertEqual(len(self.edit().passes[0].touches), 2)


class Windows(Bench):
    def test_two_windows_never_overwrite_each_other(self) -> None:
        other = self.window()
        self.open(self.one, other)
        self.heal(*SPOT)
        # The other window still stands at the old state; its gesture is kept and comes after.
        other.bring_to_front()
        self.zoom_to(*NEAR, page=other)
        self.brush(14, other)
        other.mouse.click(*self.at(*NEAR, page=other))
        expect(other.get_by_role("button", name="Spot 2")).to_be_visible()
        self.saved(other)
        self.assertEqual([len(p.touches) for p in self.edit().passes], [2])
        # And the first catches up when it is used again.
        self.page.bring_to_front()
        self.page.mouse.click(*self.at(SPOT[0] - 60, SPOT[1] + 60))
        expect(self.page.get_by_role("button", name="Spot 3")).to_be_visible()
        self.saved()
        self.assertEqual([len(p.touches) for p in self.edit().passes], [3])

    def test_gestures_wait_while_the_line_is_down(self) -> None:
        self.context.set_offline(True)
        self.page.mouse.click(*self.at(*SPOT))
        self.page.mouse.click(*self.at(*NEAR))
        status = self.page.get_by_role("status")
        expect(status).to_contain_text("Not saved yet: 2 waiting")
        self.assertEqual(Touch.objects.count(), 0)
        self.context.set_offline(False)
        expect(status).to_have_text("Saved")
        expect(self.page.get_by_role("button", name="Spot 2")).to_be_visible()
        self.assertEqual(Touch.objects.count(), 2)


class Keys(Bench):
    def test_brush_and_zoom(self) -> None:
        size = self.page.get_by_role("textbox", name="Size, number")
        self.page.keyboard.press("]")
        expect(size).to_have_value("22.5")
        self.page.keyboard.press("[")
        expect(size).to_have_value("20")
        softness = self.page.get_by_role("textbox", name="Softness, number")
        before = float(softness.input_value())
        self.page.keyboard.press("}")
        expect(softness).to_have_value(f"{before + 5:g}")
        # The circle is as large as what it will heal.
        self.page.mouse.move(*self.at(*SPOT))
        circle = self.page.locator(".mg-brush-light")
        expect(circle).to_have_attribute("r", "20")
        self.page.keyboard.down("Alt")
        self.page.mouse.wheel(0, -200)
        self.page.keyboard.up("Alt")
        expect(size).not_to_have_value("20")
        self.page.keyboard.press("0")
        expect(self.page.get_by_role("button", name="Zoom 100 %")).to_have_count(0)
        view = self._view()
        self.page.keyboard.down(" ")
        self.drag(self.at(800, 900), self.at(700, 800))
        self.page.keyboard.up(" ")
        self.assertNotEqual(self._view(), view)
        self.assertEqual(Touch.objects.count(), 0, "panning doesn't heal")

    def test_help_page_names_every_key(self) -> None:
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("heading", name="Keys and pointer")).to_be_visible()
        for text in (
            "Show the original while held",
            "Smaller brush",
            "Undo",
            "Fit the whole picture",
        ):
            expect(self.page.get_by_text(text, exact=True)).to_be_visible()
        self.page.get_by_role("button", name="Back", exact=True).click()
        self.sharp()

    def test_a_portrait_that_is_not_there(self) -> None:
        self.page.goto(f"{self.live_server_url}/portraits/nothing")
        expect(self.page.get_by_text("There is no such portrait")).to_be_visible()


class Sharpness(Bench):
    def test_one_to_one_is_the_pictures_own_pixels_on_a_dense_screen_too(self) -> None:
        from retouch.picture import read

        want = read(self.one.original).pixels
        x, y = int(SPOT[0]), int(SPOT[1])
        got = self.pixels(x, y, 8)
        self.assertLess(np.abs(got - want[y - 8 : y + 8, x - 8 : x + 8]).mean(), 2.5)
        context = self.browser.new_context(
            viewport={"width": 1024, "height": 700}, device_scale_factor=2
        )
        self.addCleanup(context.close)
        context.add_cookies(self.context.cookies())
        page = context.new_page()
        self.open(self.one, page)
        page.keyboard.press("1")
        expect(page.get_by_role("button", name="Zoom 100 %")).to_be_visible()
        self.sharp(page)
        size = page.get_by_role("application").locator("canvas").evaluate("c => c.width")
        box = self.picture(page).bounding_box()
        assert box is not None
        self.assertEqual(size, round(2 * box["width"]))
        self.assertEqual(self._view(page)[2], 0.5)


class CloneTest(Bench):
    """A plain copy from a chosen place, along with the hand or from the same place each time."""

    def choose(self, x: float, y: float) -> None:
        self.page.keyboard.down("Alt")
        self.page.mouse.click(*self.at(x, y))
        self.page.keyboard.up("Alt")

    def test_a_copy_is_exactly_its_source(self) -> None:
        source = (SPOT[0] - 90, SPOT[1] + 60)
        self.page.keyboard.press("c")
        self.brush(20)
        self.choose(*source)
        there = self.pixels(*source)
        before = self.pixels(*SPOT)
        self.page.mouse.click(*self.at(*SPOT))
        self.until_painted(*SPOT, before)
        self.until_like(*SPOT, there, 8)
        self.saved()
        (one,) = self.edit().passes
        self.assertEqual(
            (one.kind, one.name, one.touches[0].source), ("clone", "Copies", (-90, 60))
        )

    def test_aligned_goes_along_and_fixed_stays(self) -> None:
        self.page.keyboard.press("c")
        self.brush(10)
        source = (SPOT[0] + 80, SPOT[1] + 80)
        self.choose(*source)
        places = [SPOT, (SPOT[0] + 30, SPOT[1]), (SPOT[0], SPOT[1] + 30)]
        touches = self.page.get_by_role("list", name="Touches of Copies").get_by_role("listitem")
        for n, place in enumerate(places):
            if n == 2:
                self.page.get_by_role("button", name="Aligned").click()
            self.page.mouse.click(*self.at(*place))
            expect(touches).to_have_count(n + 1)
        self.saved()
        sources = [t.source for t in self.edit().passes[0].touches]
        self.assertEqual(sources, [(80, 80), (80, 80), (80, 50)])

    def test_heal_takes_from_the_chosen_place_until_let_go(self) -> None:
        self.choose(SPOT[0] + 50, SPOT[1] - 40)
        self.heal(*SPOT)
        self.page.keyboard.press("Escape")
        self.heal(*NEAR)
        first, second = (t.source for t in self.edit().passes[0].touches)
        self.assertEqual(first, (50, -40))
        self.assertNotEqual(second, (50, -40))

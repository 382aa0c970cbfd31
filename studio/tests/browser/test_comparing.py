"""Compare views by their pixels, takes, masks, keys of one's own, brushes, the line."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Locator, Page, Response, expect

from retouch.picture import openraster
from retouch.render.shows import CHANGE_STOPS
from studio.portraits.models import Take
from studio.tests.browser.base import BrowserTest
from studio.tests.browser.test_bench import NEAR, SPOT, Bench


class Comparing(Bench):
    def popover(self) -> Locator:
        group = self.page.get_by_role("group", name="Compare", exact=True)
        if not group.is_visible():
            self.page.get_by_role("button", name="Compare").click()
        return group

    def choose(self, label: str, value: str) -> None:
        self.popover().get_by_label(label, exact=True).select_option(value)

    def mode(self, name: str) -> None:
        self.popover().get_by_role("button", name=name, exact=True).click()

    def test_the_wipe_shows_both_sides_of_its_line(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.mode("Wipe")
        self.page.keyboard.press("Escape")
        line = self.page.get_by_role("slider", name="Wipe")
        box, picture = line.bounding_box(), self.picture().bounding_box()
        assert box is not None
        assert picture is not None
        x, y = self.at(*SPOT)
        middle = box["x"] + box["width"] / 2
        self.drag((middle, box["y"] + 40), (x - 60, y - 60))
        self.until_like(*SPOT, raw, 6)
        self.drag((x - 60, y - 200), (x + 60, y - 200))
        self.until_like(*SPOT, healed, 6)
        # Level, by keys: the original lies below the line.
        line.dblclick(position={"x": 11, "y": 30})
        expect(line).to_have_attribute("aria-orientation", "vertical")
        line.focus()
        for _ in range(10):
            self.page.keyboard.press("Shift+ArrowUp")
        expect(line).to_have_attribute("aria-valuenow", "0")
        self.until_like(*SPOT, raw, 6)

    def test_two_pictures_move_together_and_both_take_touches(self) -> None:
        self.heal(*SPOT)
        for name, axis in (("Side by side", 0), ("One above the other", 1)):
            self.mode(name)
            self.page.keyboard.press("Escape")
            self.page.keyboard.press("0")
            self.sharp()
            box = self.picture().bounding_box()
            assert box is not None
            size = (box["width"], box["height"])
            apart = size[axis] - (size[axis] - 6) // 2
            x, y = self.at(*NEAR)
            shift = (apart, 0) if axis == 0 else (0, apart)
            self.page.wait_for_function(
                """([c, x, y, dx, dy]) => {
                     const at = (x, y) => c.getContext('2d').getImageData(x - 3, y - 3, 6, 6).data;
                     const [a, b] = [at(x, y), at(x + dx, y + dy)];
                     return a.every((v, i) => Math.abs(v - b[i]) < 8) && a[0] > 60;
                   }""",
                arg=[
                    self.picture().locator("canvas").element_handle(),
                    round(x - box["x"]), round(y - box["y"]), round(shift[0]), round(shift[1]),
                ],
            )  # fmt: skip
        # A click in the second picture heals the same place.
        self.page.mouse.click(x + shift[0], y + shift[1])
        expect(self.page.get_by_role("button", name="Spot 2")).to_be_visible()
        self.saved()
        at = self.edit().passes[-1].touches[-1].path[0]
        np.testing.assert_allclose(at, NEAR, atol=4)

    def test_flicker_shows_one_after_the_other(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.mode("Flicker")
        for _ in range(2):
            self.until_like(*SPOT, raw, 6)
            self.until_like(*SPOT, healed, 6)

    def test_without_the_open_pass_while_held(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.page.keyboard.down("w")
        self.until_like(*SPOT, raw, 6)
        expect(self.picture().get_by_text("Without Skin spots")).to_be_visible()
        self.page.keyboard.up("w")
        self.until_like(*SPOT, healed, 6)

    def test_the_change_so_far_in_colours_with_numbers(self) -> None:
        self.heal(*SPOT)
        self.choose("Picture", "change")
        legend = self.page.get_by_text(re.compile("10 or more"))
        expect(legend).to_be_visible()
        dark = np.full((8, 8, 3), CHANGE_STOPS[0][1], float)
        self.until_like(SPOT[0] + 120, SPOT[1], dark, 8)
        self.assertGreater(np.abs(self.pixels(*SPOT) - dark).mean(), 15)
        self.popover().get_by_role("button", name="Only the result").click()
        expect(legend).to_have_count(0)

    def test_the_glass_can_show_a_band_and_the_mask(self) -> None:
        self.heal(*SPOT)
        for value, label in (("band:detail", "detail"), ("boosted", "boosted colour")):
            self.choose("Glass", value)
            expect(self.picture().get_by_text(label, exact=True)).to_be_visible()
        self.choose("Glass", "original")

    def test_takes_are_kept_compared_and_returned_to(self) -> None:
        raw = self.pixels(*SPOT)
        self.page.get_by_role("button", name="Thread", exact=True).click()
        self.page.get_by_role("textbox", name="Name of the take").fill("Bare")
        self.page.get_by_role("button", name="Keep", exact=True).click()
        healed = self.heal(*SPOT)
        takes = self.page.get_by_role("list", name="Takes")
        takes.get_by_role("button", name="Bare", exact=False).first.click()
        expect(self.page.get_by_role("slider", name="Wipe")).to_be_visible()
        expect(self.picture().get_by_text("Take: Bare")).to_be_visible()
        takes.get_by_role("button", name="Bare", exact=False).first.click()
        expect(self.page.get_by_role("slider", name="Wipe")).to_have_count(0)
        self.more("Bare", "Return to it")
        self.until_like(*SPOT, raw, 6)
        self.page.keyboard.press("Control+z")
        self.until_like(*SPOT, healed, 6)
        self.saved()
        self.more("Bare", "Begin another variant from it")
        self.until_like(*SPOT, raw, 6)
        expect(takes.get_by_role("listitem")).to_have_count(2)
        self.more("Before Bare", "Rename")
        field = self.page.get_by_role("textbox", name="Name", exact=True)
        field.fill("Healed")
        self.page.get_by_role("textbox", name="Name of the take").focus()
        expect(takes.get_by_role("button", name="More for Healed")).to_be_visible()
        self.assertEqual([t.name for t in Take.objects.all()], ["Bare", "Healed"])


class Masks(Bench):
    def area(self, name: str) -> None:
        self.page.get_by_role("button", name="Area", exact=True).click()
        self.page.get_by_role("button", name=name, exact=True).click()

    def test_a_range_is_picked_and_shown_and_limits_the_pass(self) -> None:
        raw = self.pixels(*SPOT)
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Look"
        ).click()
        self.add_pass("Light")
        number = self.page.get_by_role("textbox", name="Exposure, number")
        number.fill("1")
        number.press("Enter")
        bright = self.until_painted(*SPOT, raw)
        self.page.get_by_role("button", name="Mask everywhere").click()
        self.area("Range of colour and light")
        # Far from any skin's colour: the eye's white. The red spot is no longer reached.
        self.page.mouse.click(*self.at(SPOT[0] + 10, SPOT[1] - 120))
        expect(self.page.get_by_role("button", name="1 colour")).to_be_visible()
        area = self.page.get_by_role("listitem", name="Area: range")
        tolerance = area.get_by_role("textbox", name="Tolerance, number")
        tolerance.fill("1")
        tolerance.press("Enter")
        self.until_like(*SPOT, raw, 12)
        self.page.get_by_role("button", name="White", exact=True).click()
        self.until_like(*SPOT, np.zeros((8, 8, 3)), 40)
        self.page.get_by_role("switch", name="Invert").click()
        self.until_like(*SPOT, np.full((8, 8, 3), 255.0), 40)
        self.page.get_by_role("button", name="White", exact=True).click()
        self.until_like(*SPOT, bright, 12)
        (one,) = self.edit().passes
        self.assertEqual((len(one.mask.areas), one.mask.invert), (1, True))

    def test_what_a_hand_needs_is_made_on_its_way(self) -> None:
        self.page.get_by_role("navigation", name="Stages").get_by_role(
            "button", name="Look"
        ).click()
        self.add_pass("Light")
        self.saved()
        self.zoom_to(*SPOT)
        self.sharp()
        # To a slider: asked for on the way, not when it moves.
        with self.page.expect_response("**/ready") as slider:
            self.page.get_by_role("slider", name="Exposure").hover()
        self.assertEqual((slider.value.status, self.asked(slider.value)), (202, "slider"))
        # A view to paint on: once it rests.
        with self.page.expect_response("**/ready") as stroke:
            self.page.keyboard.press("x")
        self.assertEqual((stroke.value.status, self.asked(stroke.value)), (202, "stroke"))
        before = self.pixels(*SPOT)
        number = self.page.get_by_role("textbox", name="Exposure, number")
        number.fill("1")
        number.press("Enter")
        bright = self.until_painted(*SPOT, before)
        self.drag(self.at(SPOT[0] - 20, SPOT[1]), self.at(SPOT[0] + 20, SPOT[1]))
        self.until_painted(*SPOT, bright)
        self.assertEqual(len(self.edit().passes[0].mask.strokes), 1)

    def asked(self, answer: Response) -> str:
        return str(answer.request.post_data_json["hand"])

    def test_a_gradient_and_growing_in_millimetres(self) -> None:
        self.heal(*SPOT)
        self.page.get_by_role("button", name="Mask everywhere").click()
        self.area("Gradient")
        self.drag(self.at(SPOT[0] - 150, SPOT[1]), self.at(SPOT[0] + 150, SPOT[1]))
        expect(self.page.get_by_role("listitem", name="Area: gradient")).to_be_visible()
        grow = self.page.get_by_role("textbox", name="Feather, number")
        grow.fill("2")
        grow.press("Enter")
        self.saved()
        mask = self.edit().passes[0].mask
        self.assertEqual(len(mask.areas), 1)
        self.assertGreater(mask.feather_px, 8)
        self.page.get_by_role("button", name="Remove the area").click()
        expect(self.page.get_by_role("button", name="Mask everywhere")).to_be_visible()


class Passes(Bench):
    def test_duplicated_moved_by_keys_and_the_stage_switched(self) -> None:
        raw = self.pixels(*SPOT)
        healed = self.heal(*SPOT)
        self.more("Skin spots", "Duplicate")
        cards = self.page.get_by_role("switch", name=re.compile("^Skin spots.* on or off"))
        expect(cards).to_have_count(2)
        expect(cards.first).to_have_accessible_name("Skin spots copy on or off")
        self.page.keyboard.press("l")
        expect(cards.first).to_have_accessible_name("Skin spots on or off")
        heads = self.page.get_by_title("Drag to another place")
        heads.first.drag_to(heads.last)
        expect(cards.first).to_have_accessible_name("Skin spots copy on or off")
        self.saved()
        stage = self.page.get_by_role("switch", name="Clear on or off")
        stage.click()
        self.until_like(*SPOT, raw, 6)
        stage.click()
        self.until_like(*SPOT, healed, 8)

    def test_carried_to_another_portrait(self) -> None:
        self.heal(*SPOT)
        self.more("Skin spots", "Copy for another portrait")
        self.open(self.portrait("dan"))
        # What is fitted to a face waits for it to be known.
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible()
        self.page.get_by_role("button", name="Bring").click()
        expect(self.page.get_by_role("button", name="Spot 1")).to_be_visible()


class OnesOwn(Bench):
    def test_keys_are_changed_kept_and_conflicts_refused(self) -> None:
        self.page.keyboard.press("?")
        change = self.page.get_by_role("button", name="Change the key of: Heal", exact=True)
        change.click()
        self.page.keyboard.press("q")
        expect(self.page.get_by_role("alert")).to_contain_text("Q is taken")
        change.click()
        self.page.keyboard.press("y")
        expect(change).to_have_text("Y")
        self.page.reload()
        self.page.get_by_role("button", name="Back", exact=True).click()
        self.sharp()
        self.page.keyboard.press("c")
        self.page.keyboard.press("y")
        heal = self.page.get_by_role("button", name="Heal", exact=True)
        expect(heal).to_have_attribute("aria-pressed", "true")
        expect(heal).to_have_attribute("title", re.compile(r"\(Y\)"))

    def save_brush(self, page: Page, name: str) -> Locator:
        field = page.get_by_role("textbox", name="Name of the brush")
        if not field.is_visible():
            page.get_by_role("button", name="Saved brushes").click()
        field.fill(name)
        page.get_by_role("button", name="Save", exact=True).click()
        entry = page.get_by_role("button", name=re.compile(f"^{name}"))
        expect(entry).to_be_visible()
        return entry

    def test_what_one_window_saves_another_keeps(self) -> None:
        other = self.page.context.new_page()
        other.goto(self.page.url)
        expect(other.get_by_role("button", name="Saved brushes")).to_be_visible()
        self.save_brush(self.page, "Lashes")
        self.save_brush(other, "Lips")
        self.save_brush(self.page, "Cheeks")
        expect(self.page.get_by_role("button", name=re.compile("^Lips"))).to_be_visible()
        other.close()

    def test_a_brush_that_cannot_be_saved_is_told(self) -> None:
        self.page.route("**/api/preferences", lambda route: route.abort())
        self.page.get_by_role("button", name="Saved brushes").click()
        self.page.get_by_role("textbox", name="Name of the brush").fill("Lashes")
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_text("The studio can't be reached")).to_be_visible()
        self.page.unroute("**/api/preferences")
        self.page.get_by_role("button", name="Save", exact=True).click()
        expect(self.page.get_by_role("button", name=re.compile("^Lashes"))).to_be_visible()

    def test_a_brush_is_saved_and_used_again(self) -> None:
        self.brush(33)
        self.page.keyboard.press("c")
        entry = self.save_brush(self.page, "Teeth, gentle")
        self.brush(10)
        self.page.keyboard.press("h")
        entry.click()
        clone = self.page.get_by_role("button", name="Clone", exact=True)
        expect(clone).to_have_attribute("aria-pressed", "true")
        size = self.page.get_by_role("contentinfo").get_by_role("textbox", name="Size, number")
        self.assertAlmostEqual(float(size.input_value()), 33, delta=1)

    def test_back_to_the_last_close_up(self) -> None:
        view = self._view()
        self.page.keyboard.press("z")
        expect(self.page.get_by_role("button", name="Zoom 100 %")).to_have_count(0)
        self.page.keyboard.press("z")
        expect(self.page.get_by_role("button", name="Zoom 100 %")).to_be_visible()
        self.assertEqual(self._view(), view)


class LayersOfAFile(BrowserTest):
    def test_a_file_with_layers_is_taken_in_and_each_is_kept_to_compare_with(self) -> None:
        colours = ((90, 120, 60), (40, 60, 150))
        layers = []
        for name, colour in zip(("Green", "Blue"), colours, strict=True):
            pixels = np.full((300, 400, 4), (*colour, 255), np.uint8)
            layers.append(openraster.Layer(name, pixels))
        data = openraster.write(layers, layers[1].pixels[..., :3], None)
        self.page.goto(self.live_server_url)
        self.page.locator("input[type=file]").first.set_input_files(
            {"name": "two layers.ora", "mimeType": openraster.MIME, "buffer": data}
        )
        self.page.get_by_role("link", name="Open two layers").click()
        self.sharp()
        blue = self.pixels(200, 150)
        self.page.get_by_role("button", name="Thread").click()
        self.page.get_by_role("button", name="Its 2 layers as takes").click()
        takes = self.page.get_by_role("list", name="Takes")
        expect(takes.get_by_role("listitem")).to_have_count(2)
        takes.get_by_role("button", name="More for Green").click()
        self.page.get_by_role("button", name="Return to it").click()
        self.page.get_by_role("button", name="Close the thread").click()
        middle = self.until_painted(200, 150, blue).reshape(-1, 3).mean(0)
        np.testing.assert_allclose(middle, colours[0], atol=3)

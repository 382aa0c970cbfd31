"""Faces in the bench: map, sweep, marks, zones, and what is said when there is no face."""

from __future__ import annotations

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from retouch.picture import read
from studio.portraits.services import analysing, library
from studio.tests.base import portrait_file
from studio.tests.browser.base import BrowserTest

PATIENCE = 120_000


class Faces(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.portrait("eli")
        self.open(self.one)
        expect(self.page.get_by_role("button", name="Sweep")).to_be_visible(timeout=PATIENCE)

    def test_marks_are_decided_and_cleared(self) -> None:
        page = self.page
        page.get_by_role("switch", name="Show marks").click()
        marks = page.get_by_role("region", name="Marks")
        listed = marks.get_by_role("list", name="List of marks").get_by_role("listitem")
        everything = listed.count()
        marks.get_by_label("Sensitivity, number").fill("20")
        marks.get_by_label("Sensitivity, number").press("Enter")
        self.assertLess(listed.count(), everything)
        clear = marks.get_by_role("button", name="Clear these")
        before = int(clear.inner_text().split()[-1])
        self.assertGreater(before, 5)

        # One is to stay: by its own choice in the list.
        marks.get_by_role("button", name="Clear", exact=False).first.click()
        listed.first.get_by_role("combobox").select_option("keep")
        expect(clear).to_have_text(f"Clear these {before - 1}")
        self.saved()

        clear.click()
        expect(clear).to_have_text("Clear these 0", timeout=PATIENCE)
        touches = page.get_by_role("list", name="Touches of Skin spots").get_by_role("listitem")
        expect(touches).to_have_count(before - 1)
        # Each is an ordinary touch: one is taken out, the others stay.
        touches.first.get_by_role("button", name="Delete touch").click()
        expect(touches).to_have_count(before - 2)
        self.saved()

        page.get_by_role("button", name="Deliver").click()
        page.get_by_role("dialog").get_by_label("Format").select_option("png")
        result, original = read(self.download()).pixels, read(self.one.original).pixels
        changed = (result != original).any(2)
        self.assertTrue(0.0005 < changed.mean() < 0.02)
        # A spot's red has become the skin's: less red over green than it had.
        ys, xs = np.nonzero(changed)
        red = original[ys, xs, 0].astype(float) / original[ys, xs, 1]
        now = result[ys, xs, 0].astype(float) / result[ys, xs, 1]
        self.assertLess(now.mean(), red.mean() - 0.03)

    def test_a_lasso_and_a_click_decide(self) -> None:
        page = self.page
        page.keyboard.press("m")
        ring = self.picture().get_by_role("button", name="red mark, clear").first
        count = self.picture().get_by_role("button", name="red mark, clear").count()
        box = ring.locator("circle").first.bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 1)
        expect(self.picture().get_by_role("button", name="red mark, clear")).to_have_count(
            count - 1
        )
        marks = page.get_by_role("region", name="Marks")
        marks.get_by_role("button", name="Lasso").click()
        x, y, w, h = 380, 300, 420, 380
        page.mouse.move(x, y)
        page.mouse.down()
        for px, py in ((x + w, y), (x + w, y + h), (x, y + h), (x, y)):
            page.mouse.move(px, py, steps=4)
        page.mouse.up()
        expect(marks.get_by_role("button", name="chosen")).to_be_visible()
        marks.get_by_role("button", name="Keep", exact=True).click()
        expect(marks.get_by_role("button", name="Clear these 0")).to_be_visible()
        page.get_by_role("button", name="Undo").click()
        self.saved()

    def test_a_kept_mark_is_asked_about(self) -> None:
        page = self.page
        analysis = analysing.result(self.one)
        assert analysis is not None
        mark = next(m for m in analysis.marks[0] if m.proposal == "clear" and m.confidence > 0.9)
        page.keyboard.press("m")
        self.zoom_to(mark.x, mark.y)
        x, y = self.at(mark.x, mark.y)
        to_clear = page.get_by_role("region", name="Marks").get_by_role(
            "button", name=re.compile(r"^Clear these \d+$")
        )
        before = to_clear.inner_text()
        page.mouse.click(x, y - mark.reach - 2)  # its ring
        # The window knows of the decision.
        expect(to_clear).not_to_have_text(before)
        self.saved()
        page.keyboard.press("m")
        self.brush(12)
        page.mouse.click(x, y)
        question = page.get_by_role("alertdialog", name="Kept mark")
        expect(question).to_contain_text("You wanted to keep this mark")
        question.get_by_role("button", name="Leave it").click()
        expect(page.get_by_role("list", name="Touches of Skin spots")).to_have_count(0)
        page.mouse.click(x, y)
        question.get_by_role("button", name="Heal anyway").click()
        expect(page.get_by_role("list", name="Touches of Skin spots")).to_be_visible()
        self.saved()

    def test_the_sweep_is_left_and_taken_up(self) -> None:
        page = self.page
        page.keyboard.press(".")
        sweep = page.get_by_role("region", name="Sweep")
        expect(sweep).to_contain_text("Forehead")
        expect(page.get_by_role("button", name="Zoom 100 %")).to_be_visible()
        page.keyboard.press(".")
        expect(sweep).to_contain_text("Eyelids")
        page.keyboard.press(",")
        expect(sweep).to_contain_text("Forehead")
        page.keyboard.press(".")
        page.keyboard.press(".")
        sweep.get_by_role("button", name="Leave the sweep").click()
        expect(sweep).to_have_count(0)
        page.reload()
        expect(page.get_by_role("button", name="Sweep")).to_contain_text("2 of", timeout=PATIENCE)
        page.keyboard.press(".")
        expect(sweep).not_to_contain_text("Forehead")

    def test_the_face_map_leads_there(self) -> None:
        page = self.page
        zones = page.get_by_role("group", name="Zones of the face")
        zones.get_by_role("button", name="Chin").click()
        expect(page.get_by_role("region", name="Face map")).to_contain_text("Chin")

    def test_a_pass_on_skin_is_shown_and_acts_there_alone(self) -> None:
        page = self.page
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        self.add_pass("Light")
        cheek, jumper = (560, 1230), (800, 1900)
        skin, cloth = (self.pixels(*at) for at in (cheek, jumper))
        page.get_by_role("button", name="Mask everywhere").click()
        page.get_by_role("button", name="Area", exact=True).click()
        page.get_by_role("button", name="Zone of the face", exact=True).click()
        # The card grows when the area has come.
        expect(page.get_by_role("button", name="Remove the area")).to_be_visible()
        page.get_by_role("button", name="Tint", exact=True).click()
        tinted = self.until_painted(*cheek, skin)
        # The tint is green-blue, over skin alone.
        self.assertGreater((tinted[..., 1] - tinted[..., 0]).mean(), 5)
        np.testing.assert_allclose(self.pixels(*jumper), cloth, atol=3)
        page.get_by_role("button", name="Tint", exact=True).click()
        self.until_like(*cheek, skin, 3)
        exposure = page.get_by_label("Exposure, number")
        exposure.fill("1")
        exposure.press("Enter")
        bright = self.until_painted(*cheek, skin)
        self.assertGreater(bright.mean(), skin.mean() + 20)
        np.testing.assert_allclose(self.pixels(*jumper), cloth, atol=3)

    def test_a_zone_is_shown_and_corrected(self) -> None:
        page = self.page
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        zones = page.get_by_role("region", name="Zones")
        zones.get_by_label("Zone", exact=True).select_option("hair")
        zones.get_by_label("Show the zone").select_option("mask")
        shown = self.picture().locator("image[data-zone=hair]")
        expect(shown).to_be_visible()
        x, y = self.at(120, 1000)  # background, left of the head

        def grey() -> float:
            page.mouse.move(5, 400)
            shot = page.screenshot(clip={"x": x - 2, "y": y - 2, "width": 4, "height": 4})
            return float(_decode(shot).mean())

        self.assertLess(grey(), 20)
        zones.get_by_role("button", name="Brush").click()
        self.brush(60)
        href = shown.get_attribute("href")
        page.mouse.click(x, y)
        expect(zones.get_by_role("list", name="Corrections of Hair")).to_be_visible()
        expect(shown).not_to_have_attribute("href", href or "")
        self.assertGreater(grey(), 180)
        href = shown.get_attribute("href")
        page.get_by_role("button", name="Undo").click()
        expect(shown).not_to_have_attribute("href", href or "")
        self.assertLess(grey(), 20)

    def test_an_iris_measured_by_hand(self) -> None:
        page = self.page
        page.get_by_role("navigation", name="Stages").get_by_role("button", name="Look").click()
        faces = page.get_by_role("region", name="Faces")
        expect(faces).to_contain_text("px/mm")
        self.zoom_to(671, 850)
        faces.get_by_role("button", name="Measure an iris").click()
        start, end = self.at(671, 850), self.at(671 + 35, 850)
        page.mouse.move(*start)
        page.mouse.down()
        page.mouse.move(*end, steps=5)
        page.mouse.up()
        # 35 px of radius for 11.7 mm across.
        expect(faces).to_contain_text("5.98 px/mm", timeout=PATIENCE)
        expect(faces).to_contain_text("by hand")


class NoFace(BrowserTest):
    def test_it_is_said_and_everything_by_hand_works(self) -> None:
        data = portrait_file()
        one = library.take_in(self.user, io.BytesIO(data), "skin.png", len(data))
        self.open(one)
        expect(self.page.get_by_text("No face was found")).to_be_visible(timeout=PATIENCE)
        self.page.keyboard.press("1")
        self.sharp()
        self.brush(15)
        self.heal(60, 60)


def _decode(png: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(png)).convert("L"))

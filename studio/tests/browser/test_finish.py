"""Finish and Deliver in the window: looks, sets, a vignette on the face, presets, sheets."""

from __future__ import annotations

import io
import re
import tempfile
import zipfile
from pathlib import Path

import pyexiv2
from PIL import Image
from playwright.sync_api import expect

from studio.portraits.models import Portrait
from studio.portraits.services import desk, library, rows
from studio.tests.base import portrait_file
from studio.tests.browser.base import BrowserTest


class FinishAndDeliver(BrowserTest):
    def begin(self, name: str) -> None:
        self.in_features(name)
        stages = self.page.get_by_role("navigation", name="Stages")
        stages.get_by_role("button", name="Finish").click()

    def test_a_look_is_a_set_with_one_strength(self) -> None:
        self.begin("eli")
        at = (900.0, 1500.0)
        plain = self.pixels(*at)
        looks = self.page.get_by_role("region", name="Looks", exact=True)
        looks.get_by_role("button", name="Silver", exact=True).click()
        mono = self.until_painted(*at, plain)
        self.assertLess(float((mono.max(-1) - mono.min(-1)).mean()), 4)
        own = self.page.get_by_role("listitem", name="Set Silver")
        number = own.get_by_role("textbox", name="Strength, number")
        number.fill("0")
        number.press("Enter")
        self.until_like(*at, plain, 3)
        number.fill("50")
        number.press("Enter")
        half = self.until_painted(*at, plain)
        colour = [float((p.max(-1) - p.min(-1)).mean()) for p in (mono, half, plain)]
        self.assertLess(colour[0], colour[1])
        self.assertLess(colour[1], colour[2])
        own.get_by_role("button", name="Show its passes").click()
        panel = self.page.get_by_role("complementary", name="Passes")
        expect(panel.get_by_role("switch", name="Mono on or off")).to_be_visible()
        # Eased by brush where the whole set is: the picture's own colours come back there.
        number.fill("100")
        number.press("Enter")
        self.until_like(*at, mono, 3)
        self.page.get_by_role("button", name="Ease", exact=True).first.click()
        self.page.get_by_role("button", name="Whole set").click()
        self.page.mouse.click(*self.at(*at))
        self.until_like(*at, plain, 6)
        self.page.keyboard.press("Control+z")
        self.until_like(*at, mono, 3)
        more = self.page.get_by_role("button", name="More for the set Silver")
        more.click()
        self.page.get_by_role("button", name="Keep as a look").click()
        mine = looks.get_by_role("list", name="Looks of your own")
        expect(mine.get_by_role("button", name="Silver", exact=True)).to_be_visible()
        more.click()
        self.page.get_by_role("button", name="Rename", exact=True).click()
        field = self.page.get_by_role("textbox", name="Name of the set")
        field.fill(" Pewter ")
        field.press("Enter")
        own = self.page.get_by_role("listitem", name="Set Pewter")
        own.get_by_role("switch", name="Set Pewter on or off").click()
        self.until_like(*at, plain, 3)
        self.page.get_by_role("button", name="More for the set Pewter").click()
        self.page.get_by_role("button", name="Let its passes go").click()
        expect(own).to_have_count(0)
        self.saved()
        desk.forget_all()
        edit = rows.load(Portrait.objects.get(pk=self.one.pk)).edit
        self.assertTrue(all(p.bound is None and not p.enabled for p in edit.passes))

    def test_a_vignette_goes_to_the_face(self) -> None:
        self.begin("eli")
        corner = (60.0, 60.0)
        plain = self.pixels(*corner)
        self.add_pass("Vignette")
        darker = self.until_painted(*corner, plain)
        self.assertLess(float(darker.mean()), float(plain.mean()))
        self.page.get_by_role("button", name="Middle on the face").click()
        panel = self.page.get_by_role("complementary", name="Passes")
        expect(panel.get_by_role("textbox", name="Down, number")).not_to_have_value("50")

    def test_two_presets_are_delivered_and_it_is_told_what_was_done(self) -> None:
        self.begin("eli")
        self.add_pass("Split toning")
        self.saved()
        self.page.get_by_role("button", name="Deliver", exact=True).click()
        dialog = self.page.get_by_role("dialog")
        for name, form in (("Web", "webp"), ("Layers", "ora")):
            dialog.get_by_label("Format").select_option(form)
            dialog.get_by_label("Size by").select_option("side")
            dialog.get_by_label("Long side in pixels").fill("600")
            dialog.get_by_label("Name of the preset").fill(name)
            dialog.get_by_role("button", name="Keep", exact=True).click()
            dialog.get_by_label(f"Deliver {name}").check()
        dialog.get_by_label("Size by").select_option("print")
        dialog.get_by_label("Printed long side in centimetres").fill("40")
        expect(dialog.get_by_text("127 per inch, soft below 200")).to_be_visible()
        dialog.get_by_text("What was done, and sheets").click()
        told = dialog.get_by_role("list", name="What was done")
        expect(told.get_by_text(re.compile("split toning"))).to_be_visible()
        with self.page.expect_download() as waiting:
            dialog.get_by_role("button", name="Deliver 2 presets").click()
        expect(dialog.get_by_text(re.compile(r"is in your downloads"))).to_have_count(2)
        folder = Path(tempfile.mkdtemp())
        waiting.value.save_as(folder / "all.zip")
        with zipfile.ZipFile(folder / "all.zip") as packed:
            packed.extractall(folder)
        web, layers = (next(folder.glob(f"*.{e}")) for e in ("webp", "ora"))
        with Image.open(web) as image:
            self.assertEqual((image.format, max(image.size)), ("WEBP", 600))
        with zipfile.ZipFile(layers) as file:
            self.assertIn("data/layer001.png", file.namelist())

    def test_what_the_file_says_goes_into_what_is_delivered(self) -> None:
        with pyexiv2.ImageData(portrait_file("jpeg")) as image:
            image.modify_xmp(
                {"Xmp.dc.subject": ["window light", "portrait"], "Xmp.iptc.Location": "A street"}
            )
            data = bytes(image.get_bytes())
        self.open(library.take_in(self.user, io.BytesIO(data), "face.jpg", len(data)))
        self.page.get_by_role("button", name="Deliver", exact=True).click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_text("What its file says").click()
        expect(dialog.get_by_role("definition").first).to_have_text("window light, portrait")
        kept = dialog.get_by_label(re.compile("Keep what camera and file say"))
        kept.uncheck()
        expect(dialog.get_by_text("Left out of delivered files")).to_be_visible()
        kept.check()
        with self.page.expect_download() as waiting:
            dialog.get_by_role("button", name="Deliver", exact=True).click()
        with pyexiv2.Image(str(waiting.value.path())) as file:
            said = file.read_xmp()
        self.assertEqual(said["Xmp.dc.subject"], ["window light", "portrait"])
        self.assertNotIn("Xmp.iptc.Location", said)

    def test_the_picture_is_looked_at_as_it_will_be_printed(self) -> None:
        self.begin("eli")
        at = (900.0, 1500.0)
        plain = self.pixels(*at)
        self.page.get_by_role("button", name="Compare").click()
        printed = self.page.get_by_role("group", name="Compare", exact=True)
        printed.get_by_role("button", name="What it can't hold").click()
        # The pullover's blue is held: it is shown in grey.
        canvas = self.picture().locator("canvas").element_handle()
        self.page.wait_for_function(
            """(c) => { const d = c.getContext('2d').getImageData(c.width / 2, c.height * 0.9, 1, 1).data;
                        return Math.max(d[0], d[1], d[2]) - Math.min(d[0], d[1], d[2]) < 6; }""",
            arg=canvas,
        )
        pale = self.pixels(*at)
        expect(self.page.get_by_label("Colours of differences, CIEDE2000")).to_be_visible()
        printed.get_by_role("button", name="As printed").click()
        printed.get_by_role("switch", name="The paper's white and black").click()
        self.until_painted(*at, pale)
        printed.get_by_role("button", name="As it is").click()
        self.until_like(*at, plain, 3)

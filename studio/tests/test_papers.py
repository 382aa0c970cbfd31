"""Sheets and what goes with a delivery, through the API."""

from __future__ import annotations

import io
import json
import time
from typing import Any
from urllib.parse import quote

import pyexiv2
from PIL import Image

from studio.portraits.services import delivering, desk
from studio.tests.base import StudioTest, portrait_file


class Papers(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.demo("eli")
        self.at = f"/api/portraits/{self.one.id}"

    def done(self, **operation: object) -> None:
        answer = self.gesture(str(self.one.id), self.one.revision, **operation)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.one.refresh_from_db()

    def test_what_was_done_is_told_and_printed(self) -> None:
        self.done(op="add_pass", kind="redness", settings={"amount": 60.0})
        self.done(op="pull_proportions", by={"nose_wings": -3.0})
        told = self.client.get(f"{self.at}/disclosure").json()
        groups = [line["group"] for line in told["lines"]]
        self.assertEqual(groups, ["skin evened", "skin evened", "shape"])
        self.assertTrue(told["caption"])
        check = self.client.get(f"{self.at}/natural.pdf")
        self.assertEqual((check.status_code, check.content[:5]), (200, b"%PDF-"))
        sheet = self.client.get(f"{self.at}/disclosure.pdf")
        self.assertEqual(sheet["Content-Type"], "application/pdf")
        self.assertTrue(sheet.content.startswith(b"%PDF"))
        # Several lie in one folder: each names its portrait, in what letters it has.
        type(self.one).objects.filter(pk=self.one.pk).update(name='Zoë / "z"')
        named = self.client.get(f"{self.at}/disclosure.pdf")["Content-Disposition"]
        self.assertIn(quote("Zoë  z, what was done.pdf"), named)

    def test_before_and_after_with_a_detail(self) -> None:
        self.done(op="apply_look", name="silver", strength=100.0)
        found = self.client.get(f"{self.at}/compared?form=beside&file=jpeg&details=600,900,200,150")
        image = Image.open(io.BytesIO(found.content))
        self.assertGreater(image.width, 2 * 800)
        # On the right there is no colour any more.
        left, right = (image.getpixel((x, 900)) for x in (720, image.width - 720))
        self.assertGreater(max(left) - min(left), 10)
        self.assertLess(max(right) - min(right), 6)
        for bad in ("1,2,3", "0,0,0,9", "90000,0,5,5"):
            self.assertEqual(
                self.client.get(f"{self.at}/compared?details={bad}").status_code, 422, bad
            )

    def test_a_contact_sheet_of_ones_own_portraits(self) -> None:
        body = {"ids": [self.one.id], "title": "Today / “the” 😀"}
        made = self.client.post("/api/contact-sheet", body, content_type="application/json")
        self.assertTrue(made.content.startswith(b"%PDF"))
        body["ids"] = [self.one.id, "nobody"]
        gone = self.client.post("/api/contact-sheet", body, content_type="application/json")
        self.assertEqual(gone.status_code, 404)

    def test_a_look_has_a_sample_and_an_unknown_one_is_refused(self) -> None:
        plain, silver = (
            Image.open(io.BytesIO(self.client.get(f"{self.at}/looks/{n}/sample").content))
            for n in ("clean", "silver")
        )
        self.assertEqual(plain.size, silver.size)
        pixel = silver.getpixel((100, 100))
        self.assertLess(max(pixel) - min(pixel), 8)
        self.assertEqual(self.client.get(f"{self.at}/looks/nothing/sample").status_code, 404)
        self.assertEqual(len(self.client.get("/api/looks").json()), 8)

    def test_a_delivery_says_who_made_it_and_what_was_done(self) -> None:
        card = {
            "creator": "Mira Vogt",
            "rights": "© 2031",
            "email": "",
            "website": "",
            "title": "{portrait}, seen",
        }
        preset = {"name": "Web", "wish": {"format": "webp", "longSide": 600, "srgb": True}}
        body = {"keys": {}, "brushes": [], "kept": [], "card": card, "presets": [preset]}
        kept = self.client.patch("/api/preferences", body, content_type="application/json")
        self.assertEqual((kept.json()["card"], kept.json()["presets"]), (card, [preset]))
        self.done(op="add_pass", kind="redness", settings={"amount": 60.0})
        desk.forget_all()
        for tell in (True, False):
            wish = {"format": "webp", "long_side": 600, "profile": "srgb", "tell": tell}
            job = self.client.post(f"{self.at}/deliveries", wish, content_type="application/json").json()  # fmt: skip
            job = self.ended(job)
            self.assertEqual(job["state"], "done", json.dumps(job))
            self.assertTrue(job["file_name"].endswith(".webp"))
            made = self.client.get(f"/api/deliveries/{job['id']}/file")
            image = Image.open(io.BytesIO(b"".join(made.streaming_content)))  # type: ignore[attr-defined]
            said = image.info.get("xmp", b"").decode()
            self.assertEqual("Mira Vogt" in said and f">{self.one.name}, seen<" in said, tell)
            self.assertEqual("skin evened" in said and "Add Redness" in said, tell)

    def test_what_a_file_says_is_shown_and_delivered(self) -> None:
        with pyexiv2.ImageData(portrait_file("jpeg")) as image:
            image.modify_xmp(
                {
                    "Xmp.dc.title": {'lang="x-default"': "At the window"},
                    "Xmp.dc.subject": ["a", "b"],
                }
            )
            image.modify_iptc({"Iptc.Application2.Caption": "Before the première"})
            one = self.take_in(bytes(image.get_bytes()), "face.jpg")
        at = f"/api/portraits/{one.id}"
        self.assertEqual(
            self.client.get(f"{at}/said").json(),
            [
                {"title": "Title", "text": "At the window"},
                {"title": "Caption", "text": "Before the première"},
                {"title": "Keywords", "text": "a, b"},
            ],
        )
        self.assertEqual(self.client.get(f"{self.at}/said").json(), [])
        for wish, caption in (
            ({"format": "png"}, "Before the première"),
            ({"format": "png", "tell": False}, "Before the première"),
            ({"format": "png", "keep_metadata": False}, None),
        ):
            answer = self.client.post(f"{at}/deliveries", wish, content_type="application/json")
            job = self.ended(answer.json())
            self.assertEqual(job["state"], "done", json.dumps(job))
            made = self.client.get(f"/api/deliveries/{job['id']}/file")
            with pyexiv2.ImageData(b"".join(made.streaming_content)) as file:  # type: ignore[attr-defined]
                said = file.read_xmp()
            with self.subTest(str(wish)):
                self.assertEqual(
                    said.get("Xmp.dc.description", {}).get('lang="x-default"'), caption
                )
                self.assertEqual("Xmp.dc.subject" in said, caption is not None)

    def ended(self, job: Any) -> Any:
        end = time.monotonic() + 120
        while job["state"] in ("waiting", "working") and time.monotonic() < end:
            job = self.client.get(f"/api/deliveries/{job['id']}?wait=5").json()
        return job

    def test_files_are_named_by_a_pattern_that_every_file_system_takes(self) -> None:
        for pattern, name, wanted in (
            ("{portrait}, {date}", "Ana", "Ana, 2031-05-04"),
            ('{portrait} "web"', "a/b\\c:*?<x>|", "abcx web"),
            ("{portrait}", "\u202eevil\u2066 שלום 😀", "evil שלום 😀"),
            ("...", "Ana", "Portrait"),
            ("{portrait}", "x" * 400, "x" * 150),
        ):
            self.assertEqual(delivering.named(pattern, name, "2031-05-04"), wanted)

    def test_two_presets_of_one_name_are_refused(self) -> None:
        preset = {"name": "Web", "wish": {}}
        body = {"keys": {}, "brushes": [], "presets": [preset, {**preset, "name": "web"}]}
        answer = self.client.patch("/api/preferences", body, content_type="application/json")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("a preset", answer.json()["message"])

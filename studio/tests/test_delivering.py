"""Files as clients ask for them, through the API: sizes, profiles, names, together, begun again."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from PIL import Image

from retouch.picture.credentials import read
from retouch.picture.proof import built_in
from retouch.tests.test_proof import cmyk
from studio.portraits.models import Job
from studio.portraits.services import delivering
from studio.tests.base import StudioTest

P3 = built_in("display-p3") or b""


class Delivering(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()

    def made(self, **wish: Any) -> dict[str, Any]:
        answer = self.send(
            "POST", f"/portraits/{self.one.id}/deliveries", {"format": "png", **wish}
        )
        self.assertEqual(answer.status_code, 202, answer.content)
        return self.ended(answer.json())

    def ended(self, job: dict[str, Any]) -> dict[str, Any]:
        self.wait_until(lambda: self.told(job["id"])["state"] not in ("waiting", "working"))
        told = self.told(job["id"])
        self.assertEqual(told["state"], "done", json.dumps(told))
        return told

    def told(self, job_id: str) -> Any:
        return self.client.get(f"/api/deliveries/{job_id}").json()

    def image(self, job: dict[str, Any]) -> Image.Image:
        answer = self.client.get(f"/api/deliveries/{job['id']}/file")
        return Image.open(io.BytesIO(b"".join(answer.streaming_content)))  # type: ignore[attr-defined]

    def keep(self, icc: bytes, name: str = "a.icc") -> Any:
        return self.client.post("/api/profiles", {"file": SimpleUploadedFile(name, icc)})

    def test_sizes_in_centimetres_and_megapixels_and_a_border(self) -> None:
        printed = self.image(self.made(print_cm=2.54, per_inch=150))
        self.assertEqual(printed.size, (150, 112))
        self.assertAlmostEqual(printed.info["dpi"][0], 150, delta=0.1)
        self.assertEqual(self.image(self.made(megapixels=0.0192)).size, (160, 120))
        framed = self.image(self.made(border=5, border_lab=[0, 0, 0]))
        self.assertEqual(framed.size, (352, 272))
        self.assertEqual(framed.getpixel((3, 3)), (0, 0, 0))

    def test_a_profile_of_ones_own_is_delivered_in(self) -> None:
        kept = self.keep(P3).json()
        self.assertEqual(self.keep(P3).json()["id"], kept["id"])
        own = self.image(self.made(profile=kept["id"], intent="perceptual"))
        self.assertEqual(own.info["icc_profile"], P3)
        self.assertEqual(self.image(self.made(profile="display-p3")).info["icc_profile"], P3)
        listed = [p["id"] for p in self.client.get("/api/profiles").json()]
        self.assertEqual(listed, ["srgb", "display-p3", "press", kept["id"]])

    def test_profiles_that_cannot_be_used_are_refused_in_words(self) -> None:
        for icc in (b"no profile at all", P3[:-4], b""):
            self.assertEqual(self.keep(icc).status_code, 422)
        inks = self.keep(cmyk()).json()
        self.assertEqual(inks["space"], "CMYK")
        at = f"/portraits/{self.one.id}/deliveries"
        for wanted, status in ((inks["id"], 422), ("nothing", 404)):
            answer = self.send("POST", at, {"format": "png", "profile": wanted})
            self.assertEqual(answer.status_code, status)
        self.client.force_login(self.other)
        self.assertEqual(self.client.delete(f"/api/profiles/{inks['id']}").status_code, 404)
        self.assertEqual(len(self.client.get("/api/profiles").json()), 3)
        self.client.force_login(self.user)
        self.assertEqual(self.client.delete(f"/api/profiles/{inks['id']}").status_code, 204)

    def test_the_picture_is_seen_as_printed_and_what_that_cannot_hold(self) -> None:
        plain = self.pixels(self.one.id)
        same = self.pixels(self.one.id, show="proof", of="display-p3,relative,1,0")
        self.assertLess(float(np.abs(same - plain).mean()), 1)
        paper = self.pixels(self.one.id, show="proof", of="press,relative,0,1")
        self.assertGreater(float(np.abs(paper - plain).mean()), 1.5)
        inks = self.keep(cmyk()).json()["id"]
        self.pixels(self.one.id, show="proof", of=f"{inks},perceptual,1,0")
        # Skin is held by every printer; it is shown in pale grey.
        far = self.pixels(self.one.id, show="gamut", of="display-p3,relative,1,0")
        self.assertLess(float((far.max(-1) - far.min(-1)).mean()), 3)
        view = {"x": 0, "y": 0, "scale": 1, "width": 32, "height": 24, "show": "proof"}
        for wrong, status in (
            ("press", 422),
            ("press,odd,1,0", 422),
            ("nothing,relative,1,0", 404),
        ):
            answer = self.client.get(f"/api/portraits/{self.one.id}/view", {**view, "of": wrong})
            self.assertEqual(answer.status_code, status, wrong)

    def test_several_are_one_zip_with_names_of_their_own(self) -> None:
        first, second = self.made(name="Same"), self.made(name="same", border=2)
        third = self.made(name="{preset} {number}", preset="Web", number=3)
        ids = ",".join(j["id"] for j in (first, second, third))
        answer = self.client.get(f"/api/deliveries-packed?ids={ids}")
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:  # type: ignore[attr-defined]
            self.assertIsNone(archive.testzip())
            self.assertEqual(archive.namelist(), ["Same.png", "same 2.png", "Web 3.png"])
        self.assertEqual(self.client.get("/api/deliveries-packed?ids=").status_code, 422)
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"/api/deliveries-packed?ids={ids}").status_code, 404)

    def test_one_that_failed_is_listed_and_begun_again(self) -> None:
        done = self.made()
        # Too small a limit fails in words.
        answer = self.send("POST", f"/portraits/{self.one.id}/deliveries", {"format": "png", "most_bytes": 10_000})  # fmt: skip
        failed = answer.json()["id"]
        self.wait_until(lambda: self.told(failed)["state"] == "failed")
        listed = self.client.get(f"/api/portraits/{self.one.id}/deliveries").json()
        self.assertEqual([d["id"] for d in listed], [failed, done["id"]])
        row = Job.objects.get(pk=failed)
        row.data = {**row.data, "most_bytes": None}
        row.save()
        again = self.client.post(f"/api/deliveries/{failed}/again")
        self.assertEqual(again.status_code, 202)
        self.ended(again.json())
        # What is done isn't begun again.
        self.assertEqual(
            self.client.post(f"/api/deliveries/{failed}/again").json()["state"], "done"
        )
        self.client.force_login(self.other)
        self.assertEqual(self.client.post(f"/api/deliveries/{failed}/again").status_code, 404)

    def test_content_credentials_are_signed_and_stay_below_the_limit(self) -> None:
        self.heal(self.one.id, 0, 60, 60)
        job = self.made(format="jpeg", credentials=True, most_bytes=60_000, name="Signed")
        answer = self.client.get(f"/api/deliveries/{job['id']}/file")
        data = b"".join(answer.streaming_content)  # type: ignore[attr-defined]
        self.assertLess(len(data), 60_000)
        found = read(data, "jpeg")
        assert found is not None
        self.assertTrue(found.whole and found.test)
        self.assertIn("1 place healed", found.done)
        answer = self.send("POST", f"/portraits/{self.one.id}/deliveries", {"format": "ora", "credentials": True})  # fmt: skip
        self.assertEqual(answer.status_code, 422)
        with override_settings(CERTIFICATE="/nowhere/a.pem", CERTIFICATE_KEY="/nowhere/b.pem"):
            answer = self.send(
                "POST", f"/portraits/{self.one.id}/deliveries", {"credentials": True}
            )
            self.wait_until(lambda: self.told(answer.json()["id"])["state"] == "failed")
            self.assertIn("certificate can't be read", self.told(answer.json()["id"])["message"])

    def test_names_that_would_be_taken_for_one(self) -> None:
        used: set[str] = set()
        got = [delivering.unused(n, used) for n in ("a.jpg", "A.jpg", "a 2.jpg", "a.png")]
        self.assertEqual(got, ["a.jpg", "A 2.jpg", "a 2 2.jpg", "a.png"])
        self.assertEqual(delivering.named("{preset}", "{date}", "d", "{portrait}"), "{portrait}")

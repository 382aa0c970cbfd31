"""Uploads, names, deleting and taking back, thumbnails; whose portrait is whose."""

from __future__ import annotations

import hashlib
from datetime import timedelta
from pathlib import Path
from unittest import mock

import numpy as np
from django.conf import settings
from django.utils import timezone

from retouch.picture import read, read_bytes
from retouch.plain import plain
from studio.portraits.models import Portrait
from studio.portraits.services import diskcache, library
from studio.tests.base import SPOTS, StudioTest, portrait_file


class Uploads(StudioTest):
    def test_the_original_is_stored_untouched(self) -> None:
        for form, bits in (("png", 8), ("tiff", 16), ("jpeg", 8)):
            data = portrait_file(form, bits)
            answer = self.upload(data, f"Lena_Test.{form}")
            self.assertEqual(answer.status_code, 201, answer.content)
            body = answer.json()
            self.assertEqual((body["width"], body["height"], body["bits"]), (320, 240, bits))
            self.assertEqual(body["name"], "Lena Test")
            row = Portrait.objects.get(pk=body["id"])
            self.assertEqual(row.original.read_bytes(), data)
            self.assertEqual(row.sha256, hashlib.sha256(data).hexdigest())

    def test_bad_files_are_refused_in_words_and_leave_nothing(self) -> None:
        bad = {
            "empty.jpg": (b"", "empty"),
            "letter.jpg": (b"Dear aunt, " * 100, "isn't a picture"),
            "cut.png": (portrait_file()[:4000], "damaged"),
        }
        for name, (data, part) in bad.items():
            with self.subTest(name):
                answer = self.upload(data, name)
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertIn(part, answer.json()["message"])
        self.assertEqual(Portrait.objects.count(), 0)
        originals = Path(settings.ORIGINALS_DIR)
        self.assertEqual([p for p in originals.rglob("*") if p.is_file()], [])

    def test_size_limit(self) -> None:
        with mock.patch("studio.portraits.services.library.MOST_BYTES", 1000):
            answer = self.upload(portrait_file(), "big.png")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("MB", answer.json()["message"])

    def test_no_file(self) -> None:
        self.assertEqual(self.client.post("/api/portraits").status_code, 422)

    def test_strange_names(self) -> None:
        for given, want in (
            ("../../etc/pass.png", "pass"),
            ("C:\\pictures\\me.jpg", "me"),
            (".png", "Portrait"),
            ("a" * 300 + ".png", "a" * 200),
            ("ünï ☺.png", "ünï ☺"),
        ):
            self.assertEqual(library._clean_name(given), want)

    def test_names_lose_what_turns_the_direction_of_writing(self) -> None:
        one = self.take_in(name="Ro\u202egpj.\u2066sa.png")
        self.assertEqual(one.name, "Rogpj.sa")
        for path, name in (
            (f"/portraits/{one.id}", "A\u202eB\r\n"),
            (f"/portraits/{one.id}/takes", "A\u2067B\x07"),
        ):
            self.send("PATCH" if path.endswith(one.id) else "POST", path, {"name": name})
        one.refresh_from_db()
        self.assertEqual((one.name, one.takes.get().name), ("AB", "AB"))
        self.gesture(one.id, 0, op="add_pass", kind="light", name="L\u200fi\u202dt")
        self.assertEqual(self.desk(one.id)["passes"][0]["name"], "Lit")
        # Signs that make up others stay.
        self.assertEqual(
            plain("\U0001f469\u200d\U0001f3a8 नमस्ते"), "\U0001f469\u200d\U0001f3a8 नमस्ते"
        )


class Wall(StudioTest):
    def test_rename(self) -> None:
        one = self.take_in()
        self.assertEqual(
            self.send("PATCH", f"/portraits/{one.id}", {"name": " Nora "}).json()["name"], "Nora"
        )
        for bad in ("", "  ", "x" * 201):
            answer = self.send("PATCH", f"/portraits/{one.id}", {"name": bad})
            self.assertEqual(answer.status_code, 422)

    def test_deleted_portraits_can_be_taken_back_with_everything(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        healed = self.pixels(one.id)
        self.assertEqual(self.send("DELETE", f"/portraits/{one.id}").status_code, 200)
        self.assertEqual(self.send("GET", f"/portraits/{one.id}/desk").status_code, 404)
        self.assertEqual(self.send("GET", "/portraits").json(), [])
        gone = self.send("GET", "/portraits?deleted=true").json()
        self.assertEqual([p["id"] for p in gone], [one.id])
        self.assertEqual(self.send("POST", f"/portraits/{one.id}/restore").status_code, 200)
        np.testing.assert_array_equal(self.pixels(one.id), healed)
        self.assertEqual(self.send("POST", f"/portraits/{one.id}/restore").status_code, 404)

    def test_the_trash_is_emptied_after_its_time_and_not_before(self) -> None:
        old, fresh = self.take_in(), self.take_in()
        for portrait, days in ((old, settings.TRASH_DAYS + 1), (fresh, settings.TRASH_DAYS - 1)):
            library.delete(portrait)
            Portrait.objects.filter(pk=portrait.pk).update(
                deleted_at=timezone.now() - timedelta(days=days)
            )
        library.empty_trash()
        self.assertEqual(list(Portrait.objects.values_list("pk", flat=True)), [fresh.pk])
        self.assertFalse(old.original.exists())
        self.assertTrue(fresh.original.exists())

    def test_thumbnails_show_before_and_after(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0], radius=20)
        x, y = SPOTS[0]

        def green(side: str) -> float:
            answer = self.client.get(f"/api/portraits/{one.id}/thumbnail?side={side}")
            self.assertEqual(answer["Content-Type"], "image/jpeg")
            pixels = read_bytes(answer.content).pixels
            self.assertEqual(pixels.shape, (240, 320, 3))
            return float(pixels[y - 4 : y + 4, x - 4 : x + 4, 1].mean())

        self.assertGreater(green("after"), green("before") + 60)

    def test_missing_caches_are_made_again(self) -> None:
        one = self.take_in()
        for path in Path(settings.CACHE_DIR).rglob("*.jpg"):
            path.unlink()
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/thumbnail").status_code, 200)

    def test_disk_cache_keeps_to_its_budget(self) -> None:
        folder = Path(settings.CACHE_DIR) / "test"
        for n in range(5):
            diskcache.put(folder / f"{n}.bin", bytes(1000))
        diskcache.trim(folder, 2500)
        self.assertEqual(len(list(folder.iterdir())), 2)


class Ownership(StudioTest):
    def test_a_portrait_does_not_exist_for_others(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        job = self.send("POST", f"/portraits/{one.id}/deliveries", {}).json()["id"]
        view = "x=0&y=0&scale=1&width=9&height=9"
        calls = [
            ("GET", f"/portraits/{one.id}/desk", None),
            ("GET", f"/portraits/{one.id}/edit", None),
            ("GET", f"/portraits/{one.id}/history", None),
            ("GET", f"/portraits/{one.id}/view?{view}", None),
            ("GET", f"/portraits/{one.id}/thumbnail", None),
            ("PATCH", f"/portraits/{one.id}", {"name": "Mine"}),
            ("DELETE", f"/portraits/{one.id}", None),
            ("POST", f"/portraits/{one.id}/restore", None),
            ("POST", f"/portraits/{one.id}/deliveries", {}),
            ("POST", f"/portraits/{one.id}/history", {"revision": 1, "to": 0}),
            ("POST", f"/portraits/{one.id}/gestures",
             {"revision": 1, "operation": {"op": "add_pass", "kind": "heal"}}),
            ("POST", f"/portraits/{one.id}/draft",
             {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9}),
            ("GET", f"/deliveries/{job}", None),
            ("GET", f"/deliveries/{job}/file", None),
            ("DELETE", f"/deliveries/{job}", None),
        ]  # fmt: skip
        self.client.force_login(self.other)
        for method, path, body in calls:
            with self.subTest(f"{method} {path}"):
                self.assertEqual(self.send(method, path, body).status_code, 404)
        self.assertEqual(self.send("GET", "/portraits").json(), [])
        self.client.logout()
        for method, path, body in calls:
            with self.subTest(f"signed out: {method} {path}"):
                self.assertEqual(self.send(method, path, body).status_code, 401)
        self.client.force_login(self.user)
        self.assertEqual(self.desk(one.id)["portrait"]["revision"], 1)


class Stored(StudioTest):
    def test_the_stored_file_reads_as_the_upload(self) -> None:
        data = portrait_file("tiff", 16)
        one = self.take_in(data, "x.tif")
        np.testing.assert_array_equal(read(one.original).pixels, read_bytes(data).pixels)

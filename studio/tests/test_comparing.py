"""Takes, steps of the history, and what else a view can show than the result."""

from __future__ import annotations

import io
import zipfile
from datetime import timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from retouch.picture import openraster, read_bytes
from retouch.render.shows import CHANGE_STOPS
from studio.portraits.models import Portrait, Take
from studio.portraits.services import desk, library
from studio.tests.base import SPOTS, StudioTest, portrait_file


def layered() -> bytes:
    """An OpenRaster file of a picture and two layers over it, the upper one hidden."""
    plain = read_bytes(portrait_file()).pixels
    opaque = np.full_like(plain[..., :1], 255)
    layers = []
    for n, name in enumerate(("Skin", "Red/\u202ecorner")):
        one = np.concatenate([plain, opaque], 2)
        one[: 40 * n, :40] = (200, 20 + 100 * n, 20, 255)
        layers.append(openraster.Layer(name, one, visible=n == 0))
    return openraster.write(layers, plain, None)


LEFT = {"kind": "outline", "points": [[0, 0], [100, 0], [100, 240], [0, 240]]}


class Takes(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()
        self.url = f"/portraits/{self.one.id}/takes"

    def keep(self, name: str) -> Any:
        answer = self.send("POST", self.url, {"name": name})
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_kept_looked_at_returned_to_and_the_present_not_lost(self) -> None:
        raw = self.pixels(self.one.id)
        first = self.keep("  As   photographed ")
        self.assertEqual(first["name"], "As photographed")
        self.heal(self.one.id, 0, *SPOTS[0])
        healed = self.pixels(self.one.id, revision=1)
        second = self.keep("One spot gone")
        for take, want in ((first, raw), (second, healed)):
            got = self.pixels(self.one.id, show="take", of=take["id"])
            np.testing.assert_array_equal(got, want)
        back = self.gesture(
            self.one.id, 1, op="return_to_take", take_id=first["id"], name=first["name"]
        )
        self.assertEqual(back.json()["history"]["undo"], "Return to As photographed")
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=2), raw)
        self.step(self.one.id, 2, 1)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=3), healed)
        # Returning brings back the very passes, so a take can be left and entered at will.
        desk.forget_all()
        self.gesture(self.one.id, 3, op="return_to_take", take_id=second["id"], name="x")
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=3), healed)

    def test_renamed_drawn_small_and_deleted(self) -> None:
        take = self.keep("A")
        one = f"{self.url}/{take['id']}"
        self.assertEqual(self.send("PATCH", one, {"name": "B"}).json()["name"], "B")
        self.assertEqual([t["name"] for t in self.send("GET", self.url).json()], ["B"])
        small = read_bytes(self.client.get(f"/api{one}/thumbnail").content)
        self.assertEqual((small.width, small.height), (320, 240))
        self.assertEqual(self.send("PATCH", one, {"name": "  "}).status_code, 422)
        self.assertEqual(self.send("DELETE", one).status_code, 204)
        self.assertEqual(Take.objects.count(), 0)
        view = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9, "show": "take"}
        gone = self.client.get(f"/api/portraits/{self.one.id}/view", {**view, "of": take["id"]})
        self.assertEqual(gone.status_code, 404)
        self.assertEqual(self.send("DELETE", one).status_code, 404)

    def test_other_people_have_none_of_it(self) -> None:
        take = self.keep("Mine")
        self.client.force_login(self.other)
        for method, path in (
            ("GET", self.url), ("POST", self.url), ("DELETE", f"{self.url}/{take['id']}"),
        ):  # fmt: skip
            body = {"name": "x"} if method == "POST" else None
            self.assertEqual(self.send(method, path, body).status_code, 404)


class LayersAsTakes(StudioTest):
    def layers_of(self, one: str) -> Any:
        return self.send("GET", f"/portraits/{one}/layers")

    def test_each_layer_of_a_file_is_kept_on_request(self) -> None:
        answer = self.upload(layered(), "two.ora")
        self.assertEqual(answer.status_code, 201, answer.content)
        one = answer.json()["id"]
        self.assertEqual(self.layers_of(one).json(), ["Skin", "Red/corner"])
        np.testing.assert_array_equal(self.pixels(one), self.pixels(self.take_in().id))
        takes = []
        for n in (0, 1, 1):
            kept = self.send("POST", f"/portraits/{one}/layers/{n}")
            self.assertEqual(kept.status_code, 200, kept.content)
            takes.append(kept.json())
        self.assertEqual([t["name"] for t in takes], ["Skin", "Red/corner", "Red/corner"])
        # Asked for again it is the one there is.
        self.assertEqual(takes[1]["id"], takes[2]["id"])
        self.assertEqual(Take.objects.count(), 2)
        corner = self.pixels(one, show="take", of=takes[1]["id"])[10, 10]
        np.testing.assert_allclose(corner, (200, 120, 20), atol=2)
        np.testing.assert_array_equal(
            self.pixels(one, show="take", of=takes[0]["id"]), self.pixels(one)
        )
        # The pictures of layers are stored once each, and are no portraits of their own.
        self.assertEqual(Portrait.objects.filter(part_of=one).count(), 2)
        wall = self.send("GET", "/portraits").json()
        self.assertEqual(len(wall), 2)
        for part in Portrait.objects.filter(part_of=one):
            self.assertEqual(self.send("GET", f"/portraits/{part.id}/desk").status_code, 404)
        # One can be gone on from, and delivered.
        back = self.gesture(one, 0, op="return_to_take", take_id=takes[1]["id"], name="x")
        self.assertEqual(back.status_code, 200, back.content)
        np.testing.assert_allclose(self.pixels(one, revision=1)[10, 10], (200, 120, 20), atol=2)

    def test_they_go_with_their_portrait(self) -> None:
        one = self.upload(layered(), "two.ora").json()["id"]
        self.send("POST", f"/portraits/{one}/layers/1")
        folder = Portrait.objects.get(part_of=one).original.parent
        portrait = Portrait.objects.get(pk=one)
        library.delete(portrait)
        self.assertTrue(folder.exists())
        portrait.deleted_at = timezone.now() - timedelta(days=1000)
        portrait.save()
        library.empty_trash()
        self.assertFalse(folder.exists())
        self.assertEqual(Portrait.objects.count(), 0)

    def test_files_without_layers_and_wrong_numbers(self) -> None:
        plain = self.take_in()
        self.assertEqual(self.layers_of(plain.id).json(), [])
        one = self.upload(layered(), "two.ora").json()["id"]
        for number in (-1, 2, 10**12):
            self.assertEqual(
                self.send("POST", f"/portraits/{one}/layers/{number}").status_code, 404
            )
        self.assertEqual(self.send("POST", f"/portraits/{plain.id}/layers/0").status_code, 404)
        self.client.force_login(self.other)
        self.assertEqual(self.layers_of(one).status_code, 404)
        self.assertEqual(self.send("POST", f"/portraits/{one}/layers/0").status_code, 404)

    def test_a_layer_that_cant_be_laid_is_refused_in_words(self) -> None:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(layered())) as old, zipfile.ZipFile(out, "w") as new:
            for info in old.infolist():
                new.writestr(info, old.read(info).replace(b"svg:src-over", b"svg:dst-over"))
        one = self.upload(out.getvalue(), "odd.ora").json()["id"]
        answer = self.send("POST", f"/portraits/{one}/layers/0")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("can't be computed here", answer.json()["message"])
        self.assertEqual(Take.objects.count(), 0)


class Steps(StudioTest):
    def test_any_step_can_be_seen_and_has_a_small_picture_of_its_place(self) -> None:
        one = self.take_in()
        states = [self.pixels(one.id)]
        for n, spot in enumerate(SPOTS):
            self.heal(one.id, n, *spot)
            states.append(self.pixels(one.id, revision=n + 1))
        for n, want in enumerate(states):
            got = self.pixels(one.id, show="step", of=str(n))
            np.testing.assert_array_equal(got, want)
        entries = self.send("GET", f"/portraits/{one.id}/history").json()
        self.assertEqual([e["number"] for e in entries], [1, 2, 3])
        x0, y0, x1, y1 = entries[1]["region"]
        self.assertTrue(x0 < SPOTS[1][0] < x1 and y0 < SPOTS[1][1] < y1)
        # Step 1 healed the first spot: it is gone in its picture and there in the one before.
        url = f"/api/portraits/{one.id}/history"
        small = read_bytes(self.client.get(f"{url}/1/thumbnail").content).pixels
        middle = small[40:48, 40:48].mean((0, 1)).astype(float)
        x, y = SPOTS[0]
        np.testing.assert_allclose(
            middle, states[1][y - 4 : y + 4, x - 4 : x + 4].mean((0, 1)), atol=6
        )
        self.assertEqual(self.client.get(f"{url}/9/thumbnail").status_code, 404)
        bad = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9, "show": "step", "of": "-1"}
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/view", bad).status_code, 404)


class Shows(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()
        answer = self.gesture(
            self.one.id, 0, op="add_pass", kind="light", settings={"exposure_ev": -1.0},
            areas=[LEFT],
        )  # fmt: skip
        self.light = answer.json()["pass_id"]

    def show(self, name: str, of: str = "", **more: Any) -> np.ndarray:
        return self.pixels(self.one.id, show=name, of=of, **more)

    def test_the_mask_in_white_and_as_a_tint(self) -> None:
        mask = self.show("mask", self.light)
        self.assertGreater(int(mask[:, :96].min()), 250)
        self.assertLess(int(mask[:, 104:].max()), 5)
        tint, result = self.show("tint", self.light), self.show("result")
        self.assertLess(np.abs(tint - result)[:, 108:].max(), 6)
        self.assertGreater((tint - result)[:, :96, 1].mean(), 15)

    def test_a_drawn_mask_is_seen_before_it_is_saved(self) -> None:
        body = {
            "x": 0, "y": 0, "scale": 1, "width": 320, "height": 240, "show": "mask",
            "of": self.light,
            "operations": [{"op": "set_mask", "pass_id": self.light, "invert": True}],
        }  # fmt: skip
        answer = self.send("POST", f"/portraits/{self.one.id}/draft", body)
        mask = read_bytes(answer.content).pixels
        self.assertLess(int(mask[:, :96].max()), 5)
        self.assertGreater(int(mask[:, 104:].min()), 250)

    def test_the_effect_alone_is_grey_where_nothing_is_done(self) -> None:
        effect = self.show("effect", self.light)
        self.assertLess(np.abs(effect[:, 108:] - 127).max(), 4)
        self.assertLess(effect[:, :96].mean(), 60)

    def test_the_change_so_far_has_the_colours_of_its_scale(self) -> None:
        change = self.show("change")
        none, most = CHANGE_STOPS[0][1], CHANGE_STOPS[-1][1]
        np.testing.assert_allclose(change[:, 110:].mean((0, 1)), none, atol=3)
        # One stop darker is more than ten units.
        np.testing.assert_allclose(change[20:220, 10:90].mean((0, 1)), most, atol=12)
        scale = self.send("GET", "/change-scale").json()
        self.assertEqual(scale[-1], {"difference": CHANGE_STOPS[-1][0], "colour": list(most)})

    def test_boosted_colour_spreads_colours_and_not_light(self) -> None:
        plain, boosted = self.show("result"), self.show("boosted")
        x, y = SPOTS[1]
        red = np.s_[y - 3 : y + 3, x - 3 : x + 3]
        skin = np.s_[y + 30 : y + 40, x - 3 : x + 3]

        def redness(image: np.ndarray) -> float:
            a, b = (image[place][..., 0] - image[place][..., 1] for place in (red, skin))
            return float(a.mean() - b.mean())

        self.assertGreater(redness(boosted), 1.5 * redness(plain))

    def test_a_colour_is_sampled_from_the_original(self) -> None:
        url = f"/portraits/{self.one.id}/sample"
        light, a, b = self.send("GET", f"{url}?x=30&y=20").json()["lab"]
        self.assertTrue(40 < light < 95 and 2 < a < 40 and 2 < b < 40)
        self.assertEqual(self.send("GET", f"{url}?x=-500&y=20").status_code, 422)

    def test_wrong_wishes_are_refused_in_words(self) -> None:
        view = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9}
        url = f"/api/portraits/{self.one.id}/view"
        for wish, status in (
            ({"show": "mask", "of": "nobody"}, 404),
            ({"show": "tint", "of": "nobody"}, 404),
            ({"show": "band", "of": "sparkle"}, 404),
            ({"show": "fog"}, 422),
        ):
            with self.subTest(wish):
                answer = self.client.get(url, {**view, **wish})
                self.assertEqual(answer.status_code, status)
                self.assertTrue(answer.json()["message"])

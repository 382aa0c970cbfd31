"""The analysis as the API gives it: states, decisions, zones, and a worker that dies."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
from django.conf import settings

from studio.portraits.models import Portrait
from studio.portraits.services import analysing
from studio.tests.base import StudioTest, portrait_file

DEMO = settings.BASE_DIR / "demo" / "portraits"


def demo_face() -> bytes:
    """A demo portrait at six tenths of its size: quick to analyse, still with spots."""
    image = cv2.imread(str(DEMO / "dan.jpg"))
    small = cv2.resize(image, None, fx=0.6, fy=0.6, interpolation=cv2.INTER_AREA)
    return bytes(cv2.imencode(".png", small)[1])


class Analysing(StudioTest):
    def analysis(self, portrait: Portrait) -> Any:
        answer = self.send("GET", f"/portraits/{portrait.id}/analysis")
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def until(self, portrait: Portrait, ready: Callable[[Any], bool], seconds: float = 90) -> Any:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            found = self.analysis(portrait)
            if ready(found):
                return found
            time.sleep(0.1)
        self.fail(f"still {found['state']}: {found['doing']}")

    def done(self, portrait: Portrait) -> Any:
        return self.until(portrait, lambda a: a["state"] in ("done", "failed"))

    def test_no_face_is_a_clean_result(self) -> None:
        one = self.take_in(portrait_file())
        found = self.done(one)
        self.assertEqual((found["state"], found["faces"], found["marks"]), ("done", [], []))
        refused = self.gesture(one.id, 0, op="apply_routine", name="everyday")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("No face", refused.json()["message"])

    def test_the_story_of_a_face(self) -> None:
        one = self.take_in(demo_face())
        found = self.done(one)
        self.assertEqual(found["state"], "done", found["doing"])
        (face,) = found["faces"]
        self.assertTrue(face["plausible"])
        zones = {p["zone"] for p in found["places"]}
        self.assertTrue({"forehead", "nose", "chin", "lip_upper", "hair"} <= zones)
        red = [m for m in found["marks"] if m["proposal"] == "clear" and m["confidence"] > 0.5]
        self.assertGreater(len(red), 8)

        # A decision is a touch: it is remembered, counted, and can be undone.
        mark = red[0]
        decision = {"path": [[mark["x"], mark["y"]]], "values": {"decision": "keep"}}
        answer = self.gesture(one.id, 0, op="add_touches", kind="marks", touches=[decision],
                              label="1 mark: keep")  # fmt: skip
        self.assertEqual(answer.status_code, 200, answer.content)
        again = {m["id"]: m for m in self.analysis(one)["marks"]}
        self.assertEqual(again[mark["id"]]["decision"], "keep")
        self.step(one.id, 1, 0)
        again = {m["id"]: m for m in self.analysis(one)["marks"]}
        self.assertEqual(again[mark["id"]]["decision"], "clear")

        # Clearing makes ordinary heal touches, each of its own, in one gesture.
        touches = [
            {"path": [[m["x"], m["y"]]], "values": {"radius_px": round(1.15 * m["reach"] * 2) / 2}}
            for m in red
        ]
        answer = self.gesture(one.id, 2, op="add_touches", kind="heal", touches=touches)
        self.assertEqual(answer.status_code, 200, answer.content)
        heal = next(p for p in self.desk(one.id)["passes"] if p["kind"] == "heal")
        self.assertEqual(len(heal["touches"]), len(red))
        # None takes from where another mark is that was still there at its turn, nor from the lips.
        order = [t["path"][0] for t in heal["touches"]]
        for n, t in enumerate(heal["touches"]):
            sx, sy = t["path"][0][0] + t["source"][0], t["path"][0][1] + t["source"][1]
            later = order[n + 1 :]
            away = [np.hypot(sx - px, sy - py) for px, py in later]
            self.assertGreater(min(away, default=99), 3)
            at = {"name": "skin", "x": int(sx), "y": int(sy), "scale": 1, "width": 1, "height": 1}
            grey = self.client.get(f"/api/portraits/{one.id}/zone", at).content
            self.assertGreater(int(cv2.imdecode(np.frombuffer(grey, np.uint8), 0)[0, 0]), 80)
        found = self.analysis(one)
        cleared = {m["id"]: m["cleared"] for m in found["marks"]}
        self.assertTrue(all(cleared[m["id"]] for m in red))
        self.assertEqual(sum(p["touches"] for p in found["places"]), len(red))

        # The zone as a picture: white on the forehead, black beside the head.
        view = {"name": "skin", "x": 0, "y": 0, "scale": 0.5, "width": 375, "height": 468}
        answer = self.client.get(f"/api/portraits/{one.id}/zone", view)
        grey = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_GRAYSCALE)
        self.assertEqual(grey.shape, (468, 375))
        x, y, w, h = (v / 2 for v in face["box"])
        self.assertGreater(grey[int(y + 0.7 * h), int(x + 0.3 * w)], 230)
        self.assertLess(grey[10, 10], 5)

        self._passes_by_zone(one, face)

        # Said to be no face: the analysis of that state knows none; undone, the old one is back.
        x, y, w, h = face["box"]
        revision = self.desk(one.id)["portrait"]["revision"]
        at = self.send("GET", f"/portraits/{one.id}/desk").json()["history"]["at"]
        touch = {"path": [[x + w / 2, y + h / 2]], "values": {"what": "none"}}
        self.gesture(one.id, revision, op="add_touch", kind="faces", touch=touch)
        self.assertEqual(self.done(one)["faces"], [])
        self.step(one.id, revision + 1, at)
        self.assertEqual(len(self.analysis(one)["faces"]), 1)

    def _passes_by_zone(self, one: Portrait, face: Any) -> None:
        """A touch lands in the pass of its zone; a pass can be kept to a zone."""
        revision = self.desk(one.id)["portrait"]["revision"]
        x, y, r = face["irises"][0]
        opened = next(p["id"] for p in self.desk(one.id)["passes"] if p["kind"] == "heal")
        touch = {"path": [[x - 1.6 * r, y]], "values": {"radius_px": 3}}
        answer = self.gesture(
            one.id, revision, op="add_touch", kind="heal", pass_id=opened, touch=touch
        ).json()
        self.assertEqual(answer["changes"][0]["after"]["name"], "Eye whites")
        self.assertEqual(answer["history"]["undo"], "Heal, eye whites")
        # In the small white of an eye neither lashes nor iris nor skin are asked for its tone.
        self.assertGreater(len(answer["changes"][-1]["after"]["spare"]), 0)
        area = {"kind": "zone", "zone": "face_skin"}
        answer = self.gesture(
            one.id, revision + 1, op="add_pass", kind="light", areas=[area],
            settings={"exposure_ev": 1.0},
        ).json()  # fmt: skip
        view = {"x": 0, "y": 0, "scale": 0.5, "width": 375, "height": 468}
        mask = self._view(one, **view, show="mask", of=answer["pass_id"])
        bx, by, w, h = (v / 2 for v in face["box"])
        self.assertGreater(mask[int(by + 0.7 * h), int(bx + 0.3 * w), 0], 230)
        self.assertLess(mask[10, 10, 0], 5)
        change = self._view(one, **view, show="effect", of=answer["pass_id"])
        self.assertLess(abs(int(change[10, 10, 1]) - 127), 4)
        self.assertGreater(change[int(by + 0.7 * h), int(bx + 0.3 * w), 1], 180)
        self.gesture(one.id, revision + 2, op="remove_pass", id=answer["pass_id"])
        revision += 1
        # A pass on skin starts with the face's scale, the skin's own colour, and the skin as mask.
        answer = self.gesture(one.id, revision + 2, op="add_pass", kind="redness").json()
        made = next(p for p in self.desk(one.id)["passes"] if p["id"] == answer["pass_id"])
        self.assertAlmostEqual(made["fit"]["values"]["px_per_mm"], face["px_per_mm"], delta=0.05)
        own = made["fit"]["values"]
        self.assertTrue(50 < own["skin_l"] < 80 and 4 < own["skin_a"] < 20)
        self.assertEqual(made["settings"].keys() & own.keys(), set())
        areas = [(a["zone"], a["way"]) for a in made["mask"]["areas"]]
        apart = ("ears", "eyelids", "under_eye_right", "under_eye_left")
        self.assertEqual(areas, [("skin", "add"), *((zone, "take") for zone in apart)])
        # A routine is ordinary passes and heals of what is left to clear, one step of the history.
        before = len(self.desk(one.id)["passes"])
        answer = self.gesture(one.id, revision + 3, op="apply_routine", name="everyday")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["history"]["undo"], "Everyday routine")
        made = self.desk(one.id)["passes"]
        self.assertGreaterEqual(len(made), before + 4)
        self.assertTrue({"skin_bands", "redness", "shine", "shadows"} <= {p["kind"] for p in made})
        # How much texture is left is told zone by zone.
        read = self.send("GET", f"/portraits/{one.id}/texture").json()
        zones = {r["zone"]: r for r in read}
        self.assertTrue({"forehead", "nose"} <= zones.keys())
        for r in read:
            self.assertTrue(60 < r["texture"] < 120 and 0 <= r["change"] < 12, r)
        self.step(one.id, revision + 4, 2)

    def _view(self, one: Portrait, **query: Any) -> np.ndarray:
        answer = self.client.get(f"/api/portraits/{one.id}/view", query)
        self.assertEqual(answer.status_code, 200, answer.content)
        return cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)

    def test_a_killed_worker_is_replaced(self) -> None:
        one = self.take_in(demo_face())
        self.until(one, lambda a: a["state"] == "working")
        worker = analysing.worker()
        assert worker is not None
        os.kill(worker, signal.SIGKILL)
        found = self.done(one)
        self.assertEqual(found["state"], "done", found["doing"])
        self.assertEqual(len(found["faces"]), 1)
        self.assertNotEqual(analysing.worker(), worker)

    def test_a_file_cut_short_is_made_again(self) -> None:
        one = self.take_in(portrait_file())
        self.done(one)
        (path,) = (settings.ANALYSES_DIR / one.id).iterdir()
        path.write_bytes(path.read_bytes()[:40])
        analysing.stop()  # as a restart does
        self.assertEqual(self.done(one)["state"], "done")

    def test_other_people_see_nothing(self) -> None:
        one = self.take_in(portrait_file(), user=self.other)
        for method, path, body in (
            ("GET", "analysis", None), ("POST", "analysis", {}), ("PUT", "sweep", {"seen": []}),
            ("GET", "zone?name=skin&x=0&y=0&scale=1&width=9&height=9", None),
        ):  # fmt: skip
            with self.subTest(path):
                answer = self.send(method, f"/portraits/{one.id}/{path}", body)
                self.assertEqual(answer.status_code, 404)

    def test_bad_wishes(self) -> None:
        one = self.take_in(portrait_file())
        view = {"name": "skin", "x": 0, "y": 0, "scale": 1, "width": 20, "height": 20}
        for change, status in (
            ({"name": "halo"}, 404), ({"scale": 0}, 422), ({"scale": "nan"}, 422),
            ({"width": 0}, 422), ({"width": 100_000, "height": 100_000}, 422),
        ):  # fmt: skip
            with self.subTest(change):
                answer = self.client.get(f"/api/portraits/{one.id}/zone", {**view, **change})
                self.assertEqual(answer.status_code, status, answer.content)
                self.assertTrue(answer.json()["message"].endswith("."))
        for values in (
            {"zone": "halo"},
            {"zone": "hair", "way": "magic"},
            {"zone": "hair", "edges": 101},
        ):
            with self.subTest(values):
                answer = self.gesture(one.id, 0, op="add_touch", kind="zones",
                                      touch={"path": [[5, 5]], "values": values})  # fmt: skip
                self.assertEqual(answer.status_code, 422, answer.content)

    def test_the_sweep_is_remembered(self) -> None:
        one = self.take_in(portrait_file())
        answer = self.send("PUT", f"/portraits/{one.id}/sweep", {"seen": ["0-nose", "0-chin"]})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(self.analysis(one)["seen"], ["0-chin", "0-nose"])

"""Nothing that was accepted makes a portrait unopenable; keys pressed again are one step."""

from __future__ import annotations

import random
from datetime import UTC, datetime
from typing import Any

from studio.portraits.models import HistoryEntry, Pass, Portrait, Touch
from studio.portraits.services import desk
from studio.tests.base import SPOTS, StudioTest


class Opening(StudioTest):
    def test_rows_that_break_the_form_are_left_aside_and_named(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        self.gesture(one.id, 1, op="add_pass", kind="light", settings={"exposure_ev": 0.5})
        row = Pass.objects.get(kind="heal")
        Touch.objects.create(owner_pass=row, uid="far", position=9, path=[[900000, 1]], values={})
        Pass.objects.create(portrait=one, uid="odd", position=7, kind="sparkle", name="Tomorrow's")
        Pass.objects.filter(kind="light").update(name="x" * 200)
        desk.forget_all()
        opened = self.desk(one.id)
        self.assertEqual([p["kind"] for p in opened["passes"]], ["light", "heal"])
        self.assertEqual(len(opened["passes"][1]["touches"]), 1)
        self.assertEqual(len(opened["left"]), 2)
        self.assertIn("sparkle", " ".join(opened["left"]))
        # All that the bench does works on.
        light = opened["passes"][0]["id"]
        self.assertEqual(self.gesture(one.id, 2, op="duplicate_pass", id=light).status_code, 200)
        self.assertEqual(self.step(one.id, 3, 0).status_code, 200)
        self.pixels(one.id, revision=4)
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/thumbnail").status_code, 200)
        # … and what was left aside is still stored.
        self.assertTrue(Pass.objects.filter(uid="odd").exists())

    def test_random_gestures_and_restarts(self) -> None:
        """Whatever is accepted opens again; whatever isn't changes nothing."""
        draw = random.Random(7)
        one = self.take_in()
        revision = 0
        for _ in range(60):
            opened = self.desk(one.id)
            passes = opened["passes"]
            some = draw.choice(passes)["id"] if passes else "none"
            touches = [t["id"] for p in passes for t in p["touches"]]
            held = draw.choice(touches) if touches else "none"
            body: dict[str, Any] = draw.choice(
                [
                    {"op": "add_pass", "kind": draw.choice(["light", "redness", "nonsense"])},
                    {"op": "change_pass", "id": some, "name": "n" * draw.choice([5, 200, 201])},
                    {"op": "change_pass", "id": some, "strength": draw.choice([0, 55, 101])},
                    {"op": "duplicate_pass", "id": some},
                    {"op": "move_pass", "id": some, "index": draw.randrange(-2, 9)},
                    {"op": "remove_pass", "id": some},
                    {"op": "add_touch", "kind": "clone", "touch": {
                        "path": [[draw.randrange(0, 320), draw.randrange(0, 240)]],
                        "values": {"radius_px": draw.choice([4, 0, 30])}, "source": [20, 0]}},
                    {"op": "change_touches", "ids": [held], "shift": [draw.choice([3, 190000]), 0]},
                    {"op": "duplicate_touches", "ids": [held]},
                    {"op": "paint_mask", "pass_id": some, "stroke": {
                        "path": [[10, 10]], "radius_px": draw.choice([9, 5000])}},
                    {"op": "bring_passes", "portrait_id": one.id, "ids": [some]},
                ]
            )  # fmt: skip
            answer = self.gesture(one.id, revision, **body)
            self.assertLess(answer.status_code, 500, answer.content)
            self.assertTrue(answer.status_code == 200 or answer.json()["message"].endswith("."))
            if draw.random() < 0.3:
                desk.forget_all()
            again = self.desk(one.id)
            self.assertEqual(again["left"], [])
            revision = again["portrait"]["revision"]
            if answer.status_code != 200:
                self.assertEqual(again["passes"], passes)
        self.pixels(one.id, revision=revision)
        self.assertEqual(self.step(one.id, revision, 0).status_code, 200)
        self.assertEqual(self.desk(one.id)["passes"], [])


class OneStep(StudioTest):
    def press(self, one: Portrait, ident: str, value: float, goes_on: bool, **more: Any) -> Any:
        operation = {"op": "change_pass", "id": ident, "settings": {"exposure_ev": value}, **more}
        revision = self.desk(one.id)["portrait"]["revision"]
        body = {"revision": revision, "operation": operation, "goes_on": goes_on}
        answer = self.send("POST", f"/portraits/{one.id}/gestures", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def test_presses_that_go_on_are_one_and_undone_together(self) -> None:
        one = self.take_in()
        ident = self.gesture(one.id, 0, op="add_pass", kind="light").json()["pass_id"]
        for value in (0.1, 0.2, 0.3):
            said = self.press(one, ident, value, goes_on=True)
        self.assertEqual(said["history"]["at"], 2)
        self.press(one, ident, 0.4, goes_on=False)
        self.assertEqual(HistoryEntry.objects.count(), 3)
        revision = self.desk(one.id)["portrait"]["revision"]
        self.step(one.id, revision, 2)
        self.assertEqual(self.desk(one.id)["passes"][0]["settings"]["exposure_ev"], 0.3)
        self.step(one.id, revision + 1, 1)
        self.assertEqual(self.desk(one.id)["passes"][0]["settings"]["exposure_ev"], 0.0)
        self.step(one.id, revision + 2, 2)
        self.assertEqual(self.desk(one.id)["passes"][0]["settings"]["exposure_ev"], 0.3)

    def test_other_settings_and_other_passes_are_steps_of_their_own(self) -> None:
        one = self.take_in()
        first = self.gesture(one.id, 0, op="add_pass", kind="light").json()["pass_id"]
        second = self.gesture(one.id, 1, op="add_pass", kind="light").json()["pass_id"]
        self.press(one, first, 0.1, goes_on=True)
        self.press(one, second, 0.1, goes_on=True)
        self.assertEqual(HistoryEntry.objects.count(), 4)
        self.press(one, second, 0.2, goes_on=True, strength=50)
        self.assertEqual(HistoryEntry.objects.count(), 5)
        # However late it comes: the one who asks knows the hand's pauses.
        HistoryEntry.objects.update(created_at=datetime(2020, 1, 1, tzinfo=UTC))
        self.press(one, second, 0.3, goes_on=True, strength=60)
        self.assertEqual(HistoryEntry.objects.count(), 5)


class BadQuestions(StudioTest):
    def test_an_address_that_the_api_doesnt_have_is_told_as_its_problems_are(self) -> None:
        for path in ("/api/nowhere", "/api/portraits/x/y/z"):
            answer = self.client.get(path)
            with self.subTest(path):
                self.assertEqual(answer.status_code, 404)
                self.assertEqual(answer.json()["code"], "not_found")

    def test_answers_in_words(self) -> None:
        one = self.take_in()
        base = f"/api/portraits/{one.id}"
        view = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9}
        for path, query, status in (
            ("sample", {"x": "nan", "y": 4}, 422),
            ("sample", {"x": "inf", "y": 4}, 422),
            ("zone", {**view, "name": "skin", "face": 9}, 404),
            ("zone", {**view, "name": "skin", "face": -1}, 404),
            ("view", {**view, "scale": 1e-5}, 422),
            ("view", {**view, "x": 1e12}, 422),
            ("view", {**view, "width": 100_000, "height": 100_000}, 422),
        ):
            with self.subTest(path, query=query):
                answer = self.client.get(f"{base}/{path}", query)
                self.assertEqual(answer.status_code, status, answer.content)
                self.assertTrue(answer.json()["message"].endswith("."))

    def test_long_thin_pictures(self) -> None:
        """Refused where they are absurd; drawn in no time where they are only thin."""
        import io

        from PIL import Image

        def strip(width: int, height: int) -> bytes:
            out = io.BytesIO()
            Image.new("RGB", (width, height), (180, 140, 120)).save(out, "PNG")
            return out.getvalue()

        refused = self.upload(strip(48, 20_000), "thin.png")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("100 times as long", refused.json()["message"])
        one = self.take_in(strip(64, 6_000))
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/thumbnail").status_code, 200)

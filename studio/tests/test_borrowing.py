"""Borrowing and glasses through the API: what is laid over, what is gone, what is offered."""

from __future__ import annotations

import cv2
import numpy as np

from benchmarks.drawn_braces import braced
from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.picture import read
from studio.portraits.services import analysing, desk
from studio.tests.base import StudioTest


class Borrowing(StudioTest):
    def test_eyes_from_another_frame_and_what_happens_when_that_goes(self) -> None:
        closed, open_ = self.demo("dan-blink"), self.demo("dan")
        laid = self.client.get(f"/api/portraits/{closed.id}/laid-over", {"other": str(open_.id)})
        self.assertEqual(laid.status_code, 200, laid.content)
        self.assertEqual(laid.json()["picture"], open_.sha256)
        there, back = (np.array(laid.json()[k]) for k in ("there", "back"))
        place = np.array([700.0, 800.0, 1.0])
        again = back @ np.array([*(there @ place), 1.0])
        self.assertLess(float(np.abs(again - place[:2]).max()), 0.01)
        face = analysing.result(closed).faces[0]  # type: ignore[union-attr]
        x, y = int(face.right_iris.x), int(face.right_iris.y)
        eye = {"x": x - 20, "y": y - 12, "width": 40, "height": 24}
        before = self.pixels(str(closed.id), **eye)
        done = self.gesture(str(closed.id), 0, op="borrow", portrait=str(open_.id), part="eyes")
        self.assertEqual(done.status_code, 200, done.content)
        after = self.pixels(str(closed.id), revision=1, **eye)
        # Lids are light, an iris is dark.
        self.assertGreater(float(before.mean() - after.mean()), 25)
        state = self.desk(str(closed.id))
        touch = state["passes"][-1]["touches"][0]
        self.assertEqual(touch["elsewhere"]["picture"], open_.sha256)
        refused = self.client.delete(f"/api/portraits/{open_.id}")
        self.assertEqual((refused.status_code, refused.json()["code"]), (409, "borrowed_from"))
        self.assertIn(closed.name, refused.json()["message"])
        gone = self.client.delete(f"/api/portraits/{open_.id}?anyway=true")
        self.assertEqual(gone.status_code, 200, gone.content)
        desk.forget_all()
        query = {"x": x - 20, "y": y - 12, "width": 40, "height": 24, "scale": 1}
        missing = self.client.get(f"/api/portraits/{closed.id}/view", query)
        self.assertEqual(missing.status_code, 422, missing.content)
        self.assertIn("was deleted", missing.json()["message"])
        back_again = self.client.post(f"/api/portraits/{open_.id}/restore")
        self.assertEqual(back_again.status_code, 200)
        self.assertEqual(
            self.client.get(f"/api/portraits/{closed.id}/view", query).status_code, 200
        )

    def test_nobody_borrows_from_another_users_portrait(self) -> None:
        own = self.demo("dan-blink")
        done = self.gesture(str(own.id), 0, op="borrow", portrait="nothing-here", part="mouth")
        self.assertEqual(done.status_code, 404, done.content)


class Glasses(StudioTest):
    def test_they_are_offered_and_taken_off(self) -> None:
        one = self.demo("bela-glasses")
        found = self.client.get(f"/api/portraits/{one.id}/glasses").json()
        self.assertEqual(found["faces"], [0])
        self.assertEqual(sorted(r["burnt"] for r in found["reflections"]), [False, True, True])
        veil = next(r for r in found["reflections"] if not r["burnt"])
        done = self.gesture(str(one.id), 0, op="take_off_glasses", light=veil["place"])
        self.assertEqual(done.status_code, 200, done.content)
        self.assertEqual([p["kind"] for p in self.desk(str(one.id))["passes"]], ["lens_light"])
        rim = {"x": 790, "y": 1306, "width": 40, "height": 16}
        before = self.pixels(str(one.id), revision=1, **rim)
        done = self.gesture(str(one.id), 1, op="take_off_glasses")
        self.assertEqual(done.status_code, 200, done.content)
        after = self.pixels(str(one.id), revision=2, **rim)
        self.assertGreater(float(after.mean() - before.mean()), 15)

    def test_who_wears_none_is_told_so(self) -> None:
        one = self.demo("dan")
        self.assertEqual(
            self.client.get(f"/api/portraits/{one.id}/glasses").json(),
            {"faces": [], "braces": [], "reflections": []},
        )
        done = self.gesture(str(one.id), 0, op="take_off_glasses")
        self.assertEqual((done.status_code, done.json()["code"]), (422, "no_glasses"))


class BracesOffered(StudioTest):
    def test_they_are_found_and_taken_off_piece_by_piece(self) -> None:
        clean = read(DEMO / "portraits" / "eli.jpg").pixels
        drawn = braced(clean, understand("eli").analysis)
        ok, data = cv2.imencode(".png", drawn.pixels[..., ::-1])
        self.assertTrue(ok)
        portrait = self.take_in(data.tobytes(), "braces.png")
        self.wait_until(lambda: analysing.status(portrait).state == "done", 120)
        one = str(portrait.id)
        self.assertEqual(self.client.get(f"/api/portraits/{one}/glasses").json()["braces"], [0])
        done = self.gesture(one, 0, op="take_off_braces")
        self.assertEqual(done.status_code, 200, done.content)
        made = self.desk(one)["passes"][-1]
        self.assertEqual(made["name"], "Braces")
        # A piece that is switched off is back, and the others stay off.
        x, y = (round(v) for v in made["touches"][0]["path"][0])
        view = {"x": x - 12, "y": y - 12, "width": 24, "height": 24}
        off = self.pixels(one, revision=1, **view)
        gesture = {"op": "remove_touch", "id": made["touches"][0]["id"]}
        self.assertEqual(self.gesture(one, 1, **gesture).status_code, 200)
        self.assertGreater(float(abs(self.pixels(one, revision=2, **view) - off).max()), 20)

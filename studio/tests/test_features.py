"""Features through the API: kinds, routine, readings, red eyes."""

from __future__ import annotations

from studio.tests.base import StudioTest


class Features(StudioTest):
    def test_kinds_say_that_they_are_for_one_person_and_tell_numbers(self) -> None:
        kinds = {k["name"]: k for k in self.client.get("/api/kinds").json()}
        for name in ("eye_whites", "irises", "teeth", "lips", "brows"):
            self.assertTrue(kinds[name]["by_side"] and kinds[name]["reads"], name)
            self.assertEqual(kinds[name]["stage"], "features")
        self.assertFalse(kinds["redness"]["by_side"] or kinds["redness"]["reads"])
        stages = {r["name"]: r["stage"] for r in self.client.get("/api/routines").json()}
        self.assertEqual(stages["bright"], "features")
        self.assertEqual(stages["everyday"], "even")

    def test_red_eyes_are_offered_and_one_gesture_makes_them_dark(self) -> None:
        one = self.demo("ana-flash")
        found = self.client.get(f"/api/portraits/{one.id}/red-eyes").json()
        self.assertEqual([e["side"] for e in found], ["right", "left"])
        pupil = {
            "x": int(found[0]["x"]) - 8,
            "y": int(found[0]["y"]) - 8,
            "width": 16,
            "height": 16,
        }
        before = self.pixels(str(one.id), **pupil)
        touches = [
            {"path": [[e["x"], e["y"]]], "values": {"radius_px": e["radius_px"]}} for e in found
        ]
        done = self.gesture(str(one.id), 0, op="add_touches", kind="red_eye", touches=touches)
        self.assertEqual(done.status_code, 200, done.content)
        after = self.pixels(str(one.id), revision=1, **pupil)
        self.assertGreater(before[..., 0].mean(), 140)
        self.assertLess(after.max(), 60)

    def test_readings_follow_the_edit(self) -> None:
        one = self.demo("eli")
        done = self.gesture(
            str(one.id), 0, op="apply_routine", name="everyday", bright=True, spots_from=95
        )
        self.assertEqual(done.status_code, 200, done.content)
        passes = self.desk(str(one.id))["passes"]
        self.assertEqual(passes[-1]["kind"], "teeth")
        self.assertIn("redness", {p["kind"] for p in passes})
        teeth = passes[-1]["id"]

        def read() -> dict[str, dict[str, object]]:
            answer = self.client.get(f"/api/portraits/{one.id}/passes/{teeth}/readings")
            return {r["name"]: r for r in answer.json()["readings"]}

        subtle = read()
        self.assertFalse(subtle["ivory"]["beyond"])
        far = {"yellow": 100, "lighter": 100, "beyond": True}
        self.gesture(str(one.id), 1, op="change_pass", id=teeth, settings=far)
        plain = read()
        self.assertTrue(plain["ivory"]["beyond"])
        self.assertGreater(plain["whiteness"]["after"], subtle["whiteness"]["after"])
        self.gesture(str(one.id), 2, op="change_pass", id=teeth, enabled=False)
        self.assertEqual(read(), {})

    def test_what_warms_the_picture_above_the_teeth_is_said(self) -> None:
        one = self.take_in()
        teeth = self.gesture(str(one.id), 0, op="add_pass", kind="teeth").json()["pass_id"]
        warm = self.gesture(
            str(one.id), 1, op="add_pass", kind="white_balance", settings={"warmth": 20}
        ).json()["pass_id"]

        def notes() -> list[str]:
            answer = self.client.get(f"/api/portraits/{one.id}/passes/{teeth}/readings")
            return list(answer.json()["notes"])

        self.assertEqual(notes(), [])
        self.gesture(str(one.id), 2, op="move_pass", id=warm, index=1)
        self.assertEqual(len(notes()), 1)
        self.assertIn("yellows teeth", notes()[0])
        self.gesture(str(one.id), 3, op="change_pass", id=warm, settings={"warmth": -20})
        self.assertEqual(notes(), [])

    def test_what_a_pass_lacks_is_said(self) -> None:
        one = self.demo("dan")
        closed = self.gesture(str(one.id), 0, op="add_pass", kind="teeth").json()["pass_id"]
        answer = self.client.get(f"/api/portraits/{one.id}/passes/{closed}/readings").json()
        self.assertEqual(answer["readings"], [])
        self.assertIn("Nothing to act on is found here", answer["notes"][0])
        eyes = self.gesture(str(one.id), 1, op="add_pass", kind="irises").json()["pass_id"]
        answer = self.client.get(f"/api/portraits/{one.id}/passes/{eyes}/readings").json()
        self.assertEqual((len(answer["readings"]), answer["notes"]), (2, []))
        nobody = self.take_in()
        blind = self.gesture(str(nobody.id), 0, op="add_pass", kind="irises").json()["pass_id"]
        answer = self.client.get(f"/api/portraits/{nobody.id}/passes/{blind}/readings").json()
        self.assertIn("No iris of this person is known", answer["notes"][0])

    def test_what_isnt_there_tells_nothing(self) -> None:
        one = self.take_in()
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/red-eyes").json(), [])
        answer = self.client.get(f"/api/portraits/{one.id}/passes/gone/readings")
        self.assertEqual(answer.json(), {"readings": [], "notes": []})
        gone = self.client.get("/api/portraits/00000000-0000-0000-0000-000000000000/red-eyes")
        self.assertEqual(gone.status_code, 404)

    def test_no_face_is_said_by_bright(self) -> None:
        one = self.take_in()
        done = self.gesture(str(one.id), 0, op="apply_routine", name="bright")
        self.assertEqual(done.status_code, 422)
        self.assertIn("No face is known here", done.json()["message"])


class Sides(StudioTest):
    def test_a_side_is_kept_and_wrong_ones_are_refused(self) -> None:
        one = self.take_in()
        area = {"kind": "zone", "zone": "irises", "side": "left"}
        done = self.gesture(str(one.id), 0, op="add_pass", kind="light", areas=[area])
        self.assertEqual(done.status_code, 200, done.content)
        kept = self.desk(str(one.id))["passes"][0]["mask"]["areas"][0]
        self.assertEqual(kept["side"], "left")
        wrong = self.gesture(
            str(one.id), 1, op="add_pass", kind="light", areas=[area | {"side": "up"}]
        )
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("side", wrong.json()["message"])

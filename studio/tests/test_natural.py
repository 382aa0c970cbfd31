"""The natural check in the studio: of the portrait as it stands, of a step, as data; places to guess by."""

from __future__ import annotations

from studio.tests.base import StudioTest


class Natural(StudioTest):
    def test_what_crossed_a_limit_is_found_step_by_step(self) -> None:
        one = self.demo("ivo")
        for n, settings in enumerate(({"exposure_ev": 0.1}, {"exposure_ev": 1.4})):
            self.gesture(one.id, 2 * n, op="add_pass", kind="light")
            made = self.desk(one.id)["passes"][-1]["id"]
            self.gesture(one.id, 2 * n + 1, op="change_pass", id=made, settings=settings)
        told = [
            self.client.get(
                f"/api/portraits/{one.id}/natural/at", {"step": n, "reading": "shift", "face": 0}
            ).json()
            for n in range(5)
        ]
        self.assertEqual([t["amber"] for t in told], [False, False, False, False, True])
        self.assertEqual(told[0]["label"], "Opened")
        self.assertIn("Light", told[4]["label"])
        beyond = self.client.get(
            f"/api/portraits/{one.id}/natural/at", {"step": 9, "reading": "shift"}
        )
        self.assertEqual((beyond.status_code, beyond.json()["code"]), (404, "no_such_step"))
        nothing = self.client.get(
            f"/api/portraits/{one.id}/natural/at", {"step": 1, "reading": "nonsense", "face": 0}
        )
        self.assertIsNone(nothing.json()["value"])

    def test_the_check_as_data_has_what_was_done(self) -> None:
        one = self.demo("ivo")
        self.gesture(one.id, 0, op="add_pass", kind="light")
        made = self.desk(one.id)["passes"][0]["id"]
        self.gesture(one.id, 1, op="change_pass", id=made, settings={"exposure_ev": 1.4})
        data = self.client.get(f"/api/portraits/{one.id}/natural.json").json()
        self.assertIn("clipped", {r["name"] for r in data["readings"] if r["amber"]})
        self.assertIn("text", data["done"])
        # Zones that the sweep has shown are told apart from those it hasn't.
        self.assertNotIn("unseen", {r["name"] for r in data["readings"]})
        self.send("PUT", f"/portraits/{one.id}/sweep", {"seen": ["0-nose"]})
        again = self.send("GET", f"/portraits/{one.id}/natural").json()
        self.assertIn("unseen", {r["name"] for r in again})

    def test_places_to_guess_by_lie_where_something_was_done(self) -> None:
        one = self.demo("ivo")
        self.assertEqual(
            self.client.get(f"/api/portraits/{one.id}/natural/spots", {"seed": 1}).json(), []
        )
        self.heal(one.id, 0, 500, 600, 14)
        spots = self.client.get(f"/api/portraits/{one.id}/natural/spots", {"seed": 1}).json()
        self.assertTrue(spots)
        for spot in spots:
            self.assertTrue(spot["x"] <= 520 and spot["x"] + spot["width"] >= 480, spot)
            self.assertTrue(spot["y"] >= 0 and spot["y"] + spot["height"] <= one.height)
        same = self.client.get(f"/api/portraits/{one.id}/natural/spots", {"seed": 1}).json()
        self.assertEqual(spots, same)
        for bad in ({"seed": -1}, {"seed": 1, "count": 99}, {}):
            self.assertEqual(
                self.client.get(f"/api/portraits/{one.id}/natural/spots", bad).status_code, 422
            )

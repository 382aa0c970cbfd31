"""Passes: duplicated, ordered, switched by stage, carried to another portrait; their masks."""

from __future__ import annotations

from typing import Any

import numpy as np

from retouch.forms.form import from_data
from studio.portraits.models import HistoryEntry, MaskStroke
from studio.portraits.services import desk
from studio.tests.base import SPOTS, StudioTest

LEFT = {"kind": "outline", "points": [[0, 0], [100, 0], [100, 240], [0, 240]]}


def bring(portrait_id: str, ids: list[str]) -> dict[str, Any]:
    return {"op": "bring_passes", "portrait_id": portrait_id, "ids": ids}


class Passes(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()

    def done(self, revision: int, **operation: Any) -> Any:
        answer = self.gesture(self.one.id, revision, **operation)
        self.assertEqual(answer.status_code, 200, answer.content)
        return answer.json()

    def light(self, revision: int, ev: float = 1.0, **more: Any) -> str:
        body = self.done(
            revision, op="add_pass", kind="light", settings={"exposure_ev": ev}, **more
        )
        return str(body["pass_id"])

    def names(self) -> list[str]:
        return [p["name"] for p in self.desk(self.one.id)["passes"]]

    def test_duplicated_with_touches_and_strokes_of_its_own(self) -> None:
        self.heal(self.one.id, 0, *SPOTS[0])
        first = self.desk(self.one.id)["passes"][0]
        stroke = {"path": [[10, 10]], "radius_px": 4}
        self.done(1, op="paint_mask", pass_id=first["id"], stroke=stroke)
        self.done(2, op="duplicate_pass", id=first["id"])
        one, two = self.desk(self.one.id)["passes"]
        self.assertEqual([one["name"], two["name"]], ["Skin spots", "Skin spots copy"])
        self.assertEqual([one["strokes"], two["strokes"]], [1, 1])
        self.assertNotEqual(one["touches"][0]["id"], two["touches"][0]["id"])
        self.assertEqual(one["touches"][0]["source"], two["touches"][0]["source"])
        # As it is in the rows, after a restart, and after it was taken back and done again.
        desk.forget_all()
        self.assertEqual(self.desk(self.one.id)["passes"], [one, two])
        self.step(self.one.id, 3, 2)
        self.assertEqual(self.names(), ["Skin spots"])
        self.step(self.one.id, 4, 3)
        desk.forget_all()
        self.assertEqual(self.desk(self.one.id)["passes"], [one, two])

    def test_a_stage_is_switched_off_and_each_pass_is_as_it_was_before(self) -> None:
        raw = self.pixels(self.one.id)
        on, off = self.light(0), self.light(1, -1.0)
        self.done(2, op="change_pass", id=off, enabled=False)
        bright = self.pixels(self.one.id, revision=3)
        body = self.done(3, op="switch_stage", stage="look", on=False)
        self.assertEqual(body["history"]["undo"], "Look off")
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=4), raw)
        self.done(4, op="switch_stage", stage="look", on=True)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=5), bright)
        states = {p["id"]: p["enabled"] for p in self.desk(self.one.id)["passes"]}
        self.assertEqual(states, {on: True, off: False})

    def test_brought_to_another_portrait_of_the_same_person_only(self) -> None:
        self.heal(self.one.id, 0, *SPOTS[0])
        self.light(1, areas=[LEFT])
        ids = [p["id"] for p in self.desk(self.one.id)["passes"]]
        other = self.take_in(name="second.png")
        answer = self.gesture(other.id, 0, **bring(self.one.id, ids))
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["history"]["undo"], "Bring 2 passes")
        brought = self.desk(other.id)["passes"]
        self.assertEqual([p["kind"] for p in brought], ["light", "heal"])
        self.assertFalse({p["id"] for p in brought} & set(ids))
        self.assertEqual(brought[0]["mask"]["areas"][0]["points"], LEFT["points"])
        stranger = self.take_in(name="third.png", user=self.other)
        answer = self.gesture(self.one.id, 2, **bring(stranger.id, ids))
        self.assertEqual(answer.status_code, 404)
        answer = self.gesture(other.id, 1, **bring(self.one.id, ["no"]))
        self.assertEqual(answer.status_code, 404)

    def test_a_mask_of_areas_grown_inverted_and_copied(self) -> None:
        raw = self.pixels(self.one.id)
        one = self.light(0, areas=[LEFT])
        got = self.pixels(self.one.id, revision=1)
        np.testing.assert_array_equal(got[:, 112:], raw[:, 112:])  # a JPEG block apart
        self.assertTrue((got[:, :98] > raw[:, :98]).any())
        body = self.done(1, op="set_mask", pass_id=one, invert=True)
        self.assertEqual(body["history"]["undo"], f"Mask of {self.names()[0]}")
        got = self.pixels(self.one.id, revision=2)
        np.testing.assert_array_equal(got[:, :88], raw[:, :88])
        two = self.light(2, -1.0)
        self.done(3, op="copy_mask", pass_id=two, from_id=one)
        state = {p["id"]: p["mask"] for p in self.desk(self.one.id)["passes"]}
        self.assertEqual(state[two], state[one])
        bad = self.gesture(
            self.one.id, 4, op="set_mask", pass_id=one, areas=[{"kind": "zone", "zone": "elbow"}]
        )
        self.assertEqual(bad.status_code, 422)
        self.assertIn("no zone 'elbow'", bad.json()["message"])

    def test_the_history_keeps_each_stroke_once(self) -> None:
        one = self.light(0)
        path = [[x, 100] for x in range(10, 300, 3)]
        for n in range(6):
            self.done(n + 1, op="paint_mask", pass_id=one, stroke={"path": path, "radius_px": 9})
        sizes = [len(str(e.changes)) for e in HistoryEntry.objects.filter(number__gt=1)]
        self.assertLess(max(sizes), 1.2 * min(sizes))
        painted = self.pixels(self.one.id, revision=7)
        self.step(self.one.id, 7, 3)
        self.assertEqual(MaskStroke.objects.count(), 2)
        self.step(self.one.id, 8, 7)
        desk.forget_all()
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=9), painted)
        self.done(9, op="set_mask", pass_id=one, clear_strokes=True)
        self.assertEqual(MaskStroke.objects.count(), 0)
        self.assertEqual(self.desk(self.one.id)["passes"][0]["strokes"], 0)

    def test_the_edit_as_a_file_holds_the_strokes(self) -> None:
        one = self.light(0)
        self.done(1, op="paint_mask", pass_id=one, stroke={"path": [[9, 9]], "radius_px": 9})
        edit = from_data(self.send("GET", f"/portraits/{self.one.id}/edit").json())
        self.assertEqual(edit.passes[0].mask.strokes[0].radius_px, 9)

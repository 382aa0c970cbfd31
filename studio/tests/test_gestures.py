"""Gestures, history, and two windows on the same portrait."""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
from django.db import connection

from retouch.forms.form import from_data
from retouch.work import changes
from retouch.work.operations import AddPass
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Pass, Portrait, Touch
from studio.portraits.services import desk, gestures, rows
from studio.tests.base import SPOTS, StudioTest


class Gestures(StudioTest):
    def test_a_click_makes_its_pass_and_is_saved(self) -> None:
        one = self.take_in()
        done = self.heal(one.id, 0, *SPOTS[0])
        self.assertEqual(done.status_code, 200, done.content)
        body = done.json()
        self.assertEqual(body["revision"], 1)
        self.assertEqual([c["what"] for c in body["changes"]], ["pass", "touch"])
        self.assertEqual(body["history"]["undo"], "Heal")
        x0, y0, x1, y1 = body["dirty"]
        self.assertLessEqual(x1 - x0, 34)
        self.assertTrue(x0 <= SPOTS[0][0] <= x1 and y0 <= SPOTS[0][1] <= y1)
        state = self.desk(one.id)
        self.assertEqual(state["passes"][0]["name"], "Skin spots")
        self.assertIsNotNone(state["passes"][0]["touches"][0]["source"])
        # The second click lands in the same pass.
        self.heal(one.id, 1, *SPOTS[1])
        state = self.desk(one.id)
        self.assertEqual([len(p["touches"]) for p in state["passes"]], [2])

    def test_a_portrait_that_went_meanwhile_is_told_so(self) -> None:
        one = self.take_in()
        Portrait.objects.filter(pk=one.pk).delete()
        with self.assertRaisesRegex(Problem, "no such portrait any more"):
            gestures.perform(one, 0, AddPass("light"))

    def test_the_view_shows_the_heal_and_only_there(self) -> None:
        one = self.take_in()
        before = self.pixels(one.id)
        self.heal(one.id, 0, *SPOTS[0])
        after = self.pixels(one.id, revision=1)
        x, y = SPOTS[0]
        place = np.s_[y - 3 : y + 3, x - 3 : x + 3]
        self.assertGreater(after[place][..., 1].mean(), before[place][..., 1].mean() + 60)
        np.testing.assert_array_equal(after[100:], before[100:])
        original = self.pixels(one.id, show="original")
        np.testing.assert_array_equal(original, before)

    def test_touches_go_to_a_fitting_pass_only(self) -> None:
        one = self.take_in()
        self.gesture(one.id, 0, op="add_pass", kind="light")
        self.heal(one.id, 1, *SPOTS[0])
        names = [(p["kind"], len(p["touches"])) for p in self.desk(one.id)["passes"]]
        self.assertEqual(names, [("light", 0), ("heal", 1)])
        heal_id = self.desk(one.id)["passes"][1]["id"]
        self.gesture(one.id, 2, op="change_pass", id=heal_id, enabled=False)
        self.heal(one.id, 3, *SPOTS[1])
        names = [(p["name"], p["enabled"]) for p in self.desk(one.id)["passes"]]
        self.assertEqual(names[1:], [("Skin spots", False), ("Skin spots 2", True)])

    def test_bad_gestures_change_nothing(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        touch = self.desk(one.id)["passes"][0]["touches"][0]["id"]
        bad: list[tuple[dict[str, Any], int]] = [
            ({"op": "add_pass", "kind": "sparkle"}, 422),
            ({"op": "sparkle"}, 422),
            ({"op": "change_pass", "id": "nobody", "strength": 5}, 404),
            ({"op": "change_touch", "id": touch, "values": {"radius_px": 0}}, 422),
            ({"op": "change_touch", "id": touch, "path": []}, 422),
            ({"op": "remove_touch", "id": "nobody"}, 404),
            ({"op": "add_touch", "kind": "heal",
              "touch": {"path": [[160, 120]], "values": {"radius_px": 1900}}}, 422),
        ]  # fmt: skip
        for operation, status in bad:
            with self.subTest(operation):
                answer = self.gesture(one.id, 1, **operation)
                self.assertEqual(answer.status_code, status, answer.content)
                self.assertTrue(answer.json()["message"].endswith("."))
        self.assertEqual(self.desk(one.id)["portrait"]["revision"], 1)
        self.assertEqual(HistoryEntry.objects.count(), 1)

    def test_another_source_is_another_one(self) -> None:
        one = self.take_in()
        touch = self.heal(one.id, 0, *SPOTS[0]).json()["touch_id"]
        seen = [self.desk(one.id)["passes"][0]["touches"][0]["source"]]
        for revision in (1, 2):
            self.gesture(one.id, revision, op="change_touch", id=touch, new_source=True)
            seen.append(self.desk(one.id)["passes"][0]["touches"][0]["source"])
        self.assertEqual(len({tuple(s) for s in seen}), 3)


class History(StudioTest):
    """Undo and redo take back and bring back every kind of change, exactly."""

    def _states(self, portrait_id: str) -> list[dict[str, Any]]:
        """One gesture of each kind; the state after each."""
        revision = 0
        states = [self.desk(portrait_id)["passes"]]

        def do(**operation: Any) -> Any:
            nonlocal revision
            answer = self.gesture(portrait_id, revision, **operation)
            self.assertEqual(answer.status_code, 200, answer.content)
            revision += 1
            states.append(self.desk(portrait_id)["passes"])
            return answer.json()

        def spot(n: int, **more: Any) -> str:
            touch = {"path": [list(SPOTS[n])], "values": {"radius_px": 14}}
            return str(do(op="add_touch", kind="heal", touch=touch, **more)["touch_id"])

        first = spot(0)
        second = spot(1)
        third = spot(2)
        do(op="change_touch", id=second, path=[[155, 95]])
        do(op="change_touch", id=second, values={"radius_px": 20})
        do(op="change_touch", id=third, source=[30, -20])
        do(op="remove_touch", id=first)
        do(op="add_pass", kind="light", name="Bright")
        light = next(p["id"] for p in states[-1] if p["kind"] == "light")
        heal = next(p["id"] for p in states[-1] if p["kind"] == "heal")
        do(op="change_pass", id=light, settings={"exposure_ev": 0.5})
        do(op="change_pass", id=heal, strength=60)
        do(op="change_pass", id=heal, name="Chin", blend="luminosity")
        do(op="change_pass", id=heal, enabled=False)
        do(op="add_pass", kind="heal")
        do(op="move_pass", id=heal, index=0)
        do(op="move_pass", id=light, index=2)
        do(op="remove_pass", id=heal)
        return states

    def test_back_and_forth_over_everything(self) -> None:
        one = self.take_in()
        states = self._states(one.id)
        revision = len(states) - 1
        for direction in (-1, 1):
            order = range(len(states) - 1, -1, -1) if direction < 0 else range(len(states))
            for n in order:
                answer = self.step(one.id, revision, n)
                self.assertEqual(answer.status_code, 200, answer.content)
                revision += 1
                self.assertEqual(self.desk(one.id)["passes"], states[n], f"at step {n}")
                self.assertEqual(
                    rows.load(Portrait.objects.get(pk=one.pk)).edit,
                    from_data(
                        {
                            "version": 1,
                            "passes": [
                                {k: v for k, v in p.items() if k != "strokes"} for p in states[n]
                            ],
                        }
                    ),
                    "rows and memory agree",
                )

    def test_jumps_and_a_restart(self) -> None:
        one = self.take_in()
        states = self._states(one.id)
        revision = len(states) - 1
        for n in (3, 12, 0, 15, 7):
            desk.forget_all()  # as after a restart
            self.assertEqual(self.step(one.id, revision, n).status_code, 200)
            revision += 1
            desk.forget_all()
            self.assertEqual(self.desk(one.id)["passes"], states[n])

    def test_pixels_come_back_exactly(self) -> None:
        one = self.take_in()
        raw = self.pixels(one.id)
        self.heal(one.id, 0, *SPOTS[0])
        healed = self.pixels(one.id)
        self.step(one.id, 1, 0)
        np.testing.assert_array_equal(self.pixels(one.id), raw)
        self.step(one.id, 2, 1)
        np.testing.assert_array_equal(self.pixels(one.id), healed)

    def test_a_new_gesture_ends_what_could_be_redone(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        self.heal(one.id, 1, *SPOTS[1])
        self.step(one.id, 2, 1)
        answer = self.heal(one.id, 3, *SPOTS[2]).json()
        self.assertEqual((answer["history"]["at"], answer["history"]["count"]), (2, 2))
        self.assertIsNone(answer["history"]["redo"])
        self.assertEqual(self.step(one.id, 4, 3).status_code, 400)

    def test_labels_can_be_read(self) -> None:
        one = self.take_in()
        self._states(one.id)
        labels = [e["label"] for e in self.send("GET", f"/portraits/{one.id}/history").json()]
        self.assertIn("Chin off", labels)
        self.assertIn("Skin spots: strength 60 %", labels)
        self.assertIn("Bright: Exposure", labels)


class Changes(StudioTest):
    def test_reversing_twice_is_the_same(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        self.heal(one.id, 1, *SPOTS[1])
        entry = HistoryEntry.objects.order_by("number").last()
        assert entry is not None
        self.assertEqual(changes.reverse(changes.reverse(entry.changes)), entry.changes)


class TwoWindows(StudioTest):
    def test_a_stale_write_is_refused_and_told_the_revision(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        late = self.heal(one.id, 0, *SPOTS[1])
        self.assertEqual(late.status_code, 409)
        self.assertEqual(late.json()["code"], "stale")
        self.assertEqual(late.json()["revision"], 1)
        self.assertEqual(Touch.objects.count(), 1)
        self.assertEqual(self.step(one.id, 0, 0).status_code, 409)

    def test_a_view_of_another_revision_is_not_shown_as_this_one(self) -> None:
        """One on its way while a gesture was saved is only late; one that is ahead is refused."""
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        query = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9, "revision": 0}
        late = self.client.get(f"/api/portraits/{one.id}/view", query)
        self.assertEqual((late.status_code, late.content), (204, b""))
        self.assertEqual(late.headers["Portrait-Revision"], "1")
        ahead = self.client.get(f"/api/portraits/{one.id}/view", {**query, "revision": 2})
        self.assertEqual(ahead.status_code, 409)

    def test_many_at_once_lose_nothing(self) -> None:
        # Twelve writers at the same revision: one wins, the others are told; all get there.
        one = self.take_in()
        cookies = self.client.cookies
        statuses: list[int] = []

        def write(n: int) -> None:
            from django.test import Client

            client = Client()
            client.cookies = cookies
            for _ in range(60):
                revision = client.get(f"/api/portraits/{one.id}/desk").json()["portrait"][
                    "revision"
                ]
                touch = {"path": [[30 + 20 * n, 120]], "values": {"radius_px": 6}}
                body = {"op": "add_touch", "kind": "heal", "touch": touch}
                answer = client.post(
                    f"/api/portraits/{one.id}/gestures",
                    {"revision": revision, "operation": body},
                    content_type="application/json",
                )
                statuses.append(answer.status_code)
                if answer.status_code == 200:
                    break
            connection.close()

        threads = [threading.Thread(target=write, args=(n,)) for n in range(12)]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        self.assertEqual(statuses.count(200), 12)
        self.assertLessEqual(set(statuses), {200, 409})
        self.assertEqual(Touch.objects.count(), 12)
        self.assertEqual(Pass.objects.count(), 1)
        self.assertEqual(Portrait.objects.get(pk=one.pk).revision, 12)
        self.assertEqual(HistoryEntry.objects.count(), 12)


class Together(StudioTest):
    """Several touches as one gesture."""

    def touches(self, *places: tuple[float, float]) -> list[dict[str, Any]]:
        return [{"path": [list(p)], "values": {"radius_px": 14}} for p in places]

    def test_one_gesture_one_step(self) -> None:
        one = self.take_in()
        answer = self.gesture(one.id, 0, op="add_touches", kind="heal", label="Clear 3 marks",
                              touches=self.touches(*SPOTS))  # fmt: skip
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["history"]["undo"], "Clear 3 marks")
        (healing,) = self.desk(one.id)["passes"]
        self.assertEqual(len(healing["touches"]), 3)
        self.step(one.id, 1, 0)
        self.assertEqual(self.desk(one.id)["passes"], [])
        self.step(one.id, 2, 1)
        self.assertEqual(len(self.desk(one.id)["passes"][0]["touches"]), 3)

    def test_the_order_survives_a_restart(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        self.gesture(one.id, 1, op="add_touches", kind="heal", touches=self.touches(*SPOTS[1:]))
        before = self.desk(one.id)["passes"]
        desk.forget_all()
        self.assertEqual(self.desk(one.id)["passes"], before)

    def test_several_are_removed_at_once(self) -> None:
        one = self.take_in()
        self.gesture(one.id, 0, op="add_touches", kind="heal", touches=self.touches(*SPOTS))
        ids = [t["id"] for t in self.desk(one.id)["passes"][0]["touches"]]
        answer = self.gesture(one.id, 1, op="remove_touches", ids=ids[:2])
        self.assertEqual(answer.status_code, 200, answer.content)
        left = [t["id"] for t in self.desk(one.id)["passes"][0]["touches"]]
        self.assertEqual(left, ids[2:])
        self.step(one.id, 2, 1)
        again = [t["id"] for t in self.desk(one.id)["passes"][0]["touches"]]
        self.assertEqual(again, ids)

    def test_one_bad_touch_changes_nothing(self) -> None:
        one = self.take_in()
        bad = [*self.touches(SPOTS[0]), {"path": [[5, 5]], "values": {"radius_px": -1}}]
        answer = self.gesture(one.id, 0, op="add_touches", kind="heal", touches=bad)
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(self.desk(one.id)["passes"], [])
        for body in ({"touches": []}, {"touches": self.touches(SPOTS[0]), "label": "x" * 500}):
            with self.subTest(body):
                answer = self.gesture(one.id, 0, op="add_touches", kind="heal", **body)
                self.assertEqual(answer.status_code, 422)
        answer = self.gesture(one.id, 0, op="remove_touches", ids=["nobody"])
        self.assertEqual(answer.status_code, 404)

    def test_a_copy_from_a_given_place(self) -> None:
        one = self.take_in()
        touch = {
            "path": [[60, 60]],
            "values": {"radius_px": 10, "softness": 0},
            "source": [120, 60],
        }
        answer = self.gesture(one.id, 0, op="add_touch", kind="clone", touch=touch)
        self.assertEqual(answer.status_code, 200, answer.content)
        pixels = self.pixels(one.id)
        np.testing.assert_allclose(pixels[55:65, 55:65], pixels[115:125, 175:185], atol=12)

"""Patches, fills, easing, clips, and what is done to several touches at once."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.db import connection

from retouch.colour.depth import to_integers
from retouch.picture import Output, Picture, encode, read_bytes
from retouch.sources import fingerprint
from retouch.tests.scenes import skin
from studio.portraits.services import desk, working
from studio.tests.base import SPOTS, StudioTest


def box(x: float, y: float, r: float) -> list[list[float]]:
    return [[x - r, y - r], [x + r, y - r], [x + r, y + r], [x - r, y + r]]


class Clearing(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()

    def add(self, kind: str, path: list[list[float]], revision: int = 0, **touch: Any) -> Any:
        return self.gesture(
            self.one.id, revision, op="add_touch", kind=kind, touch={"path": path, **touch}
        )

    def touches(self) -> list[dict[str, Any]]:
        return [t for p in self.desk(self.one.id)["passes"] for t in p["touches"]]

    def place(self, x: float, y: float, half: int = 3) -> Any:
        return np.s_[int(y) - half : int(y) + half, int(x) - half : int(x) + half]

    def test_a_patch_finds_its_source_and_clears_the_spot(self) -> None:
        x, y = SPOTS[1]
        before = self.pixels(self.one.id)
        done = self.add("patch", box(x, y, 18))
        self.assertEqual(done.status_code, 200, done.content)
        self.assertIsNotNone(self.touches()[0]["source"])
        self.assertEqual(self.desk(self.one.id)["passes"][0]["name"], "Patches")
        after = self.pixels(self.one.id, revision=1)
        self.assertGreater(
            after[self.place(x, y)][..., 1].mean(), before[self.place(x, y)][..., 1].mean() + 60
        )

    def test_a_fill_spares_what_it_is_told_and_is_undone(self) -> None:
        x, y = SPOTS[1]
        before = self.pixels(self.one.id)
        spare = [box(60, 60, 25)]
        done = self.add("fill", [[x, y]], values={"radius_px": 14}, spare=spare)
        self.assertEqual(done.status_code, 200, done.content)
        self.assertEqual(self.touches()[0]["spare"], spare)
        after = self.pixels(self.one.id, revision=1)
        self.assertGreater(
            after[self.place(x, y)][..., 1].mean(), before[self.place(x, y)][..., 1].mean() + 60
        )
        self.step(self.one.id, 1, 0)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=2), before)

    def test_a_fill_is_kept_on_disk_and_made_again_without(self) -> None:
        x, y = SPOTS[1]
        self.add("fill", [[x, y]], values={"radius_px": 14})
        first = self.pixels(self.one.id, revision=1)
        files = list((Path(settings.CACHE_DIR) / "changes").iterdir())
        self.assertEqual(len(files), 1)
        change = np.load(files[0])
        # What is kept is what is shown after a restart …
        np.save(files[0], np.zeros_like(change))
        desk.forget_all()
        kept = self.pixels(self.one.id, revision=1)
        self.assertGreater(np.abs(kept - first)[self.place(x, y)].mean(), 20)
        # … by the same program: another one makes it anew, as it does where nothing is kept.
        files[0].rename(files[0].with_name(files[0].name.replace(fingerprint(), "0" * 16)))
        desk.forget_all()
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=1), first)
        # … and a damaged or missing file is no loss.
        for damage in (b"", b"no array", None):
            files[0].unlink() if damage is None else files[0].write_bytes(damage)
            desk.forget_all()
            np.testing.assert_array_equal(self.pixels(self.one.id, revision=1), first)

    def test_another_try_looks_different(self) -> None:
        x, y = SPOTS[1]
        self.add("fill", [[x, y]], values={"radius_px": 14})
        first = self.pixels(self.one.id, revision=1)
        touch = self.touches()[0]["id"]
        self.gesture(self.one.id, 1, op="change_touch", id=touch, values={"seed": 1})
        second = self.pixels(self.one.id, revision=2)
        self.assertGreater(np.abs(first.astype(int) - second)[self.place(x, y, 8)].mean(), 1)

    def test_a_long_fill_can_be_stopped_with_nothing_changed(self) -> None:
        answers: list[Any] = []

        def fill() -> None:
            answers.append(self.add("fill", box(160, 110, 62), values={"shape": "outline"}))
            connection.close()

        thread = threading.Thread(target=fill)
        thread.start()
        deadline = time.monotonic() + 60
        while working.progress(self.one.id) is None and time.monotonic() < deadline:
            time.sleep(0.002)  # until it has begun
        self.client.delete(f"/api/portraits/{self.one.id}/work")
        thread.join(60)
        self.assertEqual(answers[0].status_code, 422, answers[0].content)
        self.assertEqual(answers[0].json()["code"], "stopped")
        self.assertEqual(self.desk(self.one.id)["portrait"]["revision"], 0)
        work = self.client.get(f"/api/portraits/{self.one.id}/work").json()
        self.assertEqual(work, {"done": None})

    def test_bad_places_are_refused_in_words(self) -> None:
        whole = [[0, 0], [320, 0], [320, 240], [0, 240]]
        bad: list[tuple[dict[str, Any], str]] = [
            ({"kind": "patch", "path": [[5, 5], [9, 9]]}, "needs 3 points"),
            ({"kind": "patch", "path": []}, "needs 1 point"),
            ({"kind": "patch", "path": whole}, "no clean place"),
            ({"kind": "patch", "path": box(60, 60, 10), "source": [5000, 0]}, "outside of the picture"),
            ({"kind": "heal", "path": [[60, 60]], "source": [-4000, 0]}, "outside of the picture"),
            ({"kind": "fill", "path": whole, "values": {"shape": "outline"}}, "too large"),
            ({"kind": "fill", "path": box(60, 60, 15), "values": {"shape": "outline"}, "spare": [whole]},
             "Nothing is left"),
            ({"kind": "fill", "path": [[60, 60]], "values": {"radius_px": 9000}}, "radius_px"),
            ({"kind": "fill", "path": [[60, 60]], "spare": [[[1, 1]]]}, "spare needs 3 points"),
        ]  # fmt: skip
        for case, words in bad:
            with self.subTest(words):
                kind, path = case.pop("kind"), case.pop("path")
                answer = self.add(kind, path, **case)
                self.assertEqual(answer.status_code, 422, answer.content)
                self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.touches(), [])

    def test_eased_brought_back_and_undone(self) -> None:
        x, y = SPOTS[0]
        raw = self.pixels(self.one.id)
        self.heal(self.one.id, 0, x, y)
        healed = self.pixels(self.one.id, revision=1)
        one = self.desk(self.one.id)["passes"][0]["id"]
        stroke = {"path": [[x, y]], "radius_px": 30, "softness": 0, "flow": 100}
        done = self.gesture(self.one.id, 1, op="paint_mask", pass_id=one, stroke=stroke)
        self.assertEqual(done.status_code, 200, done.content)
        x0, y0, x1, y1 = done.json()["dirty"]
        self.assertLess((x1 - x0) * (y1 - y0), 70 * 70)
        self.assertEqual(done.json()["history"]["undo"], "Ease Skin spots")
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=2), raw)
        back = {**stroke, "reveal": True}
        self.gesture(self.one.id, 2, op="paint_mask", pass_id=one, stroke=back)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=3), healed)
        self.step(self.one.id, 3, 2)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=4), raw)

    def test_clipped_and_unclipped_keeping_what_was_eased(self) -> None:
        self.heal(self.one.id, 0, *SPOTS[0])
        self.heal(self.one.id, 1, *SPOTS[1])
        raw = self.pixels(self.one.id, show="original")
        one = self.desk(self.one.id)["passes"][0]["id"]
        stroke = {"path": [[5, 5]], "radius_px": 3}
        self.gesture(self.one.id, 2, op="paint_mask", pass_id=one, stroke=stroke)
        area = {"kind": "outline", "points": box(*SPOTS[0], 20), "feather_px": 1}
        done = self.gesture(self.one.id, 3, op="set_mask", pass_id=one, areas=[area], label="Clip")
        self.assertEqual(done.json()["history"]["undo"], "Clip Skin spots")
        self.assertEqual(done.status_code, 200, done.content)
        clipped = self.pixels(self.one.id, revision=4)
        np.testing.assert_array_equal(
            clipped[self.place(*SPOTS[1], 12)], raw[self.place(*SPOTS[1], 12)]
        )
        self.assertGreater(np.abs(clipped.astype(int) - raw)[self.place(*SPOTS[0])].mean(), 20)
        self.gesture(self.one.id, 4, op="set_mask", pass_id=one, areas=[])
        found = self.desk(self.one.id)["passes"][0]
        self.assertEqual((found["mask"]["areas"], found["strokes"]), ([], 1))

    def test_several_touches_at_once(self) -> None:
        for n, spot in enumerate(SPOTS):
            self.heal(self.one.id, n, *spot)
        ids = [t["id"] for t in self.touches()]
        done = self.gesture(self.one.id, 3, op="change_touches", ids=ids[:2], enabled=False)
        self.assertEqual(done.status_code, 200, done.content)
        self.assertEqual([t["enabled"] for t in self.touches()], [False, False, True])
        raw = self.pixels(self.one.id, show="original")
        out = self.pixels(self.one.id, revision=4)
        np.testing.assert_array_equal(out[self.place(*SPOTS[0])], raw[self.place(*SPOTS[0])])
        self.gesture(
            self.one.id, 4, op="change_touches", ids=ids, shift=[4, -2], values={"opacity": 50}
        )
        moved = self.touches()
        self.assertEqual(moved[0]["path"], [[SPOTS[0][0] + 4, SPOTS[0][1] - 2]])
        self.assertEqual({t["values"]["opacity"] for t in moved}, {50})
        self.gesture(self.one.id, 5, op="duplicate_touches", ids=ids[1:])
        self.assertEqual(len(self.touches()), 5)
        copy, own = self.touches()[3], self.touches()[1]
        # A copy lies beside and takes from the same place.
        for k in range(2):
            self.assertAlmostEqual(
                copy["path"][0][k] + copy["source"][k],
                own["path"][0][k] + own["source"][k],
                delta=1,
            )
        self.step(self.one.id, 6, 3)
        self.assertEqual([t["enabled"] for t in self.touches()], [True] * 3)
        self.assertEqual(self.touches()[0]["path"], [list(map(float, SPOTS[0]))])

    def test_an_outline_on_a_strong_edge_gets_a_hint(self) -> None:
        image = skin(240, 320)
        image[:, 160:] *= np.float32(0.35)
        split = self.take_in(encode(Picture(to_integers(image, 8)), Output("png")))
        clear = self.gesture(
            split.id,
            0,
            op="add_touch",
            kind="patch",
            touch={"path": box(70, 120, 20), "source": [0, 60]},
        ).json()
        self.assertIsNone(clear["notice"])
        crossing = {"path": box(160, 120, 20), "source": [0, 60]}
        done = self.gesture(split.id, 1, op="add_touch", kind="patch", touch=crossing).json()
        self.assertIn("strong edge", done["notice"])
        copied = {**crossing, "values": {"way": "copy"}}
        done = self.gesture(split.id, 2, op="add_touch", kind="patch", touch=copied).json()
        self.assertIsNone(done["notice"])

    def test_a_copied_mark_is_found_as_a_repeat(self) -> None:
        plain, marked = [250, 60], [-100, 30]
        away = {"path": [plain], "values": {"radius_px": 18, "softness": 0}, "source": marked}
        self.gesture(self.one.id, 0, op="add_touch", kind="clone", touch=away)
        clean = {"path": [[200, 200]], "values": {"radius_px": 18}, "source": [-100, 0]}
        self.gesture(self.one.id, 1, op="add_touch", kind="clone", touch=clean)
        one = self.desk(self.one.id)["passes"][0]
        found = self.send("GET", f"/portraits/{self.one.id}/passes/{one['id']}/repeats").json()
        self.assertEqual([r["touch_id"] for r in found], [one["touches"][0]["id"]])
        gone = self.send("GET", f"/portraits/{self.one.id}/passes/nobody/repeats")
        self.assertEqual(gone.status_code, 404)

    def test_without_a_face_there_is_no_other_side(self) -> None:
        self.heal(self.one.id, 0, *SPOTS[0])
        touch = self.touches()[0]["id"]
        answer = self.gesture(self.one.id, 1, op="change_touch", id=touch, mirrored=True)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("no other side", answer.json()["message"])

    def test_bands_are_shown_and_worked_in(self) -> None:
        view = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240, "px_per_mm": 8}
        view["show"] = "band"
        url = f"/api/portraits/{self.one.id}/view"
        spots = read_bytes(self.client.get(url, {**view, "of": "bumps"}).content).pixels.astype(int)
        grey = spots[225:, :60].mean()
        self.assertAlmostEqual(grey, 128, delta=12)
        x, y = SPOTS[0]
        self.assertLess(spots[y - 2 : y + 2, x - 2 : x + 2, 1].mean(), 60)
        self.assertEqual(self.client.get(url, {**view, "of": "sparkle"}).status_code, 404)
        self.assertEqual(
            self.client.get(url, {**view, "of": "tone", "px_per_mm": 0}).status_code, 422
        )
        settings = {"band": "tone", "divide_mm": 1}
        for n, band in enumerate(("tone", "all", "tone")):
            wanted = {"settings": settings} if band == "tone" else {}
            self.gesture(
                self.one.id, n, op="add_touch", kind="heal",
                touch={"path": [SPOTS[n]], "values": {"radius_px": 15}}, **wanted,
            )  # fmt: skip
        found = [
            (p["name"], p["settings"]["band"], len(p["touches"]))
            for p in self.desk(self.one.id)["passes"]
        ]
        self.assertEqual(found, [("Tone: heal", "tone", 2), ("Skin spots", "all", 1)])

    def test_other_people_see_no_work(self) -> None:
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"/api/portraits/{self.one.id}/work").status_code, 404)
        self.assertEqual(self.client.delete(f"/api/portraits/{self.one.id}/work").status_code, 404)

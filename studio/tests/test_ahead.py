"""Pixels computed while a gesture is saved are the ones that the window then asks for."""

from __future__ import annotations

import base64
import threading
import time
import unittest
from collections.abc import Callable
from dataclasses import replace
from typing import Any
from unittest.mock import patch

import numpy as np

from retouch.edit import Edit
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.picture import read_bytes
from studio.portraits.services import viewing
from studio.portraits.services.ahead import Ahead, Overtaken, part_of
from studio.portraits.services.view_request import ViewRequest
from studio.tests.base import SPOTS, StudioTest

SEEN = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240}


class Kept(unittest.TestCase):
    """Pictures under way, without a studio around them."""

    VIEW = ViewRequest(0, 0, 1, 8, 8)

    def test_what_fails_is_told_where_it_is_asked_for(self) -> None:
        """Not where a gesture is saved, which has gone well."""
        ahead, edit = Ahead(), Edit()

        def fails(overtaken: Overtaken) -> bytes:
            raise OSError("no disk")

        ahead.start("p", edit, self.VIEW, fails)
        self.assertIsNone(ahead.ready("p", edit, self.VIEW, 5))
        with self.assertRaisesRegex(OSError, "no disk"):
            ahead.take("p", edit, self.VIEW)

    def test_what_takes_longer_stays_to_be_taken(self) -> None:
        ahead, edit, go = Ahead(), Edit(), threading.Event()

        def slow(overtaken: Overtaken) -> bytes:
            go.wait(20)
            return b"done"

        ahead.start("p", edit, self.VIEW, slow)
        self.assertIsNone(ahead.ready("p", edit, self.VIEW, 0.01))
        go.set()
        self.assertEqual(ahead.ready("p", edit, self.VIEW, 20), b"done")
        self.assertIsNone(ahead.take("p", edit, self.VIEW))

    @staticmethod
    def until_overtaken(ended: threading.Event) -> Callable[[Overtaken], bytes]:
        """A view whose passes go on until it is overtaken."""

        def slow(overtaken: Overtaken) -> bytes:
            deadline = time.monotonic() + 20
            while not overtaken() and time.monotonic() < deadline:
                time.sleep(0.002)  # such as a pass
            ended.set()
            raise Cancelled("overtaken")

        return slow

    def test_what_another_edit_overtakes_ends(self) -> None:
        ahead, ended = Ahead(), threading.Event()
        ahead.start("p", Edit(), self.VIEW, self.until_overtaken(ended))
        other = replace(self.VIEW, width=16)
        ahead.start("p", Edit(), other, lambda overtaken: b"new")
        self.assertTrue(ended.wait(20))

    def test_a_guess_ends_where_something_is_wanted_and_stays_once_it_is_made(self) -> None:
        ahead, edit, ended = Ahead(), Edit(), threading.Event()
        ahead.start("p", edit, self.VIEW, self.until_overtaken(ended), guess=True)
        ahead.hurry()
        self.assertTrue(ended.wait(20))
        self.assertIsNone(ahead.take("p", edit, self.VIEW))
        done = threading.Event()
        ahead.start("p", edit, self.VIEW, lambda overtaken: done.set() or b"made", guess=True)
        self.assertTrue(done.wait(20))
        # What is asked for waits for it, and so ends nothing.
        self.assertEqual(ahead.take("p", edit, self.VIEW), b"made")

    def test_another_edit_gets_nothing(self) -> None:
        ahead = Ahead()
        ahead.start("p", Edit(), self.VIEW, lambda overtaken: b"old")
        self.assertIsNone(ahead.ready("p", Edit(), self.VIEW, 1))


class LookAhead(StudioTest):
    def bytes_of(self, portrait_id: str, part: ViewRequest) -> bytes:
        query = {n: getattr(part, n) for n in ("x", "y", "scale", "width", "height")}
        answer = self.client.get(f"/api/portraits/{portrait_id}/view", query)
        self.assertEqual(answer.status_code, 200, answer.content)
        return bytes(answer.content)

    def heal_seen(self, portrait_id: str, revision: int, **seen: Any) -> Any:
        x, y = SPOTS[revision]
        touch = {"path": [[x, y]], "values": {"radius_px": 15}}
        operation = {"op": "add_touch", "kind": "heal", "touch": touch}
        return self.send(
            "POST",
            f"/portraits/{portrait_id}/gestures",
            {"revision": revision, "operation": operation, "seen": {**SEEN, **seen}},
        )

    def test_the_changed_part_is_made_early_and_just_as_later(self) -> None:
        one = self.take_in()
        with patch.object(viewing, "_MOST_IN_ANSWER", 0):
            answer = self.heal_seen(one.id, 0).json()
        part = part_of(ViewRequest(**SEEN), Rect(*answer["dirty"]))
        assert part is not None
        self.assertEqual([k for k in viewing._ahead._kept if k[0] == one.id], [(one.id, part)])
        early = self.bytes_of(one.id, part)
        self.assertEqual([k for k in viewing._ahead._kept if k[0] == one.id], [])
        self.assertEqual(early, self.bytes_of(one.id, part))

    def test_small_parts_come_with_the_answer_and_are_those_asked_for(self) -> None:
        one = self.take_in()
        for make in (lambda: self.heal_seen(one.id, 0).json(), lambda: self.undone(one.id)):
            answer = make()
            pixels = answer["pixels"]
            part = part_of(ViewRequest(**SEEN), Rect(*answer["dirty"]))
            assert part is not None
            self.assertEqual({n: pixels[n] for n in SEEN}, {n: getattr(part, n) for n in SEEN})
            self.assertEqual(base64.b64decode(pixels["jpeg"]), self.bytes_of(one.id, part))

    def undone(self, portrait_id: str) -> Any:
        body = {"revision": 1, "to": 0, "seen": SEEN}
        return self.send("POST", f"/portraits/{portrait_id}/history", body).json()

    def test_no_pixels_where_nothing_of_it_is_seen(self) -> None:
        one = self.take_in()
        self.assertIsNone(
            self.heal_seen(one.id, 0, x=200, y=150, width=60, height=60).json()["pixels"]
        )
        x, y = SPOTS[1]
        touch = {"path": [[x, y]], "values": {"radius_px": 15}}
        body = {"revision": 1, "operation": {"op": "add_touch", "kind": "heal", "touch": touch}}
        answer = self.send("POST", f"/portraits/{one.id}/gestures", body)
        self.assertIsNone(answer.json()["pixels"])

    def test_large_parts_are_left_for_the_window_to_ask_for(self) -> None:
        one = self.take_in()
        with patch.object(viewing, "_MOST_IN_ANSWER", 100):
            answer = self.heal_seen(one.id, 0).json()
        self.assertIsNone(answer["pixels"])
        part = part_of(ViewRequest(**SEEN), Rect(*answer["dirty"]))
        self.assertIn((one.id, part), viewing._ahead._kept)

    def test_what_the_hand_did_comes_before_passes_above_have_followed(self) -> None:
        one = self.take_in()
        added = self.gesture(one.id, 0, op="add_pass", kind="heal").json()
        self.gesture(one.id, 1, op="add_pass", kind="shine", areas=[])
        x, y = SPOTS[2]
        touch = {"path": [[x, y]], "values": {"radius_px": 15}}
        operation = {
            "op": "add_touch", "kind": "heal", "pass_id": added["pass_id"], "touch": touch,
        }  # fmt: skip
        body = {"revision": 2, "operation": operation, "seen": SEEN}
        with patch.object(viewing, "_MOST_IN_ANSWER", 100):
            # Nothing is known of what the pass above adds until the view was looked at.
            path = f"/portraits/{one.id}/gestures"
            self.assertIsNone(self.send("POST", path, body).json()["pixels"])
            self.step(one.id, 3, 2)
            before = self.pixels(one.id)
            answer = self.send("POST", path, {**body, "revision": 4}).json()
        nearly = answer["pixels"]
        self.assertTrue(nearly["nearly"])
        shown = read_bytes(base64.b64decode(nearly["jpeg"])).pixels.astype(int)
        left, top = round(nearly["x"]), round(nearly["y"])
        here = np.s_[top : top + nearly["height"], left : left + nearly["width"]]
        self.assertLess(shown.size, before.size // 4)
        after = self.pixels(one.id)
        self.assertGreater(np.abs(after - before)[here].max(), 15)
        self.assertLess(np.abs(shown - after[here]).mean(), 1.0)

    def test_pixels_of_an_edit_that_is_no_longer_the_present_one_are_not_shown(self) -> None:
        one = self.take_in()
        dirty = self.heal_seen(one.id, 0).json()["dirty"]
        part = part_of(ViewRequest(**SEEN), Rect(*dirty))
        assert part is not None
        self.step(one.id, 1, 0)
        undone = self.bytes_of(one.id, part)
        viewing._ahead._kept.clear()
        self.assertEqual(undone, self.bytes_of(one.id, part))

    def test_a_step_of_the_history_looks_ahead_too(self) -> None:
        one = self.take_in()
        self.heal_seen(one.id, 0)
        with patch.object(viewing, "_MOST_IN_ANSWER", 0):
            answer = self.send("POST", f"/portraits/{one.id}/history",
                               {"revision": 1, "to": 0, "seen": SEEN})  # fmt: skip
        part = part_of(ViewRequest(**SEEN), Rect(*answer.json()["dirty"]))
        self.assertIn((one.id, part), viewing._ahead._kept)

    def test_an_impossible_view_is_refused_and_nothing_saved(self) -> None:
        one = self.take_in()
        for bad in ({"scale": 0}, {"width": 10**5, "height": 10**5}):
            self.assertEqual(self.heal_seen(one.id, 0, **bad).status_code, 422, bad)
        self.assertEqual(self.desk(one.id)["portrait"]["revision"], 0)

    def test_parts_keep_to_blocks_of_eight_and_to_the_view(self) -> None:
        view = ViewRequest(100, 50, 0.5, 200, 100)
        part = part_of(view, Rect(150, 60, 170, 90))
        assert part is not None
        # Screen pixels 25..35 and 5..20, two more around, out to blocks.
        self.assertEqual((part.x, part.y, part.width, part.height), (132.0, 50.0, 24, 24))
        self.assertIsNone(part_of(view, Rect(0, 0, 40, 40)))

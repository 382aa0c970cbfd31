"""What the first slider move or stroke needs is made before the hand moves, and changes nothing."""

from __future__ import annotations

import base64
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from retouch.memory import shared
from retouch.picture import read_bytes
from studio.portraits.models import Portrait
from studio.portraits.services import desk, readying, viewing
from studio.portraits.services.view_request import ViewRequest
from studio.tests.base import StudioTest

SEEN = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240}


class Readying(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()
        self.passes = []
        for n, kind in enumerate(("skin_bands", "even_light", "redness")):
            answer = self.gesture(self.one.id, n, op="add_pass", kind=kind, areas=[]).json()
            self.passes.append(answer["pass_id"])
        self.pixels(self.one.id)

    def kept(self) -> int:
        """Bytes that are kept of pictures below and above passes."""
        return desk.renderer_of(self.one).belows.used

    def ready(self, hand: readying.Hand) -> None:
        """For a slider of the lowest pass, or strokes on the top one."""
        portrait = Portrait.objects.get(pk=self.one.id)
        acting = self.passes[0 if hand == "slider" else -1]
        readying.make_ready(portrait, ViewRequest(**SEEN), acting, hand).result(60)

    def stroke(self) -> Any:
        stroke = {"path": [[100, 100], [120, 110]], "radius_px": 40, "softness": 50, "flow": 40}
        operation = {"op": "paint_mask", "pass_id": self.passes[-1], "stroke": stroke}
        body = {"revision": 3, "operation": operation, "seen": SEEN}
        return self.send("POST", f"/portraits/{self.one.id}/gestures", body).json()

    def slide(self) -> bytes:
        operation = {"op": "change_pass", "id": self.passes[0], "settings": {"middle": -60}}
        body = {**SEEN, "revision": 3, "operations": [operation]}
        answer = self.send("POST", f"/portraits/{self.one.id}/draft", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        return bytes(answer.content)

    def test_a_slider_finds_all_it_needs(self) -> None:
        before = self.kept()
        self.ready("slider")
        after = self.kept()
        self.assertGreater(after, before)
        first = self.slide()
        self.assertEqual(self.kept(), after)
        desk.forget_all()
        self.assertEqual(self.slide(), first)

    def test_a_stroke_finds_what_its_pass_makes(self) -> None:
        before = self.kept()
        self.ready("stroke")
        after = self.kept()
        self.assertGreater(after, before)
        pixels = self.stroke()["pixels"]
        self.assertEqual(self.kept(), after)
        desk.forget_all()
        sent = read_bytes(base64.b64decode(pixels.pop("jpeg"))).pixels
        np.testing.assert_array_equal(self.pixels(self.one.id, **pixels), sent)

    def test_what_is_looked_at_next_is_made_ahead_and_is_the_same(self) -> None:
        part = {"x": 40.0, "y": 30.0, "scale": 1.0, "width": 200, "height": 150}
        before = shared().held

        def until(what: Callable[[], bool]) -> None:
            deadline = time.monotonic() + 60
            while not what() and time.monotonic() < deadline:
                time.sleep(0.02)
            self.assertTrue(what())

        # Somebody looked a moment ago: the processors are theirs.
        body = {"hand": "look", "seen": part}
        self.assertEqual(
            self.send("POST", f"/portraits/{self.one.id}/ready", body).status_code, 202
        )
        until(lambda: viewing.calm.now)
        self.assertEqual(shared().held, before)
        self.assertEqual(
            self.send("POST", f"/portraits/{self.one.id}/ready", body).status_code, 202
        )
        until(lambda: shared().held > before)
        guessed = self.pixels(self.one.id, **part)
        # It was that one, which is kept no longer.
        self.assertEqual(shared().held, before)
        desk.forget_all()
        np.testing.assert_array_equal(self.pixels(self.one.id, **part), guessed)

    def test_nothing_of_it_is_saved_or_seen(self) -> None:
        before = self.pixels(self.one.id)
        for hand in ("slider", "stroke"):
            self.ready(hand)  # type: ignore[arg-type]
        self.assertEqual(self.desk(self.one.id)["portrait"]["revision"], 3)
        np.testing.assert_array_equal(self.pixels(self.one.id), before)

    def test_what_is_overtaken_stops(self) -> None:
        portrait, kept = Portrait.objects.get(pk=self.one.id), self.kept()
        wish = ViewRequest(**SEEN)
        readying.make_ready(portrait, wish, self.passes[0], "slider", lambda: True).result(60)
        self.assertEqual(self.kept(), kept)

    def test_the_answer_does_not_wait_and_refuses_what_is_not_there(self) -> None:
        def ask(**other: Any) -> int:
            body = {"pass_id": self.passes[0], "hand": "stroke", "seen": SEEN, **other}
            return int(self.send("POST", f"/portraits/{self.one.id}/ready", body).status_code)

        self.assertEqual(ask(), 202)
        self.assertEqual(ask(pass_id="gone"), 404)
        self.assertEqual(ask(hand="foot"), 422)
        self.assertEqual(ask(seen={**SEEN, "scale": 0}), 422)
        # Beside the picture there is nothing to make; that is no fault of the hand.
        self.assertEqual(ask(seen={**SEEN, "x": 5000}), 202)
        self.client.force_login(self.other)
        self.assertEqual(ask(), 404)

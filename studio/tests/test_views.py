"""Views with unsaved operations, limits, and requests that were overtaken; deliveries."""

from __future__ import annotations

import threading
from dataclasses import replace
from typing import Any

import numpy as np

from retouch.errors import Cancelled
from retouch.picture import Output, encode, read_bytes
from retouch.picture.metadata import to_pillow
from retouch.tests.test_pictures import camera_data, wide_profile
from studio.portraits.services import delivering, desk, viewing
from studio.tests.base import SPOTS, StudioTest, portrait_file


class Drafts(StudioTest):
    def draft(self, portrait_id: str, *operations: Any, **more: Any) -> Any:
        body = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240,
                "operations": list(operations), **more}  # fmt: skip
        return self.send("POST", f"/portraits/{portrait_id}/draft", body)

    def test_a_moving_slider_is_shown_and_not_saved(self) -> None:
        one = self.take_in()
        touch = self.heal(one.id, 0, *SPOTS[0]).json()
        pass_id = touch["changes"][0]["id"]
        x, y = SPOTS[0]

        def green(strength: float) -> float:
            answer = self.draft(one.id, {"op": "change_pass", "id": pass_id, "strength": strength})
            self.assertEqual(answer.status_code, 200, answer.content)
            return float(read_bytes(answer.content).pixels[y - 3 : y + 3, x - 3 : x + 3, 1].mean())

        none, half, full = green(0), green(50), green(100)
        self.assertAlmostEqual(half, (none + full) / 2, delta=4)
        self.assertGreater(full, none + 60)
        self.assertEqual(self.desk(one.id)["passes"][0]["strength"], 100)

    def test_a_source_being_dragged(self) -> None:
        one = self.take_in()
        touch = self.heal(one.id, 0, *SPOTS[0]).json()["touch_id"]
        moved = {"op": "change_touch", "id": touch, "source": [90, 30]}  # onto another spot
        answer = self.draft(one.id, moved)
        shown = read_bytes(answer.content).pixels.astype(int)
        self.assertGreater(np.abs(shown - self.pixels(one.id)).max(), 30)

    def test_bad_drafts_and_bad_views(self) -> None:
        one = self.take_in()
        self.assertEqual(self.draft(one.id, {"op": "sparkle"}).status_code, 422)
        self.assertEqual(self.draft(one.id, revision=7).status_code, 409)
        for bad in ({"scale": 0}, {"scale": 1.5}, {"width": 0}, {"width": 10**6, "height": 10**6},
                    {"x": "nan"}):  # fmt: skip
            query = {"x": 0, "y": 0, "scale": 1, "width": 9, "height": 9, **bad}
            answer = self.client.get(f"/api/portraits/{one.id}/view", query)
            self.assertEqual(answer.status_code, 422, bad)

    def test_a_view_beside_the_picture_is_grey_not_an_error(self) -> None:
        one = self.take_in()
        self.assertEqual(self.pixels(one.id, x=5000, y=5000, width=20, height=20).std(), 0)


class Overtaken(StudioTest):
    def test_older_requests_of_a_window_stop(self) -> None:
        newest = viewing.Newest()
        first = newest.arrive("w", 1)
        self.assertFalse(first())
        second = newest.arrive("w", 2)
        other = newest.arrive("v", 1)
        self.assertEqual((first(), second(), other()), (True, False, False))
        self.assertFalse(newest.arrive(None, 1)())

    def test_an_overtaken_view_is_answered_at_once(self) -> None:
        one = self.take_in()
        self.gesture(one.id, 0, op="add_pass", kind="light")
        viewing.newest.arrive("window-x", 10)
        query = {"x": 0, "y": 0, "scale": 1, "width": 320, "height": 240,
                 "window": "window-x", "number": 3}  # fmt: skip
        answer = self.client.get(f"/api/portraits/{one.id}/view", query)
        self.assertEqual((answer.status_code, answer.content), (204, b""))

    def test_a_draft_that_was_on_its_way_while_a_gesture_was_saved_is_no_error(self) -> None:
        one = self.take_in()
        saved = self.gesture(one.id, 0, op="add_pass", kind="light").json()
        change = {"op": "change_pass", "id": saved["pass_id"], "strength": 10}
        body = {"operations": [change], "revision": 0, "x": 0, "y": 0, "scale": 1, "width": 8,
                "height": 8}  # fmt: skip
        answer = self.send("POST", f"/portraits/{one.id}/draft", body)
        self.assertEqual((answer.status_code, answer.content), (204, b""))
        self.assertEqual(answer["Portrait-Revision"], str(saved["revision"]))


class Deliveries(StudioTest):
    def deliver(self, portrait_id: str, **wish: Any) -> tuple[Any, bytes]:
        started = self.send("POST", f"/portraits/{portrait_id}/deliveries", wish)
        self.assertEqual(started.status_code, 202, started.content)
        job = self.send("GET", f"/deliveries/{started.json()['id']}?wait=10").json()
        self.assertEqual(job["state"], "done", job)
        file = self.client.get(f"/api/deliveries/{job['id']}/file")
        self.assertIn(f'filename="{job["file_name"]}"', file["Content-Disposition"])
        return job, b"".join(file.streaming_content)

    def test_lossless_delivery_changes_only_what_was_touched(self) -> None:
        for form, bits in (("png", 8), ("tiff", 16)):
            data = portrait_file(form, bits)
            one = self.take_in(data, f"Face.{form}")
            self.heal(one.id, 0, *SPOTS[0])
            job, file = self.deliver(one.id, format=form, bits=bits)
            self.assertEqual(job["progress"], 1)
            before, after = read_bytes(data).pixels, read_bytes(file).pixels
            self.assertEqual(after.dtype, before.dtype)
            x, y = SPOTS[0]
            changed = np.argwhere((before != after).any(-1))
            self.assertGreater(len(changed), 300)
            self.assertLessEqual(np.hypot(*(changed + 0.5 - (y, x)).T).max(), 16)

    def test_profile_metadata_and_size(self) -> None:
        picture = replace(
            read_bytes(portrait_file()),
            icc=wide_profile(),
            exif=camera_data().removeprefix(b"Exif\0\0"),
        )
        one = self.take_in(encode(picture, Output("tiff")), "wide.tif")
        _, kept = self.deliver(one.id, format="jpeg", quality=90)
        back = read_bytes(kept)
        self.assertEqual(back.icc, wide_profile())
        self.assertIn("Invented", dict(to_pillow(back.exif or b"")).values())
        job, changed = self.deliver(
            one.id, format="jpeg", profile="srgb", keep_metadata=False, long_side=160
        )
        back = read_bytes(changed)
        self.assertNotEqual(back.icc, wide_profile())
        self.assertIsNone(back.exif)
        self.assertEqual((back.width, back.height), (160, 120))
        self.assertEqual(job["file_name"], "wide retouched.jpg")

    def test_wrong_wishes(self) -> None:
        one = self.take_in()
        for wish in ({"format": "gif"}, {"quality": 0}, {"long_side": 3}, {"bits": 12}):
            answer = self.send("POST", f"/portraits/{one.id}/deliveries", wish)
            self.assertEqual(answer.status_code, 422)

    def test_cancelling_leaves_no_file(self) -> None:
        one = self.take_in()
        gate = threading.Event()
        delivering.line.submit(
            self.user.pk, lambda: gate.wait(20)
        )  # the delivery has to wait its turn
        job = self.send("POST", f"/portraits/{one.id}/deliveries", {}).json()
        self.assertEqual(job["state"], "waiting")
        self.send("DELETE", f"/deliveries/{job['id']}")
        gate.set()
        ended = self.send("GET", f"/deliveries/{job['id']}?wait=10").json()
        self.assertEqual(ended["state"], "cancelled")
        self.assertEqual(self.client.get(f"/api/deliveries/{job['id']}/file").status_code, 404)

    def test_a_delivery_shows_the_state_when_it_was_asked_for(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, *SPOTS[0])
        row = type(one).objects.get(pk=one.pk)
        edit = desk.edit_of(row)
        self.heal(one.id, 1, *SPOTS[1])
        self.assertEqual(len(edit.passes[0].touches), 1, "edits are never changed in place")


class Errors(StudioTest):
    def test_plan_raises_cancelled_not_something_else(self) -> None:
        one = self.take_in()
        self.gesture(one.id, 0, op="add_pass", kind="light")
        row = type(one).objects.get(pk=one.pk)
        plan = desk.renderer_of(row).plan(desk.edit_of(row))
        with self.assertRaises(Cancelled):
            plan.view(plan.bounds, 0, lambda: True)

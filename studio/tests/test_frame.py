"""The frame through the API: views, changed parts, takes, thumbnails, deliveries, the command line."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import numpy as np

from retouch.cli.render import main
from retouch.picture import read, read_bytes
from studio.portraits.models import Portrait
from studio.portraits.services import delivering, thumbnails
from studio.tests.base import SPOTS, StudioTest

CROP = {"centre_x_px": 160, "centre_y_px": 120, "width_px": 192, "height_px": 160}


class Frame(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()
        self.raw = self.pixels(self.one.id)

    def frame(self, revision: int, **settings: object) -> dict[str, object]:
        done = self.gesture(self.one.id, revision, op="set_frame", settings=settings)
        self.assertEqual(done.status_code, 200, done.content)
        return dict(done.json())

    def delivered(self) -> np.ndarray:
        ident = self.send("POST", f"/portraits/{self.one.id}/deliveries", {"format": "png"})
        file = delivering.wait(self.user, ident.json()["id"], 30)
        self.assertEqual(file.state, "done", file.message)
        return read(file.path).pixels

    def test_a_crop_is_seen_everywhere(self) -> None:
        before = self.desk(self.one.id)["frame"]
        self.assertEqual((before["key"], before["width"]), ("", 320))
        done = self.frame(0, **CROP)
        frame = done["frame"]
        assert isinstance(frame, dict)
        self.assertEqual((frame["width"], frame["height"]), (192, 160))
        self.assertEqual(frame["matrix"], [1, 0, 64, 0, 1, 40, 0, 0, 1])
        self.assertEqual(done["dirty"], [0, 0, 192, 160])
        self.assertEqual(self.desk(self.one.id)["frame"], frame)
        got = self.pixels(self.one.id, revision=1, width=192, height=160)
        np.testing.assert_array_equal(got, self.raw[40:200, 64:256])
        original = self.pixels(self.one.id, show="original", width=192, height=160)
        np.testing.assert_array_equal(original, got)
        whole = self.pixels(self.one.id, unframed=True)
        np.testing.assert_array_equal(whole, self.raw)
        row = Portrait.objects.get(pk=self.one.pk)
        for side in ("before", "after"):
            small = read_bytes(thumbnails.thumbnail(row, side).data)  # type: ignore[arg-type]
            self.assertEqual((small.width, small.height), (192, 160), side)
        np.testing.assert_array_equal(
            self.delivered(), read(self.one.original).pixels[40:200, 64:256]
        )

    def test_a_touch_changes_the_part_that_shows_it(self) -> None:
        frame = self.frame(0, **CROP, turn="90", angle_deg=4)["frame"]
        assert isinstance(frame, dict)
        x, y = SPOTS[0]
        done = self.heal(self.one.id, 1, x, y).json()
        touch = done["changes"][-1]["after"]
        self.assertEqual(touch["path"], [[x, y]])
        # It is as before.
        self.assertIsNone(done["frame"])
        m = np.linalg.inv(np.reshape(frame["matrix"], (3, 3)))
        seen = m @ [x, y, 1]
        x0, y0, x1, y1 = done["dirty"]
        self.assertTrue(x0 < seen[0] < x1 and y0 < seen[1] < y1)
        self.assertLess(max(x1 - x0, y1 - y0), 60)
        size = {"width": frame["width"], "height": frame["height"]}
        before = self.pixels(self.one.id, show="original", **size)
        after = self.pixels(self.one.id, revision=2, **size)
        changed = np.argwhere(np.abs(after - before).max(-1) > 6)
        self.assertGreater(len(changed), 50)
        self.assertTrue((changed >= [y0, x0]).all() and (changed < [y1, x1]).all())

    def test_takes_and_steps_are_seen_in_the_present_frame(self) -> None:
        self.gesture(self.one.id, 0, op="add_pass", kind="light", settings={"exposure_ev": 1})
        take = self.send("POST", f"/portraits/{self.one.id}/takes", {"name": "Bright"}).json()
        self.frame(1, **CROP)
        size = {"width": 192, "height": 160}
        bright = self.pixels(self.one.id, revision=2, **size)
        got = self.pixels(self.one.id, show="take", of=take["id"], **size)
        np.testing.assert_array_equal(got, bright)
        got = self.pixels(self.one.id, show="step", of="0", **size)
        np.testing.assert_array_equal(got, self.raw[40:200, 64:256])

    def test_undo_brings_the_old_frame_back(self) -> None:
        self.frame(0, angle_deg=3)
        done = self.step(self.one.id, 1, 0).json()
        self.assertEqual(done["frame"]["key"], "")
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=2), self.raw)

    def test_places_of_another_frame_are_refused(self) -> None:
        self.frame(0, angle_deg=3)
        view = {"x": 0, "y": 0, "scale": 1, "width": 20, "height": 20, "frame": ""}
        answer = self.client.get(f"/api/portraits/{self.one.id}/view", view)
        self.assertEqual(answer.status_code, 409)

    def test_one_frame_and_sensible_numbers(self) -> None:
        self.frame(0, angle_deg=3)
        passes = self.desk(self.one.id)["passes"]
        again = self.frame(1, mirror=True)
        self.assertEqual(len(self.desk(self.one.id)["passes"]), len(passes))
        self.assertEqual(again["pass_id"], passes[0]["id"])
        twice = self.gesture(self.one.id, 2, op="add_pass", kind="frame")
        self.assertIn("one frame at most", twice.json()["message"])
        copy = self.gesture(self.one.id, 2, op="duplicate_pass", id=passes[0]["id"])
        self.assertEqual(copy.status_code, 422)
        far = self.gesture(self.one.id, 2, op="set_frame", settings={"angle_deg": 46})
        self.assertIn("angle_deg goes from -45 to 45", far.json()["message"])

    def test_settings_are_tried_without_a_change(self) -> None:
        path = f"/portraits/{self.one.id}/framing"
        tried = self.send("POST", path, {"settings": {"angle_deg": 10, **CROP}}).json()
        self.assertEqual(len(tried["rect"]), 4)
        self.assertLess(tried["frame"]["width"], 193)
        self.assertEqual(self.desk(self.one.id)["portrait"]["revision"], 0)
        level = self.send("POST", f"{path}/level", {"by": "lines"})
        self.assertEqual(level.status_code, 422)
        self.assertIn("Draw one instead", level.json()["message"])

    def test_a_brought_frame_takes_the_place_of_the_one_there(self) -> None:
        self.frame(0, angle_deg=3)
        other = self.take_in()
        self.gesture(other.id, 0, op="set_frame", settings={"mirror": True})
        ident = self.desk(self.one.id)["passes"][0]["id"]
        done = self.gesture(other.id, 1, op="bring_passes", portrait_id=self.one.id, ids=[ident])
        self.assertEqual(done.status_code, 200, done.content)
        passes = self.desk(other.id)["passes"]
        self.assertEqual([(p["kind"], p["settings"]["angle_deg"]) for p in passes], [("frame", 3)])

    def test_the_command_line_gives_the_same_bits(self) -> None:
        self.frame(0, **CROP, angle_deg=-6.5, upright=12, turn="270", mirror=True)
        self.heal(self.one.id, 1, *SPOTS[0])
        delivered = self.delivered()
        folder = Path(tempfile.mkdtemp())
        edit = self.send("GET", f"/portraits/{self.one.id}/edit").json()
        (folder / "edit.json").write_text(json.dumps(edit))
        arguments = [self.one.original, "--edit", folder / "edit.json", "--out", folder / "o.png"]
        self.assertEqual(main([str(a) for a in arguments]), 0)
        np.testing.assert_array_equal(read(folder / "o.png").pixels, delivered)

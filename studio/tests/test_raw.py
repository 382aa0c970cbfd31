"""Raw files in the studio: taken in at once, developed when looked at, developed anew on request."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import numpy as np

from demo.raw import OVERLAPPING, demo, dng
from retouch.cli.render import main
from retouch.colour.transfer import to_linear
from retouch.picture import profile, read, read_bytes
from retouch.tests.scenes import skin
from studio.portraits.models import Portrait
from studio.portraits.services import delivering, desk, thumbnails
from studio.tests.base import StudioTest

_NEUTRAL = (0.55, 1.0, 0.62)


def scene() -> np.ndarray:
    """Linear skin as a camera sees it, with a lamp brighter than white."""
    linear = np.asarray(to_linear(skin(240, 320, seed=9)))
    linear[40:80, 40:80] = (1.6, 0.55, 0.3)
    return linear * np.array(_NEUTRAL)


def small(seed: int = 1) -> np.ndarray:
    """The preview that the file brings: nothing like its raw data, to be told apart."""
    out = np.zeros((60, 80, 3), np.uint8)
    out[..., 1] = 200
    return out


class Raw(StudioTest):
    def setUp(self) -> None:
        super().setUp()
        self.data = dng(scene(), _NEUTRAL, preview=small())
        self.one = self.take_in(self.data, "shot.DNG")

    def develop(self, revision: int, **settings: object) -> dict[str, object]:
        done = self.gesture(self.one.id, revision, op="set_development", settings=settings)
        self.assertEqual(done.status_code, 200, done.content)
        return dict(done.json())

    def delivered(self, **more: object) -> Path:
        body = {"format": "tiff", **more}
        ident = self.send("POST", f"/portraits/{self.one.id}/deliveries", body).json()["id"]
        file = delivering.wait(self.user, ident, 60)
        self.assertEqual(file.state, "done", file.message)
        return file.path

    def test_taken_in_with_its_preview_and_developed_when_looked_at(self) -> None:
        row = Portrait.objects.get(pk=self.one.pk)
        self.assertEqual((row.format, row.bits, row.width, row.height), ("raw", 16, 320, 240))
        self.assertEqual(row.original.name, "original.dng")
        self.assertEqual(row.original.read_bytes(), self.data)
        self.assertFalse(desk.is_open(row))
        first = thumbnails.thumbnail(row, "before")
        self.assertFalse(first.lasting)
        self.assertGreater(int(read_bytes(first.data).pixels[30, 40, 1]), 180)
        shown = self.pixels(self.one.id)
        self.assertGreater(shown[120, 160, 0], shown[120, 160, 2] + 20)
        after = read_bytes(thumbnails.thumbnail(row, "before").data).pixels.astype(int)
        self.assertGreater(after[120, 160, 0], after[120, 160, 2] + 20)

    def test_a_file_without_a_preview(self) -> None:
        one = self.take_in(dng(scene(), _NEUTRAL), "plain.dng")
        got = read_bytes(thumbnails.thumbnail(one, "after").data)
        self.assertEqual((got.width, got.height), (320, 240))

    def test_developed_anew_undone_and_told(self) -> None:
        before = self.pixels(self.one.id)
        done = self.develop(0, highlights="clip")
        self.assertEqual(done["dirty"], [0, 0, 320, 240])
        self.assertEqual(self.desk(self.one.id)["history"]["undo"], "Raw development: highlights")
        lower = self.gesture(
            self.one.id, 1, op="add_pass", kind="light", settings={"exposure_ev": -1.5}
        )
        self.assertEqual(lower.status_code, 200)
        clipped = self.pixels(self.one.id, revision=2)
        self.develop(2, highlights="keep")
        kept = self.pixels(self.one.id, revision=3)
        # Light that the camera held is there again.
        self.assertGreater(kept[60, 60, 0], clipped[60, 60, 0] + 8)
        self.step(self.one.id, 3, 0)
        np.testing.assert_array_equal(self.pixels(self.one.id, revision=4), before)

    def test_delivered_in_the_profile_chosen_as_the_command_line_does(self) -> None:
        self.develop(0, profile="display_p3", noise=50)
        self.gesture(
            self.one.id, 1, op="add_pass", kind="white_balance", settings={"temperature_k": 4300}
        )
        self.gesture(self.one.id, 2, op="set_frame", settings={"angle_deg": 2.5, "turn": "90"})
        made = read(self.delivered())
        self.assertEqual(profile.name(made.icc), "Display P3")
        self.assertEqual(made.bits, 16)
        folder = Path(tempfile.mkdtemp())
        edit = self.send("GET", f"/portraits/{self.one.id}/edit").json()
        (folder / "edit.json").write_text(json.dumps(edit))
        arguments = [self.one.original, "--edit", folder / "edit.json", "--out", folder / "o.tif"]
        self.assertEqual(main([str(a) for a in arguments]), 0)
        np.testing.assert_array_equal(read(folder / "o.tif").pixels, made.pixels)

    def test_a_white_balance_begins_with_the_cameras_light(self) -> None:
        done = self.gesture(self.one.id, 0, op="add_pass", kind="white_balance").json()
        one = next(c["after"] for c in done["changes"] if c["what"] == "pass")
        self.assertEqual(one["settings"]["temperature_k"], one["fit"]["values"]["own_kelvin"])
        self.assertNotEqual(one["settings"]["temperature_k"], 6500)

    def test_broken_files_are_refused_in_words_and_leave_nothing(self) -> None:
        for data in (self.data[: len(self.data) // 2], b"FUJIFILMCCD-RAW " + bytes(4000)):
            answer = self.upload(data, "shot.dng")
            self.assertEqual(answer.status_code, 422, answer.content)
            self.assertRegex(answer.json()["message"], "raw file|cut off")
        self.assertEqual(Portrait.objects.count(), 1)

    def test_another_picture_has_nothing_to_develop(self) -> None:
        other = self.take_in()
        answer = self.gesture(other.id, 0, op="set_development", settings={"noise": 5})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("no raw file", answer.json()["message"])


class DemoFile(StudioTest):
    def test_the_demo_raw_file_is_what_its_script_writes(self) -> None:
        shipped = Path(__file__).resolve().parents[2] / "demo" / "portraits" / "kofi-raw.dng"
        fresh, kept = read_bytes(demo()), read(shipped)
        off = np.abs(fresh.pixels.astype(int) - kept.pixels)
        self.assertLess(float(off.mean()), 2)
        assert kept.taken is not None
        self.assertEqual(kept.taken.light.kelvin, 5300)
        self.assertEqual(OVERLAPPING.shape, (3, 3))

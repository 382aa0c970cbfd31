"""The natural check: known damage above a limit is told, below it isn't; careful work passes; the command."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from benchmarks.faces import understand
from benchmarks.natural import DAMAGE, ambers, applies, person
from benchmarks.scoring import DEMO
from retouch.cli import check
from retouch.edit import Edit
from retouch.natural.check import of_codes
from retouch.picture import Output, Picture, Pyramid, read, write
from retouch.work.bench import Refused, bench_for
from retouch.work.natural_check import check_of_images, whole_check
from retouch.work.operations import AddPass, ApplyRoutine, ChangePass, EaseReading, perform


class KnownDamage(unittest.TestCase):
    def test_what_is_beyond_a_limit_is_told_and_what_is_below_is_not(self) -> None:
        """A dark and a light face, each damage at two strengths."""
        for name in ("kofi", "ivo"):
            one = person(name)
            for title, make, reading, above, below in DAMAGE:
                if not applies(one, reading):
                    continue
                for much, expected in ((above, True), (below, False)):
                    made = np.asarray(
                        np.round(np.clip(make(one, much), 0, 1) * 255) / 255, np.float32
                    )
                    found = check_of_images(one.image, made, one.analysis, None, None)
                    with self.subTest(name=name, damage=title, much=much):
                        self.assertEqual(reading in ambers(found), expected)

    def test_nothing_done_is_within_every_limit(self) -> None:
        one = person("ivo")
        self.assertEqual(
            ambers(check_of_images(one.image, one.image, one.analysis, None, None)), set()
        )

    def test_the_everyday_routine_passes(self) -> None:
        for name in ("ivo", "kofi"):
            bench = bench_for(
                Pyramid(read(DEMO / "portraits" / f"{name}.jpg")), understand(name).analysis
            )
            edit = perform(Edit(), ApplyRoutine("everyday"), bench).edit
            self.assertEqual(ambers(whole_check(bench.renderer, edit, bench.analysis)), set(), name)

    def test_the_file_itself_is_read(self) -> None:
        grey = np.full((200, 200, 3), 0.5, np.float32)
        found = tuple(of_codes(grey, np.ones_like(grey)))
        self.assertEqual({f.name for f in found}, {"clipped", "banded"})
        self.assertEqual(ambers(found), {"clipped"})


class Easing(unittest.TestCase):
    def setUp(self) -> None:
        picture = read(DEMO / "portraits" / "ivo.jpg")
        self.bench = bench_for(Pyramid(picture), understand("ivo").analysis)
        calm = perform(Edit(), AddPass("colour", settings={"saturation": 5.0}), self.bench).edit
        made = perform(calm, AddPass("light", settings={"exposure_ev": 1.4}), self.bench)
        self.edit, self.light = made.edit, made.pass_id

    def strengths(self, edit: Edit) -> dict[str, float]:
        return {p.kind: p.strength for p in edit.passes}

    def test_the_pass_that_causes_it_is_taken_back_just_enough(self) -> None:
        for reading, face in (("clipped", None), ("shift", 0)):
            with self.subTest(reading):
                done = perform(self.edit, EaseReading(reading, face), self.bench)
                after = self.strengths(done.edit)
                self.assertEqual(after["colour"], 100)
                self.assertTrue(0 < after["light"] < 100)
                self.assertEqual(done.pass_id, self.light)
                self.assertNotIn(reading, self.beyond(done.edit))
                # No more than need be: a step more is beyond again.
                more = ChangePass(self.light or "", strength=after["light"] + 5)
                self.assertIn(reading, self.beyond(perform(done.edit, more, self.bench).edit))

    def beyond(self, edit: Edit) -> set[str]:
        return ambers(whole_check(self.bench.renderer, edit, self.bench.analysis))

    def test_what_is_within_or_without_a_cause_is_refused_in_words(self) -> None:
        with self.assertRaisesRegex(Refused, "within its limit"):
            perform(self.edit, EaseReading("repeats", 0), self.bench)
        with self.assertRaisesRegex(Refused, "isn't known"):
            perform(self.edit, EaseReading("shift", 7), self.bench)
        with self.assertRaisesRegex(Refused, "within its limit"):
            perform(self.edit, EaseReading("no such reading", 0), self.bench)


class Command(unittest.TestCase):
    def test_two_files_are_compared_and_the_status_says_it(self) -> None:
        folder = Path(self.enterContext(TemporaryDirectory()))
        one = person("ivo")
        original = str(DEMO / "portraits" / "ivo.jpg")
        _, make, _, above, _ = next(d for d in DAMAGE if d[0] == "blurred")
        bad = np.round(np.clip(make(one, above), 0, 1) * 255).astype(np.uint8)
        write(Picture(bad), str(folder / "bad.png"), Output("png"))
        write(Picture(bad[:, :900]), str(folder / "cut.png"), Output("png"))

        def run(*words: str) -> tuple[int, str]:
            out, err = io.StringIO(), io.StringIO()
            with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
                status = check.main(list(words))
            return status, out.getvalue() + err.getvalue()

        status, said = run(original, str(folder / "bad.png"))
        self.assertEqual(status, 1)
        self.assertRegex(said, "BEYOND +Texture left, Forehead")
        status, said = run(original, original, "--json")
        self.assertEqual(status, 0)
        self.assertFalse(any(r["amber"] for r in json.loads(said)["readings"]))
        status, said = run(original, str(folder / "cut.png"))
        self.assertEqual((status, "cropped or turned" in said), (3, True))
        self.assertEqual(run(original, str(folder / "none.png"))[0], 3)

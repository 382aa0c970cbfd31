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
from retouch.natural.check import of_edit, of_images
from retouch.picture import Output, Picture, Pyramid, read, write
from retouch.work.bench import bench_for
from retouch.work.operations import ApplyRoutine, perform


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
                    found = of_images(one.image, made, one.analysis)
                    with self.subTest(name=name, damage=title, much=much):
                        self.assertEqual(reading in ambers(found), expected)

    def test_nothing_done_is_within_every_limit(self) -> None:
        one = person("ivo")
        self.assertEqual(ambers(of_images(one.image, one.image, one.analysis)), set())

    def test_the_everyday_routine_passes(self) -> None:
        for name in ("ivo", "kofi"):
            bench = bench_for(
                Pyramid(read(DEMO / "portraits" / f"{name}.jpg")), understand(name).analysis
            )
            edit = perform(Edit(), ApplyRoutine("everyday"), bench).edit
            self.assertEqual(ambers(of_edit(bench.renderer, edit, bench.analysis)), set(), name)

    def test_without_a_face_the_file_alone_is_read(self) -> None:
        grey = np.full((200, 200, 3), 0.5, np.float32)
        found = of_images(grey, np.ones_like(grey), None)
        self.assertEqual({f.name for f in found}, {"clipped", "banded"})
        self.assertEqual(ambers(found), {"clipped"})


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

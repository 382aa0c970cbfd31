"""The natural check of an edit: moves, marks and the sweep; what a run asks; the sheet and its data."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.natural import person
from benchmarks.scoring import DEMO
from retouch.cli import check
from retouch.edit import Edit
from retouch.forms.form import dumps
from retouch.natural.check import of_run
from retouch.natural.finding import Finding
from retouch.natural.known import Known
from retouch.natural.pairs import Pair
from retouch.natural.shaped import of_moves
from retouch.papers.checked import as_data, in_words
from retouch.picture import Output, Picture, Pyramid, read, write
from retouch.work.bench import Bench, bench_for
from retouch.work.marks import decided
from retouch.work.natural_check import excess, of_sweep, one_reading, whole_check
from retouch.work.operations import (
    AddPass,
    AddTouches,
    ApplyRoutine,
    EaseReading,
    NewTouch,
    perform,
)


def bench_of(name: str) -> Bench:
    return bench_for(Pyramid(read(DEMO / "portraits" / f"{name}.jpg")), understand(name).analysis)


def named(found: tuple[Finding, ...] | list[Finding], name: str) -> list[Finding]:
    return [f for f in found if f.name == name]


class Moves(unittest.TestCase):
    bench: Bench

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.bench = bench_of("ivo")

    def moved(self, **settings: float) -> Edit:
        face = understand("ivo").analysis.faces[0].anchor
        return perform(
            Edit(), AddPass("proportions", settings=dict(settings), face=face), self.bench
        ).edit

    def test_nothing_moved_tells_nothing(self) -> None:
        self.assertEqual(list(of_moves(self.bench.renderer, Edit(), self.bench.analysis)), [])

    def test_a_small_move_is_within_and_a_large_one_is_not(self) -> None:
        for millimetres, beyond in ((1.0, False), (8.0, True)):
            edit = self.moved(face_chin=millimetres)
            found = list(of_moves(self.bench.renderer, edit, self.bench.analysis))
            moved = named(found, "moved")
            self.assertEqual(len(moved), 1)
            self.assertEqual(moved[0].amber, beyond, moved)
            self.assertIn("mm", moved[0].words)

    def test_stretch_is_that_of_the_skin(self) -> None:
        """A number given in per cent says how much longer what it is about becomes."""
        edit = self.moved(face_width=4.0)
        stretched = named(
            list(of_moves(self.bench.renderer, edit, self.bench.analysis)), "stretched"
        )
        self.assertEqual(len(stretched), 1)
        self.assertTrue(4 < stretched[0].value < 25, stretched)

    def test_what_went_too_far_is_eased_by_its_own_pass(self) -> None:
        light = perform(
            self.moved(face_chin=8.0), AddPass("light", settings={"exposure_ev": 0.1}), self.bench
        )
        done = perform(light.edit, EaseReading("moved"), self.bench)
        strengths = {p.kind: p.strength for p in done.edit.passes}
        self.assertEqual(strengths["light"], 100)
        self.assertTrue(0 < strengths["proportions"] < 100)
        self.assertFalse(
            any(
                f.amber
                for f in named(
                    list(of_moves(self.bench.renderer, done.edit, self.bench.analysis)), "moved"
                )
            )
        )

    def test_a_bent_line_behind_the_person_is_told(self) -> None:
        """A straight bar is drawn beside the head; a push across it bends it by what is known of the push."""
        image = np.asarray(read(DEMO / "portraits" / "ivo.jpg").pixels).copy()
        height = image.shape[0]
        cv2.line(image, (110, 40), (110, height - 500), (20, 20, 20), 5)
        bench = bench_for(Pyramid(Picture(image)), understand("ivo").analysis)
        path = ((90.0, 420.0), (130.0, 420.0))
        touch = NewTouch(path, values={"radius_px": 120.0, "amount": 100.0})
        edit = perform(Edit(), AddTouches("nudge", (touch,)), bench).edit
        bent = named(list(of_moves(bench.renderer, edit, bench.analysis)), "bent")
        self.assertEqual([f.amber for f in bent], [True])
        assert bent[0].place is not None
        # One of both sides of the bar, which is five pixels wide.
        self.assertLess(abs((bent[0].place.x0 + bent[0].place.x1) / 2 - 110), 6)


class Marks(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = bench_of("ana")
        assert self.bench.analysis is not None
        self.marks = decided(self.bench.analysis, Edit())
        self.mole = next(
            d
            for d in sorted(self.marks, key=lambda d: -d.mark.contrast)
            if d.decision == "keep" and d.mark.confidence > 0.7
        )

    def readings(self, edit: Edit) -> dict[str, float]:
        found = whole_check(self.bench.renderer, edit, self.bench.analysis)
        return {f.name: f.value for f in found if f.name.startswith("marks")}

    def test_a_mole_that_was_cleared_is_told_unless_it_was_wished(self) -> None:
        self.assertEqual(self.readings(Edit())["marks_gone"], 0)
        mark = self.mole.mark
        heal = NewTouch(((mark.x, mark.y),), values={"radius_px": 1.3 * mark.reach})
        healed = perform(Edit(), AddTouches("heal", (heal,)), self.bench).edit
        self.assertEqual(self.readings(healed)["marks_gone"], 1)
        wish = NewTouch(((mark.x, mark.y),), values={"decision": "clear", "radius_px": mark.radius})
        wished = perform(healed, AddTouches("marks", (wish,)), self.bench).edit
        self.assertEqual(self.readings(wished)["marks_gone"], 0)

    def test_a_mark_that_is_kept_and_fades_is_told(self) -> None:
        mark = self.mole.mark
        keep = NewTouch(((mark.x, mark.y),), values={"decision": "keep", "radius_px": mark.radius})
        edit = perform(Edit(), AddTouches("marks", (keep,)), self.bench).edit
        self.assertEqual(self.readings(edit)["marks_changed"], 0)
        grey = perform(edit, AddPass("light", settings={"contrast": -100.0}), self.bench).edit
        self.assertGreater(self.readings(grey)["marks_changed"], 0)

    def test_what_asks_is_told_without_a_limit(self) -> None:
        found = whole_check(self.bench.renderer, Edit(), self.bench.analysis)
        asked = named(found, "marks_open")[0]
        self.assertEqual(asked.side, "told")
        self.assertFalse(asked.amber or asked.eases)

    def test_zones_that_a_sweep_has_not_shown_are_named_once_it_was_begun(self) -> None:
        assert self.bench.analysis is not None
        self.assertEqual(list(of_sweep(self.bench.analysis, ())), [])
        left = next(of_sweep(self.bench.analysis, ("0-nose", "0-chin")))
        self.assertNotIn("nose", left.words.split(", "))
        self.assertIn("forehead", left.words.split(", "))


class One(unittest.TestCase):
    def test_one_reading_is_that_of_the_whole_check(self) -> None:
        bench = bench_of("kofi")
        edit = perform(Edit(), ApplyRoutine("strong"), bench).edit
        edit = perform(edit, AddPass("light", settings={"exposure_ev": 0.8}), bench).edit
        whole = whole_check(bench.renderer, edit, bench.analysis)
        for f in whole:
            if f.side == "told" or f.name in ("texture_more", "healed"):
                continue
            own = one_reading(bench.renderer, edit, bench.analysis, f.name, f.face, f.zone)
            assert own is not None, f.name
            # Colour and light are read at a coarser size then; their limits lie further off than that makes.
            self.assertAlmostEqual(
                own.value, f.value, delta=max(0.12 * abs(f.value), 1.5), msg=f.name
            )
        self.assertIsNone(one_reading(bench.renderer, edit, bench.analysis, "no such", 0))
        self.assertIsNone(one_reading(bench.renderer, edit, bench.analysis, "shift", 9))

    def test_excess_counts_from_the_limit(self) -> None:
        def of(value: float, limit: float, side: str) -> float:
            return excess(Finding("n", "", "", "", value, limit, "", side))  # type: ignore[arg-type]

        self.assertEqual(of(5, 3, "most"), 2)
        self.assertEqual(of(60, 70, "least"), 10)
        self.assertEqual((of(2, 3, "most"), of(99, 0, "told"), excess(None)), (0, 0, 0))

    def test_a_run_asks_for_what_needs_no_grain(self) -> None:
        bench = bench_of("eli")
        assert bench.analysis is not None
        white = perform(
            Edit(), AddPass("eye_whites", settings={"lighter": 100.0, "beyond": True}), bench
        ).edit
        lit = perform(white, AddPass("light", settings={"exposure_ev": 1.2}), bench).edit
        titles = {f.title for f in of_run(bench.renderer, lit, bench.analysis) if f.amber}
        self.assertTrue({"Colour shift", "Eye whites lifted"} <= titles, titles)
        self.assertEqual(
            [f.title for f in of_run(bench.renderer, Edit(), bench.analysis) if f.amber], []
        )


class KnownReadings(unittest.TestCase):
    def test_what_did_not_change_is_not_read_again_and_says_the_same(self) -> None:
        bench = bench_of("ivo")
        assert bench.analysis is not None
        asked: list[str] = []

        class Counting(Known):
            def of(self, pair: Pair, name: str, zones: Any, make: Any) -> tuple[Finding, ...]:
                return super().of(pair, name, zones, lambda p: asked.append(name) or make(p))  # type: ignore[func-returns-value]

        known = Counting()
        calm = perform(Edit(), AddPass("light", settings={"exposure_ev": 0.1}), bench).edit
        first = whole_check(bench.renderer, calm, bench.analysis, known=known)
        self.assertEqual(len(asked), 5)
        self.assertEqual(whole_check(bench.renderer, calm, bench.analysis, known=known), first)
        self.assertEqual(len(asked), 5)
        # Other whites of the eyes are read.
        asked.clear()
        eyes = perform(calm, AddPass("eye_whites", settings={"lighter": 100.0}), bench).edit
        again = whole_check(bench.renderer, eyes, bench.analysis, known=known)
        self.assertIn("whites", asked)
        self.assertEqual(again, whole_check(bench.renderer, eyes, bench.analysis))


class Papers(unittest.TestCase):
    def test_the_command_tells_moves_marks_and_what_was_done(self) -> None:
        folder = Path(self.enterContext(TemporaryDirectory()))
        bench = bench_of("ivo")
        face = understand("ivo").analysis.faces[0].anchor
        edit = perform(
            Edit(), AddPass("proportions", settings={"face_chin": 8.0}, face=face), bench
        ).edit
        (folder / "edit.json").write_text(dumps(edit))
        original = str(DEMO / "portraits" / "ivo.jpg")
        same = np.round(person("ivo").image * 255).astype(np.uint8)
        write(Picture(same), str(folder / "made.png"), Output("png"))
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            status = check.main(
                [
                    original,
                    str(folder / "made.png"),
                    "--edit",
                    str(folder / "edit.json"),
                    "--json",
                    "--pdf",
                    str(folder / "a.pdf"),
                ]
            )
        self.assertEqual(status, 1)
        told = json.loads(out.getvalue())
        self.assertEqual(
            [r["name"] for r in told["readings"] if r["amber"] and r["name"] == "moved"], ["moved"]
        )
        self.assertTrue(
            any("chin" in line["said"].lower() for line in told["done"]["lines"]), told["done"]
        )
        self.assertEqual((folder / "a.pdf").read_bytes()[:5], b"%PDF-")

    def test_a_line_tells_value_and_limit_once(self) -> None:
        one = Finding("t", "Texture left", "", "nose", 61.44, 70.0, "%", "least", 1, None, "Nose")
        self.assertEqual(in_words(one), "Texture left, Nose (face 2): 61.4 %; at least 70")
        marks = Finding("m", "Marks to decide", "", "", 3.0, 0.0, "", "told")
        self.assertEqual(in_words(marks), "Marks to decide: 3")

    def test_data_are_plain(self) -> None:
        bench = bench_of("ivo")
        found = whole_check(bench.renderer, Edit(), bench.analysis)
        self.assertEqual(len(json.loads(json.dumps(as_data(found)))["readings"]), len(found))

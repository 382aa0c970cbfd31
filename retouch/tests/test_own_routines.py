"""Routines of one's own: made of a portrait's passes, carried as files, fitted to other faces."""

import json
import unittest
from dataclasses import replace
from pathlib import Path

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.edit.mask import MaskStroke, OutlineArea, RangeArea, ZoneArea
from retouch.edit.routine import Routine, RoutineMask, RoutineStep
from retouch.errors import EditError
from retouch.forms.routines import (
    routine_dumps,
    routine_from_data,
    routine_loads,
    routine_schema,
    routine_to_data,
)
from retouch.passes import registry
from retouch.picture import Pyramid, read
from retouch.plain import plain
from retouch.tests.test_edit import values_of
from retouch.work import Bench, Refused, perform
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, AddTouch, ApplyRoutine, ChangePass, NewTouch
from retouch.work.ready import ready_routines
from retouch.work.routines import foreseen, learned

PUBLISHED = Path(__file__).resolve().parents[2] / "docs" / "formats" / "routine.schema.json"


def bench_of(name: str) -> Bench:
    return bench_for(Pyramid(read(DEMO / "portraits" / f"{name}.jpg")), understand(name).analysis)


kinds = [k for k in registry.all_kinds() if not (k.single or k.holds_touches or k.guide)]
zones = st.sampled_from(["skin", "hair", "eyes"]).map(lambda z: ZoneArea(z, None, "add"))
masks = st.none() | st.builds(
    RoutineMask,
    st.lists(zones, max_size=3).map(tuple),
    st.booleans(),
    st.floats(-9, 9),
    st.floats(0, 9),
)
names = st.text(max_size=20).map(plain)
titles = st.text(min_size=1, max_size=80).map(plain).filter(bool)
steps = st.sampled_from(kinds).flatmap(
    lambda k: st.builds(
        RoutineStep, st.just(k.name), values_of(k.settings), st.floats(0, 100),
        st.sampled_from(["normal", "screen"]), names, masks,
        st.sampled_from(["each", "largest"]),
    )
)  # fmt: skip
routines = st.builds(
    Routine, titles, st.lists(steps, max_size=4).map(tuple),
    st.text(max_size=50), st.none() | st.floats(0, 100), st.just("even"), st.booleans(),
)  # fmt: skip


class Files(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(routines)
    def test_a_file_holds_all_of_a_routine(self, one: Routine) -> None:
        text = routine_dumps(one)
        self.assertEqual(routine_loads(text), (one, ()))
        jsonschema.validate(json.loads(text), json.loads(PUBLISHED.read_text()))

    def test_the_published_schema_is_current_and_the_ready_ones_are_such_files(self) -> None:
        self.assertEqual(json.loads(PUBLISHED.read_text()), routine_schema())
        for one in ready_routines():
            jsonschema.validate(routine_to_data(one), routine_schema())

    def test_what_cannot_be_used_is_said_and_the_rest_is(self) -> None:
        good = {"kind": "redness", "settings": {"amount": 40.0}}
        data = {
            "format": "mellow-glass-routine", "version": 1, "title": "Mine",
            "steps": [good, {"kind": "from_the_future"}, {"kind": "heal"}, {"kind": "redness", "settings": {"amount": 4000}},
                      {"kind": "redness", "strength": "much"}],
        }  # fmt: skip
        one, left = routine_from_data(data)
        self.assertEqual([s.kind for s in one.steps], ["redness"])
        self.assertEqual(len(left), 4)
        self.assertIn("from_the_future", left[0])
        self.assertIn("by hand", left[1])
        self.assertIn("amount", left[2])
        for bad, words in (
            ("[]", "no routine"), ("{", "valid JSON"), (json.dumps({**data, "version": 2}), "version 2"),
            (json.dumps({**data, "steps": [{"kind": "heal"}]}), "None of its steps"),
            (json.dumps({**data, "title": ""}), "title"), (json.dumps({**data, "steps": 5}), "list"),
            (json.dumps({**data, "steps": [good] * 61}), "steps"), ("[" * 100_000, "valid JSON"),
        ):  # fmt: skip
            with self.assertRaises(EditError, msg=words) as caught:
                routine_loads(bad)
            self.assertIn(words, str(caught.exception))


class Learning(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = bench_of("ana")

    def worked(self) -> Edit:
        edit = perform(
            Edit(), AddPass("redness", id="red", settings={"amount": 70.0}), self.bench
        ).edit
        edit = perform(edit, ChangePass("red", strength=80.0), self.bench).edit
        edit = perform(edit, AddPass("split_toning", id="tone"), self.bench).edit
        return perform(edit, AddTouch("heal", NewTouch(((400.0, 500.0),))), self.bench).edit

    def test_what_is_fitted_and_what_stays_here_is_told(self) -> None:
        found = learned(self.worked(), "Mine", px_per_mm=8.0)
        self.assertEqual([s.kind for s in found.routine.steps], ["redness", "split_toning"])
        self.assertEqual(found.routine.steps[0].strength, 80)
        self.assertIn("Redness", " ".join(found.fitted))
        self.assertEqual(len(found.fitted), 1)
        self.assertIn("by hand", found.left_out[0])
        with self.assertRaisesRegex(Refused, "None of these"):
            learned(Edit(), "Mine")

    def test_masks_become_what_any_picture_has(self) -> None:
        edit = self.worked()
        n = next(i for i, p in enumerate(edit.passes) if p.id == "red")
        one = edit.passes[n]
        face = self.bench.analysis.faces[0].anchor  # type: ignore[union-attr]
        areas = (ZoneArea("skin", face), RangeArea(((50.0, 10.0, 10.0),), way="take"))
        stroke = MaskStroke(((1.0, 1.0),), 5.0)
        mask = replace(one.mask, areas=areas, feather_px=16.0, strokes=(stroke,))
        made = learned(replace(edit, passes=(replace(one, mask=mask),)), "Mine", px_per_mm=8.0)
        step = made.routine.steps[0]
        assert step.mask is not None
        self.assertEqual(step.mask.areas, (ZoneArea("skin", None), areas[1]))
        self.assertEqual(step.mask.feather_mm, 2.0)
        self.assertIn("painted", made.left_out[0])
        drawn = replace(one.mask, areas=(OutlineArea(((0.0, 0.0), (9.0, 0.0), (9.0, 9.0))),))
        with self.assertRaises(Refused):
            learned(replace(edit, passes=(replace(one, mask=drawn),)), "Mine")

    def test_it_fits_itself_to_another_face(self) -> None:
        own = learned(self.worked(), "Mine", spots_from=60.0, px_per_mm=8.0).routine
        there = bench_of("kofi")
        edit = perform(Edit(), ApplyRoutine(own=own, strength=60.0), there).edit
        red = next(p for p in edit.passes if p.kind == "redness")
        self.assertEqual(red.settings["amount"], 70.0)
        here = next(p for p in self.worked().passes if p.kind == "redness")
        self.assertNotEqual(red.fit.values["skin_l"], here.fit.values["skin_l"])
        self.assertTrue(any(p.kind == "heal" and p.touches for p in edit.passes))
        bounds = {p.bound for p in edit.passes if p.kind != "heal"}
        self.assertEqual({(b.name, b.strength) for b in bounds if b}, {("Mine", 60.0)})
        self.assertEqual(len(bounds), 1)

    def test_what_a_face_lacks_is_foreseen_and_left_out(self) -> None:
        bright = next(r for r in ready_routines() if r.name == "bright")
        told = {f.title: f for f in foreseen(bright, self.bench.analysis)}
        self.assertTrue(told["Eye whites"].acts)
        self.assertEqual((told["Teeth"].acts, told["Teeth"].why), (False, "the mouth is closed"))
        done = perform(Edit(), ApplyRoutine("bright"), self.bench)
        self.assertIn("Teeth not seen", done.label)
        smiling = {f.title: f.acts for f in foreseen(bright, understand("eli").analysis)}
        self.assertTrue(smiling["Teeth"])

    def test_without_a_face_only_what_is_for_the_picture_is_done(self) -> None:
        own = learned(self.worked(), "Mine", px_per_mm=8.0).routine
        bare = replace(self.bench, analysis=None)
        edit = perform(Edit(), ApplyRoutine(own=own), bare).edit
        self.assertEqual([p.kind for p in edit.passes], ["split_toning"])
        skin = replace(own, steps=own.steps[:1])
        with self.assertRaisesRegex(Refused, "No face"):
            perform(Edit(), ApplyRoutine(own=skin), bare)
        with self.assertRaisesRegex(EditError, "by hand"):
            perform(Edit(), ApplyRoutine(own=Routine("x", (RoutineStep("heal"),))), self.bench)

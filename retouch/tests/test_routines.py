"""Routines and new passes on skin: for whom, where, and without what is to stay."""

from __future__ import annotations

import unittest

from retouch.edit import Edit
from retouch.edit.mask import ZoneArea
from retouch.forms.form import from_data, to_data
from retouch.tests.benches import BOXES, SPOTS, People, bench
from retouch.work import Bench, Refused, perform
from retouch.work.bench import find_pass
from retouch.work.operations import AddPass, ApplyRoutine
from retouch.work.ready import ready_routines

ANCHORS = [f.anchor for f in People().faces]


def applied(name: str, work: Bench, **more: object) -> Edit:
    return perform(Edit(), ApplyRoutine(name, **more), work).edit  # type: ignore[arg-type]


class Routines(unittest.TestCase):
    def test_everyone_gets_passes_fitted_to_their_own_skin(self) -> None:
        edit = applied("everyday", bench(People()))
        redness = [p for p in edit.passes if p.kind == "redness"]
        self.assertEqual([p.fit.values["px_per_mm"] for p in redness], [8.0, 7.0])
        lighter, darker = (p.fit.values["skin_l"] for p in redness)
        self.assertGreater(lighter, darker + 15)
        # Everyone's own skin, without ears and lids, which are red by nature, and dark circles.
        places = [("skin", "add")]
        places += [(z, "take") for z in ("ears", "eyelids", "under_eye_right", "under_eye_left")]
        self.assertEqual(
            [(a.face, a.zone, a.way) for p in redness for a in p.mask.areas],  # type: ignore[union-attr]
            [(face, *area) for face in ANCHORS for area in places],
        )
        self.assertEqual([p.fit.face for p in redness], ANCHORS)
        self.assertEqual([p.name for p in redness], ["Redness, person 1", "Redness, person 2"])
        (heal,) = [p for p in edit.passes if p.kind == "heal"]
        self.assertEqual([t.path[0] for t in heal.touches], list(SPOTS))
        self.assertEqual(edit.analysis, "people", "the edit names what it was made on")

    def test_one_person_of_a_group(self) -> None:
        """Named by a place of their face, or by number."""
        for who in (ANCHORS[1], (330.0, 150.0), 1):
            edit = applied("everyday", bench(People()), face=who)
            (redness,) = [p for p in edit.passes if p.kind == "redness"]
            self.assertEqual(redness.fit.face, ANCHORS[1])
            (heal,) = [p for p in edit.passes if p.kind == "heal"]
            self.assertEqual([t.path[0] for t in heal.touches], [SPOTS[1]])

    def test_the_face_only(self) -> None:
        edit = applied("everyday", bench(People(BOXES[:1])), only_face=True)
        zones = {
            a.zone
            for p in edit.passes
            for a in p.mask.areas
            if isinstance(a, ZoneArea) and a.way == "add"
        }
        self.assertEqual(zones, {"face_skin", "under_eye_right", "under_eye_left"})

    def test_one_face_needs_no_names(self) -> None:
        edit = applied("light", bench(People(BOXES[:1])))
        self.assertNotIn("person", " ".join(p.name for p in edit.passes))
        self.assertEqual({a.face for p in edit.passes for a in p.mask.areas}, {None})  # type: ignore[union-attr]

    def test_who_is_not_there_is_refused(self) -> None:
        for face in (2, -1, (5.0, 5.0)):
            with self.assertRaises(Refused) as refused:
                applied("everyday", bench(People()), face=face)
            self.assertEqual(refused.exception.code, "no_such_face")
        for people in (None, People(())):
            with self.assertRaises(Refused) as refused:
                applied("everyday", bench(people))
            self.assertEqual(refused.exception.code, "no_face")
        with self.assertRaises(Refused):
            applied("no such one", bench(People()))

    def test_stronger_routines_do_more_of_everything(self) -> None:
        amounts = {
            r.name: {s.kind: s.settings.get("amount", 0) for s in r.steps} for r in ready_routines()
        }
        for kind in ("redness", "shine", "shadows"):
            light, everyday, strong = (amounts[n][kind] for n in ("light", "everyday", "strong"))
            self.assertTrue(0 < float(light) < float(everyday) < float(strong), kind)


class Spared(unittest.TestCase):
    def test_marks_that_stay_are_left_out_of_softening_blemishes(self) -> None:
        work = bench(People(BOXES[:1], ((50.0, 60.0),)))
        done = AddPass("blemishes").perform(Edit(), work)
        _, one = find_pass(done.edit, done.pass_id or "")
        (zone,) = one.mask.areas
        self.assertEqual((zone.zone, zone.way), ("skin", "add"))  # type: ignore[union-attr]
        (stroke,) = one.mask.strokes
        self.assertEqual(stroke.path, ((50.0, 60.0),))
        self.assertFalse(stroke.reveal)
        # All of the mark with its halo is hidden.
        self.assertGreaterEqual(stroke.radius_px * (1 - stroke.softness / 100), 4)

    def test_a_face_full_of_freckles_is_no_trouble(self) -> None:
        freckles = tuple((30.0 + 0.6 * n, 40.0) for n in range(300))
        edit = applied("strong", bench(People(BOXES[:1], freckles)))
        soft = next(p for p in edit.passes if p.kind == "blemishes")
        self.assertEqual(len(soft.mask.strokes), 300)
        self.assertEqual(from_data(to_data(edit)), edit)

    def test_without_a_face_nothing_is_made_up(self) -> None:
        done = AddPass("redness").perform(Edit(), bench())
        self.assertEqual(done.edit.passes[0].mask.areas, ())
        self.assertEqual(done.edit.passes[0].fit.values["px_per_mm"], 8.0)

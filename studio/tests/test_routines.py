"""Routines and new passes on skin: for whom, where, and without what is to stay."""

from __future__ import annotations

import unittest
from dataclasses import replace

from retouch.edit import Edit
from retouch.edit.form import from_data, to_data
from retouch.edit.mask import ZoneShape
from retouch.routines import ROUTINES
from studio.errors import Problem
from studio.portraits.services.operations.base import Context, find_pass
from studio.portraits.services.operations.passes import add_pass
from studio.portraits.services.operations.routines import apply_routine

SKINS = [{"px_per_mm": 8.0, "skin_l": 70.0, "skin_a": 14.0, "skin_b": 16.0},
         {"px_per_mm": 7.0, "skin_l": 32.0, "skin_a": 11.0, "skin_b": 14.0}]  # fmt: skip
SPOTS = [(100.0, 100.0, 8.0), (400.0, 120.0, 6.0)]


def group(people: int = 2) -> Context:
    """A picture of two people of different skin, each with one spot to clear."""
    return Context(
        choose=lambda edit, pass_id, touch: [(40, 0)],
        face=lambda face: SKINS[face] if 0 <= face < people else {},
        faces=people,
        kept=lambda edit: [(50.0, 60.0, 4.0)],
        spots=lambda edit, face: [s for n, s in enumerate(SPOTS) if face is None or n == face],
    )


class Routines(unittest.TestCase):
    def test_everyone_gets_passes_fitted_to_their_own_skin(self) -> None:
        edit = apply_routine(Edit(), {"name": "everyday"}, group()).edit
        redness = [p for p in edit.passes if p.kind == "redness"]
        self.assertEqual([p.settings["skin_l"] for p in redness], [70.0, 32.0])
        self.assertEqual([p.settings["px_per_mm"] for p in redness], [8.0, 7.0])
        # Everyone's own skin, without ears and lids, which are red by nature, and dark circles.
        places = [("skin", "add")]
        places += [(z, "take") for z in ("ears", "eyelids", "under_eye_right", "under_eye_left")]
        self.assertEqual(
            [(a.shape.face, a.shape.zone, a.way) for p in redness for a in p.mask.areas],  # type: ignore[union-attr]
            [(n, *area) for n in (0, 1) for area in places],
        )
        self.assertEqual([p.name for p in redness], ["Redness, person 1", "Redness, person 2"])
        (heal,) = [p for p in edit.passes if p.kind == "heal"]
        self.assertEqual([t.path[0][0] for t in heal.touches], [100.0, 400.0])

    def test_one_person_of_a_group(self) -> None:
        edit = apply_routine(Edit(), {"name": "everyday", "face": 1}, group()).edit
        (redness,) = [p for p in edit.passes if p.kind == "redness"]
        self.assertEqual(redness.settings["skin_l"], 32.0)
        (heal,) = [p for p in edit.passes if p.kind == "heal"]
        self.assertEqual([t.path[0][0] for t in heal.touches], [400.0])

    def test_the_face_only(self) -> None:
        edit = apply_routine(Edit(), {"name": "everyday", "only_face": True}, group(1)).edit
        zones = {
            a.shape.zone
            for p in edit.passes
            for a in p.mask.areas
            if isinstance(a.shape, ZoneShape) and a.way == "add"
        }
        self.assertEqual(zones, {"face_skin", "under_eye_right", "under_eye_left"})

    def test_one_face_needs_no_numbers(self) -> None:
        edit = apply_routine(Edit(), {"name": "light"}, group(1)).edit
        self.assertNotIn("person", " ".join(p.name for p in edit.passes))
        self.assertEqual({a.shape.face for p in edit.passes for a in p.mask.areas}, {-1})  # type: ignore[union-attr]

    def test_a_person_who_is_not_there(self) -> None:
        for face in (2, -1):
            with self.assertRaises(Problem) as refused:
                apply_routine(Edit(), {"name": "everyday", "face": face}, group())
            self.assertEqual(refused.exception.status, 404)

    def test_stronger_routines_do_more_of_everything(self) -> None:
        amounts = {r.name: {s.kind: s.settings.get("amount", 0) for s in r.steps} for r in ROUTINES}
        for kind in ("redness", "shine", "shadows"):
            light, everyday, strong = (amounts[n][kind] for n in ("light", "everyday", "strong"))
            self.assertTrue(0 < float(light) < float(everyday) < float(strong), kind)


class Spared(unittest.TestCase):
    def test_marks_that_stay_are_left_out_of_softening_blemishes(self) -> None:
        done = add_pass(Edit(), {"kind": "blemishes"}, group(1))
        _, one = find_pass(done.edit, done.pass_id or "")
        (zone,) = one.mask.areas
        self.assertEqual((zone.shape.zone, zone.way), ("skin", "add"))  # type: ignore[union-attr]
        (stroke,) = one.mask.strokes
        self.assertEqual(stroke.path, ((50.0, 60.0),))
        self.assertFalse(stroke.reveal)
        # All of the mark with its halo is hidden.
        self.assertGreaterEqual(stroke.radius_px * (1 - stroke.softness / 100), 4)

    def test_a_face_full_of_freckles_is_no_trouble(self) -> None:
        freckles = [(10.0 * n, 40.0, 3.0) for n in range(300)]
        many = replace(group(1), kept=lambda edit: freckles)
        done = apply_routine(Edit(), {"name": "strong"}, many)
        soft = next(p for p in done.edit.passes if p.kind == "blemishes")
        self.assertEqual(len(soft.mask.strokes), 300)
        again = from_data(to_data(done.edit))
        self.assertEqual(again, done.edit)

    def test_without_a_face_nothing_is_made_up(self) -> None:
        blind = replace(group(), face=lambda face: {}, faces=0, kept=lambda edit: [])
        done = add_pass(Edit(), {"kind": "redness"}, blind)
        self.assertEqual(done.edit.passes[0].mask.areas, ())

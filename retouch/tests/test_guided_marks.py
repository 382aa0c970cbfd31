"""Marks with what was decided about them: what a routine clears, and what it keeps from."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any, cast

import numpy as np

from retouch.edit import Edit
from retouch.edit.mask import ZoneArea
from retouch.face import Analysis, Mark
from retouch.forms.form import from_data
from retouch.geometry import Rect
from retouch.masks.painted import share
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.work.bench import Bench
from retouch.work.fitting import usual_mask
from retouch.work.marks import decided, to_clear, to_keep

PIMPLE = Mark(100, 100, 5, 8, "red", 0.2, 0.9, 0.9, "clear")
FAINT = Mark(160, 100, 4, 6, "red", 0.06, 0.8, 0.2, "clear")
MOLE = Mark(220, 100, 6, 7, "dark", 0.4, 0.1, 0.95, "keep")
UNSURE = Mark(280, 100, 5, 6, "dark", 0.2, 0.55, 0.9, "ask")
FRECKLE = Mark(340, 100, 2, 2, "dark", 0.06, 0.2, 0.2, "keep")
OTHERS = Mark(400, 300, 5, 8, "red", 0.2, 0.9, 0.9, "clear")


def two_people() -> Analysis:
    found: Any = SimpleNamespace(
        marks=((PIMPLE, FAINT, MOLE, UNSURE, FRECKLE), (OTHERS,)), zone_at=lambda x, y: (0, "chin")
    )
    return cast(Analysis, found)


def edit_of(*passes: dict[str, Any]) -> Edit:
    return from_data({"version": 1, "passes": list(passes)})


def said(decision: str, x: float, y: float) -> dict[str, Any]:
    touch = {"id": f"d{x}", "path": [[x, y]], "values": {"decision": decision}}
    return {"id": f"said{x}", "kind": "marks", "touches": [touch]}


def places(marks: list[tuple[float, float, float]]) -> list[tuple[float, float]]:
    return [(x, y) for x, y, _ in marks]


class Decisions(unittest.TestCase):
    def test_as_proposed_as_long_as_nothing_is_said(self) -> None:
        analysis = two_people()
        self.assertEqual(
            [d.decision for d in decided(analysis, Edit())],
            ["clear", "clear", "keep", "ask", "keep", "clear"],
        )
        # What is only suspected is left to the user.
        self.assertEqual(places(to_clear(analysis, Edit())), [(100, 100), (400, 300)])
        self.assertEqual(places(to_keep(analysis, Edit())), [(220, 100)])

    def test_what_the_user_says_counts(self) -> None:
        analysis = two_people()
        edit = edit_of(said("keep", 101, 99), said("clear", 279, 101))
        self.assertEqual(places(to_clear(analysis, edit)), [(280, 100), (400, 300)])
        self.assertEqual(places(to_keep(analysis, edit)), [(100, 100), (220, 100)])
        # Even a mark that is hardly one stays if the user wants it.
        edit = edit_of(said("keep", 340, 100))
        self.assertEqual(places(to_keep(analysis, edit)), [(220, 100), (340, 100)])

    def test_the_latest_word_about_a_mark_counts(self) -> None:
        pass_of = said("keep", 100, 100)
        later = {**pass_of["touches"][0], "id": "later", "values": {"decision": "clear"}}
        pass_of["touches"].append(later)
        self.assertIn((100, 100), places(to_clear(two_people(), edit_of(pass_of))))

    def test_a_decision_beside_a_mark_is_none_about_it(self) -> None:
        edit = edit_of(said("keep", 100 + PIMPLE.radius + 1, 100))
        self.assertIn((100, 100), places(to_clear(two_people(), edit)))

    def test_a_decision_that_is_switched_off_is_none(self) -> None:
        edit = edit_of({**said("keep", 100, 100), "enabled": False})
        self.assertIn((100, 100), places(to_clear(two_people(), edit)))

    def test_one_persons_marks(self) -> None:
        self.assertEqual(places(to_clear(two_people(), Edit(), face=1)), [(400, 300)])

    def test_healed_marks_are_done(self) -> None:
        heal = {"id": "h", "kind": "heal", "touches": [
            {"id": "t", "path": [[102, 101]], "source": [40, 0], "values": {"radius_px": 9}},
        ]}  # fmt: skip
        self.assertEqual(places(to_clear(two_people(), edit_of(heal))), [(400, 300)])
        # A heal that is off shows the mark again.
        off = {**heal, "enabled": False}
        self.assertIn((100, 100), places(to_clear(two_people(), edit_of(off))))

    def test_brushes_cover_a_marks_halo(self) -> None:
        for (x, y, radius), mark in zip(
            to_clear(two_people(), Edit()), (PIMPLE, OTHERS), strict=True
        ):
            self.assertEqual((x, y), (mark.x, mark.y))
            self.assertGreater(radius, mark.reach)
            self.assertLess(radius, 2 * mark.reach)


def bench_of(*marks: Mark) -> Bench:
    """A bench of two people, the first with marks."""
    faces = (SimpleNamespace(anchor=(150.0, 90.0)), SimpleNamespace(anchor=(400.0, 280.0)))
    found: Any = SimpleNamespace(
        marks=(marks, ()), faces=faces, zone_at=lambda x, y: (0, "chin"), who=lambda face: face
    )
    pyramid = Pyramid(Picture(np.zeros((100, 120, 3), np.uint8)))
    return Bench(Renderer(pyramid), cast(Analysis, found))


class Sparing(unittest.TestCase):
    def test_strokes_hide_all_of_a_mark_and_little_around(self) -> None:
        moles = [Mark(60, 50, 6, 8, "dark", 0.4, 0.1, 0.95, "keep"),
                 Mark(20, 80, 0.1, 0.1, "dark", 0.4, 0.1, 0.95, "keep")]  # fmt: skip
        bench = bench_of(*moles)
        mask = usual_mask(registry.kind("blemishes"), bench, Edit())
        hidden = share(mask.strokes[0], Rect(0, 0, 120, 100), 0, bench.renderer.pyramid)
        ys, xs = np.mgrid[:100, :120] + 0.5
        away = np.hypot(xs - 60, ys - 50)
        self.assertGreater(float(hidden[away < 8].min()), 0.99)
        self.assertEqual(float(hidden[away > 2 * 8].max()), 0)
        self.assertFalse(any(s.reveal for s in mask.strokes))
        # The smallest still is a brush that masks accept.
        self.assertGreaterEqual(mask.strokes[1].radius_px, 0.5)

    def test_only_kinds_that_spare_marks_do(self) -> None:
        mask = usual_mask(registry.kind("redness"), bench_of(MOLE), Edit(), face=1)
        self.assertEqual(mask.strokes, ())
        areas = [a for a in mask.areas if isinstance(a, ZoneArea)]
        # The person is named by their place, not by a number.
        self.assertEqual({a.face for a in areas}, {(400.0, 280.0)})
        self.assertEqual(areas[0].zone, "skin")
        self.assertEqual({a.way for a in areas[1:]}, {"take"})

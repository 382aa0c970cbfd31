"""Passes bound into sets with one strength, and ready looks."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from retouch.edit import Edit
from retouch.edit.mask import Mask, MaskStroke, OutlineArea
from retouch.forms.form import dumps, loads
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, render_whole
from retouch.work.bench import Bench, Refused, bench_for
from retouch.work.changes import apply, compare, reverse
from retouch.work.looks import LOOKS
from retouch.work.operations import (
    AddPass,
    ApplyLook,
    BindPasses,
    ChangePass,
    ChangeSet,
    PaintMask,
    SetFrame,
    UnbindPass,
    perform,
)
from retouch.work.operations.sets import LookStep


def photograph() -> Picture:
    y, x = np.mgrid[:150, :200]
    waves = 0.5 + 0.3 * np.sin(x / 13) * np.cos(y / 17)
    pixels = np.stack([waves, 0.8 * waves, 0.7 * waves], -1)
    return Picture(np.round(255 * pixels).astype(np.uint8))


class Sets(unittest.TestCase):
    def setUp(self) -> None:
        self.bench: Bench = bench_for(Pyramid(photograph()), None)
        edit = Edit()
        for kind, values in (
            ("light", {"exposure_ev": 0.8}),
            ("split_toning", {"lights_amount": 60.0}),
        ):
            edit = perform(edit, AddPass(kind, kind, settings=values), self.bench).edit
        self.loose = edit
        self.edit = perform(edit, BindPasses(("light", "split_toning"), "Mood"), self.bench).edit
        assert self.edit.passes[0].bound is not None
        self.id = self.edit.passes[0].bound.id

    def change(self, edit: Edit, **more: object) -> Edit:
        return perform(edit, ChangeSet(self.id, **more), self.bench).edit  # type: ignore[arg-type]

    def pixels(self, edit: Edit) -> np.ndarray:
        return render_whole(Renderer(Pyramid(photograph())), edit).pixels.astype(int)

    def test_bound_at_full_strength_nothing_changes(self) -> None:
        np.testing.assert_array_equal(self.pixels(self.edit), self.pixels(self.loose))
        self.assertEqual({p.bound.name for p in self.edit.passes if p.bound}, {"Mood"})

    def test_one_strength_scales_each_pass(self) -> None:
        both = self.change(self.edit, strength=35.0)
        each = self.loose
        for one in ("light", "split_toning"):
            each = perform(each, ChangePass(one, strength=35.0), self.bench).edit
        np.testing.assert_array_equal(self.pixels(both), self.pixels(each))
        none = self.change(self.edit, strength=0.0)
        np.testing.assert_array_equal(self.pixels(none), photograph().pixels)

    def test_switched_off_it_is_the_picture_and_on_again_as_before(self) -> None:
        off = self.change(self.edit, on=False)
        np.testing.assert_array_equal(self.pixels(off), photograph().pixels)
        np.testing.assert_array_equal(
            self.pixels(self.change(off, on=True)), self.pixels(self.edit)
        )

    def test_let_go_each_keeps_what_it_shows(self) -> None:
        half = self.change(
            perform(self.edit, ChangePass("light", strength=60.0), self.bench).edit, strength=50.0
        )
        free = self.change(half, loose=True)
        self.assertEqual([(p.bound, p.strength) for p in free.passes], [(None, 30.0), (None, 50.0)])
        np.testing.assert_array_equal(self.pixels(free), self.pixels(half))
        one = perform(half, UnbindPass("light"), self.bench).edit
        self.assertEqual([p.bound is None for p in one.passes], [True, False])
        np.testing.assert_array_equal(self.pixels(one), self.pixels(half))

    def test_a_pass_that_belongs_to_a_set_brings_it_along(self) -> None:
        more = perform(self.edit, AddPass("grain", "grain"), self.bench).edit
        joined = perform(more, BindPasses(("light", "grain")), self.bench).edit
        self.assertEqual({p.bound.id for p in joined.passes if p.bound}, {self.id})
        self.assertTrue(all(p.bound for p in joined.passes))

    def test_a_mask_limits_all_its_passes_and_is_taken_away_again(self) -> None:
        left = OutlineArea(((0.0, 0.0), (90.0, 0.0), (90.0, 150.0), (0.0, 150.0)))
        limited = self.change(self.edit, area=left)
        plain = photograph().pixels
        np.testing.assert_array_equal(self.pixels(limited)[:, 100:], plain[:, 100:])
        np.testing.assert_array_equal(self.pixels(limited)[:, :80], self.pixels(self.edit)[:, :80])
        self.assertEqual(self.change(limited, everywhere=True).passes, self.edit.passes)
        # Another one replaces it; a pass with a mask of its own keeps that.
        right = replace(left, invert=True)
        moved = self.change(limited, area=right)
        np.testing.assert_array_equal(self.pixels(moved)[:, :80], plain[:, :80])
        top = OutlineArea(((0.0, 0.0), (200.0, 0.0), (200.0, 60.0), (0.0, 60.0)))
        for invert in (False, True):
            own = Mask((top,), invert=invert)
            masked = Edit(tuple(replace(p, mask=own) for p in self.edit.passes))
            both = self.pixels(self.change(masked, area=left))
            change = (both != plain).any(-1)
            allowed = np.zeros_like(change)
            allowed[slice(60, None) if invert else slice(60), :90] = True
            self.assertGreater(float(change[allowed].mean()), 0.9)
            wide = cv2.dilate(allowed.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
            self.assertFalse(change[~wide].any())
            self.assertEqual(
                self.change(self.change(masked, area=left), everywhere=True).passes, masked.passes
            )

    def test_a_stroke_eases_all_its_passes(self) -> None:
        dab = MaskStroke(((60.0, 60.0),), 30.0, 0.0, 100.0)
        eased = perform(self.edit, PaintMask("light", dab, whole_set=True), self.bench)
        self.assertEqual(eased.label, "Ease Mood")
        shown, plain = self.pixels(eased.edit), photograph().pixels
        np.testing.assert_array_equal(shown[50:70, 50:70], plain[50:70, 50:70])
        np.testing.assert_array_equal(shown[:, 100:], self.pixels(self.edit)[:, 100:])
        one = perform(self.edit, PaintMask("light", dab), self.bench).edit
        self.assertTrue((self.pixels(one)[50:70, 50:70] != plain[50:70, 50:70]).any())
        with self.assertRaisesRegex(Refused, "no set"):
            perform(self.loose, PaintMask("light", dab, whole_set=True), self.bench)

    def test_history_and_files_keep_it(self) -> None:
        changed = self.change(self.edit, strength=40.0, name="Evening")
        steps = compare(self.edit, changed)
        self.assertEqual(apply(self.edit, steps).passes, changed.passes)
        self.assertEqual(apply(changed, reverse(steps)).passes, self.edit.passes)
        self.assertEqual(loads(dumps(changed)), changed)

    def test_what_has_no_strength_and_what_is_gone_is_refused(self) -> None:
        framed = perform(self.loose, SetFrame(settings={"angle_deg": 2.0}), self.bench).edit
        frame = next(p.id for p in framed.passes if p.kind == "frame")
        with self.assertRaisesRegex(Refused, "no strength"):
            perform(framed, BindPasses(("light", frame)), self.bench)
        with self.assertRaisesRegex(Refused, "set is gone"):
            perform(self.loose, ChangeSet("other", strength=5.0), self.bench)
        with self.assertRaisesRegex(Refused, "belongs to no set"):
            perform(self.loose, UnbindPass("light"), self.bench)


class Looks(unittest.TestCase):
    def test_each_is_a_set_of_finishing_passes_that_does_something(self) -> None:
        bench = bench_for(Pyramid(photograph()), None)
        before = photograph().pixels.astype(int)
        names = set()
        for one in LOOKS:
            edit = perform(Edit(), ApplyLook(one.name), bench).edit
            self.assertEqual({p.bound.name for p in edit.passes if p.bound}, {one.title})
            self.assertEqual({registry.kind(p.kind).stage for p in edit.passes}, {"finish"})
            after = render_whole(bench.renderer, edit).pixels.astype(int)
            self.assertGreater(float(np.abs(after - before).mean()), 1.0, one.name)
            names.add(after.tobytes())
        self.assertEqual(len(names), len(LOOKS))
        self.assertTrue(6 <= len(LOOKS) <= 10)

    def test_a_look_of_ones_own_is_its_steps(self) -> None:
        bench = bench_for(Pyramid(photograph()), None)
        steps = (
            LookStep("mono", {"red": 100.0, "green": 0.0, "blue": 0.0}),
            LookStep("grain", strength=40.0),
        )
        edit = perform(Edit(), ApplyLook("Mine", 70.0, steps), bench).edit
        self.assertEqual(
            [(p.kind, p.strength) for p in edit.passes], [("mono", 100.0), ("grain", 40.0)]
        )
        self.assertEqual(
            {(p.bound.name, p.bound.strength) for p in edit.passes if p.bound}, {("Mine", 70.0)}
        )
        for kind in ("heal", "frame"):
            with self.assertRaisesRegex(Refused, "can't be a part of a look"):
                perform(Edit(), ApplyLook("Mine", 70.0, (LookStep(kind),)), bench)

    def test_its_strength_is_given_at_once(self) -> None:
        bench = bench_for(Pyramid(photograph()), None)
        edit = perform(Edit(), ApplyLook("silver", 35.0), bench).edit
        self.assertEqual({p.bound.strength for p in edit.passes if p.bound}, {35.0})
        with self.assertRaisesRegex(Refused, "no look called"):
            perform(Edit(), ApplyLook("nothing"), bench)

"""Shape in pictures: what is moved, what isn't, views and files of it."""

import unittest

import cv2
import numpy as np

from benchmarks.stretched import edge_width, grain
from retouch.edit import Edit
from retouch.edit.mask import OutlineArea
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.natural.passes import stopped
from retouch.picture import Pyramid
from retouch.render import render_view, render_whole
from retouch.render.changes import changed_region
from retouch.render.view import grid_of
from retouch.tests.shaped import SIZE, picture, pushed
from retouch.work.bench import bench_for
from retouch.work.operations import (
    AddTouch,
    ChangePass,
    NewTouch,
    SetFrame,
    SetMask,
    perform,
)


class InPictures(unittest.TestCase):
    def test_what_stays_is_the_same_bit_for_bit(self) -> None:
        for bits in (8, 16):
            with self.subTest(bits=bits):
                bench = bench_for(Pyramid(picture(bits)), None)
                edit = pushed(bench, Edit(), ((150, 150), (170, 155)))
                out = render_whole(bench.renderer, edit).pixels
                own = bench.renderer.pyramid.picture.pixels
                changed = (out != own).any(-1)
                self.assertGreater(int(changed.sum()), 2000)
                far = np.hypot(np.arange(SIZE[0])[None] - 160, np.arange(SIZE[1])[:, None] - 152)
                self.assertFalse(changed[far > 75].any())
                # Once resampled, grain is about as strong as it was.
                near = far < 25
                ratio = np.std(np.diff(out[near].astype(float))) / np.std(
                    np.diff(own[near].astype(float))
                )
                self.assertGreater(float(ratio), 0.85)

    def test_views_are_as_the_file(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((150, 150), (170, 155)))
        out = render_whole(bench.renderer, edit).pixels
        view = render_view(bench.renderer.plan(edit), 60, 40, 1, 200, 180)
        self.assertLessEqual(int(np.abs(view.astype(int) - out[40:220, 60:260]).max()), 1)
        # Any part of a view is as in the whole.
        part = render_view(bench.renderer.plan(edit), 133, 101, 1, 37, 61)
        self.assertLessEqual(int(np.abs(part.astype(int) - out[101:162, 133:170]).max()), 1)
        small = render_view(bench.renderer.plan(edit), 0, 0, 0.5, 180, 150)
        known = cv2.resize(out, (180, 150), interpolation=cv2.INTER_AREA)
        self.assertLess(float(np.abs(small.astype(int) - known).mean()), 1.5)

    def test_a_view_needs_what_moves_into_it_and_no_more(self) -> None:
        """Strokes there and back add up to little: not to the sum of their ways."""
        bench = bench_for(Pyramid(picture()), None)
        edit, here = Edit(), Rect(120, 100, 220, 190)
        for n in range(12):
            x = 150.0 + 12 * (n % 2)
            edit = pushed(bench, edit, ((x, 145.0), (312 - x, 145.0)))
        plan = bench.renderer.plan(edit)
        self.assertGreater(sum(f.most for f in plan.shape.fields), 60)
        grid = grid_of(plan, here.x0, here.y0, 1, here.width, here.height)
        self.assertEqual(grid.rect.clip(here.grow(40)), grid.rect)
        out = render_whole(bench.renderer, edit).pixels
        view = render_view(plan, here.x0, here.y0, 1, here.width, here.height)
        off = np.abs(view.astype(int) - out[here.y0 : here.y1, here.x0 : here.x1])
        self.assertLessEqual(int(off.max()), 1)
        # Where nothing moves, nothing more than the view is looked at.
        still = grid_of(plan, 0, 240, 1, 50, 50).rect
        self.assertEqual(still.clip(Rect(0, 240, 50, 290).grow(2)), still)

    def test_it_goes_with_a_frame(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((150, 150), (170, 155)))
        plain = render_whole(bench.renderer, edit).pixels
        turned = perform(edit, SetFrame({"turn": "90"}), bench).edit
        # Nodes of the map lie elsewhere then.
        off = render_whole(bench.renderer, turned).pixels.astype(int) - np.rot90(plain, -1)
        self.assertLessEqual(int(np.abs(off).max()), 6)
        self.assertEqual(float(np.median(np.abs(off))), 0)
        tilted = perform(edit, SetFrame({"angle_deg": 3.0}), bench).edit
        plan = bench.renderer.plan(tilted)
        out = render_whole(bench.renderer, tilted).pixels
        view = render_view(plan, 40, 40, 1, 200, 160)
        # A view is turned, then moved; the file is resampled once.
        self.assertLess(float(np.abs(view.astype(int) - out[40:200, 40:240]).mean()), 3)

    def test_what_is_held_stays(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((150, 150), (170, 155)))
        ident = edit.passes[0].id
        hold = OutlineArea(((170, 80), (300, 80), (300, 260), (170, 260)), way="take")
        edit = perform(edit, SetMask(ident, areas=(hold,)), bench).edit
        out = render_whole(bench.renderer, edit).pixels
        own = bench.renderer.pyramid.picture.pixels
        np.testing.assert_array_equal(out[80:260, 176:300], own[80:260, 176:300])
        self.assertGreater(int((out != own)[120:190, 100:160].sum()), 1000)

    def test_strength_moves_less(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((150, 150), (170, 150)))
        half = perform(edit, ChangePass(edit.passes[0].id, strength=50.0), bench).edit
        most = [bench.renderer.plan(e).shape.made[0].most for e in (edit, half)]
        self.assertAlmostEqual(most[1], most[0] / 2, delta=0.01)
        none = perform(edit, ChangePass(edit.passes[0].id, strength=0.0), bench).edit
        np.testing.assert_array_equal(
            render_whole(bench.renderer, none).pixels, bench.renderer.pyramid.picture.pixels
        )

    def test_a_changed_region_holds_all_that_changes(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        one = pushed(bench, Edit(), ((150, 150), (170, 155)))
        two = pushed(bench, one, ((200, 180), (190, 190)), radius_px=30.0)
        bounds = bench.renderer.bounds
        for old, new in ((Edit(), one), (one, two), (two, one)):
            plans = [bench.renderer.plan(e) for e in (old, new)]
            region = plans[1].warp.covers(changed_region(old, new, bounds))
            before, after = (render_whole(bench.renderer, e).pixels for e in (old, new))
            changed = (before != after).any(-1)
            changed[region.within(bounds)] = False
            self.assertFalse(changed.any())

    def test_a_push_too_far_is_stopped_and_says_so(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((100, 150), (250, 150)), radius_px=20.0)
        plan = bench.renderer.plan(edit)
        self.assertRegex(stopped(plan.shape, edit.passes[0]) or "", r"Stopped at \d+ %")
        # What is left goes with the brush as far as it can.
        self.assertGreater(plan.shape.made[0].most, 8)
        kept = pushed(bench, Edit(), ((100, 150), (105, 150)))
        self.assertIsNone(stopped(bench.renderer.plan(kept).shape, kept.passes[0]))

    def test_pixels_are_made_below_whatever_moves(self) -> None:
        bench = bench_for(Pyramid(picture()), None)
        edit = pushed(bench, Edit(), ((150, 150), (170, 150)))
        heal = NewTouch(((150.0, 150.0),), values={"radius_px": 8.0}, source=(60, 0))
        edit = perform(edit, AddTouch("heal", heal), bench).edit
        plan = bench.renderer.plan(edit)
        self.assertEqual([p.kind for p in plan.passes], ["heal"])
        again = loads(dumps(edit))
        self.assertEqual(bench.renderer.plan(again).warp.key, plan.warp.key)


class Sharpness(unittest.TestCase):
    def test_grain_keeps_its_strength_where_skin_is_stretched(self) -> None:
        for number, amount in (("face_cheeks", -12.0), ("face_chin", 8.0), ("mouth_width", 10.0)):
            kept = grain("ana", number, amount)
            self.assertAlmostEqual(kept.middle, 1.0, delta=0.03, msg=number)
            self.assertGreater(kept.low, 0.88, number)
            self.assertLess(kept.high, 1.12, number)

    def test_an_edge_is_as_sharp_after_the_one_resampling(self) -> None:
        for shift in (0.25, 0.5, 3.5):
            before, after = edge_width(shift)
            self.assertAlmostEqual(after / before, 1.0, delta=0.05)


if __name__ == "__main__":
    unittest.main()

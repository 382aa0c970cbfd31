"""Make-up: colour laid on regions of the mesh, what is there made stronger, both sides evened."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO
from retouch.colour.depth import to_integers
from retouch.colour.lab import from_lab, to_lab
from retouch.edit import Edit, Mask
from retouch.edit.mask import ZoneArea
from retouch.face import regions
from retouch.face.cover import FaceZones
from retouch.face.pairs import pair_of
from retouch.features import make_up
from retouch.geometry import Rect
from retouch.natural.passes import pass_readings
from retouch.picture import Pyramid, read
from retouch.tests.colours import flat, median
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass


class MakeUp(unittest.TestCase):
    SKIN = (66.0, 14.0, 17.0)

    def look(self, **settings: object) -> make_up.MakeUp:
        usual = {"amount": 0.0, "hue": 0.0, "chroma": 0.0, "light": 0.0, "stronger": 0.0}
        return make_up.MakeUp(**{**usual, **settings}, skin=self.SKIN)  # type: ignore[arg-type]

    def test_a_colour_laid_in_keeps_light_and_texture(self) -> None:
        before = flat(self.SKIN, 2.0, 128)
        after = make_up.laid(before, self.look(amount=1.0, hue=20.0, chroma=30.0), 5.0)
        was, now = to_lab(before), to_lab(after)
        np.testing.assert_allclose(now[..., 0], was[..., 0], atol=0.6)
        middle = np.median(now.reshape(-1, 3), 0)
        self.assertAlmostEqual(float(np.degrees(np.arctan2(middle[2], middle[1]))), 20.0, delta=2.0)
        self.assertAlmostEqual(float(np.hypot(*middle[1:])), 30.0, delta=1.5)

    def test_tones_take_their_share(self) -> None:
        lab = np.tile(np.array(self.SKIN, np.float32), (96, 96, 1))
        lab[::8, :, 0] -= 12.0
        before = from_lab(lab)
        for tones, dark, rest in (("shadows", True, False), ("lights", False, True)):
            after = make_up.laid(before, self.look(light=-1.0, tones=tones), 5.0)
            moved = np.abs(to_lab(after)[..., 0] - to_lab(before)[..., 0]).mean(1)
            with self.subTest(tones):
                self.assertEqual(bool(moved[40] > 1.0), dark)
                self.assertEqual(bool(moved[44] > 3.0), rest)

    def test_what_is_there_gets_stronger_and_bare_skin_stays(self) -> None:
        bare, shadow = flat(self.SKIN), flat((48.0, 12.0, 4.0))
        strong = self.look(stronger=1.0)
        np.testing.assert_allclose(make_up.laid(bare, strong, 5.0), bare, atol=0.012)
        light, _, b = median(make_up.laid(shadow, strong, 5.0))
        self.assertLess(float(light), 36.0)
        self.assertLess(float(b), -4.0)
        faint = median(make_up.laid(shadow, self.look(stronger=-1.0), 5.0))
        self.assertGreater(float(faint[0]), 56.0)

    def test_shine_is_no_make_up(self) -> None:
        """Light on skin is paler than skin: made richer by the difference it would turn blue."""
        shine = flat((86.0, 6.0, 6.0))
        after = median(make_up.laid(shine, self.look(stronger=1.0), 5.0))
        np.testing.assert_allclose(after, (86.0, 6.0, 6.0), atol=0.5)

    def test_both_sides_are_evened_half_way_each(self) -> None:
        image = flat((60.0, 14.0, 17.0))
        image[:, :32] = from_lab(np.tile(np.array((52.0, 10.0, 5.0), np.float32), (64, 32, 1)))
        on_right = np.zeros((64, 64), bool)
        on_right[:, :32] = True
        even = self.look(even=1.0, differs=(-8.0, -4.0, -12.0))
        after = to_lab(make_up.laid(image, even, 5.0, on_right))
        for side in (after[:, :32], after[:, 32:]):
            middle = np.median(side.reshape(-1, 3), 0)
            np.testing.assert_allclose(middle, (56.0, 12.0, 11.0), atol=0.5)

    def test_painted_lids_are_told_apart(self) -> None:
        """One lid of a demo person painted: the difference of both is what was painted."""
        picture, analysis = read(DEMO / "portraits" / "eli.jpg"), understand("eli").analysis
        bench = bench_for(Pyramid(picture), analysis)
        done = AddPass("eye_make_up", settings={"amount": 80.0, "hue": 250.0}).perform(
            Edit(), bench
        )
        one = done.edit.passes[0]
        areas = tuple(replace(a, side="right") for a in one.mask.areas if isinstance(a, ZoneArea))
        painted = Edit((replace(one, mask=Mask(areas)),))
        made = bench.renderer.plan(painted).view(bench.renderer.bounds, 0)
        before, after = (
            pair_of(analysis, Pyramid(p), 0, {"eye": ("lid_above", "lid_below")}).differs["eye"]
            for p in (picture, replace(picture, pixels=to_integers(made, 8)))
        )
        self.assertLess(after[2] - before[2], -8.0)
        self.assertLess(abs(after[0] - before[0]), 2.5)

    def test_regions_lie_on_skin_beside_the_eyes(self) -> None:
        picture, analysis = read(DEMO / "portraits" / "eli.jpg"), understand("eli").analysis
        truth, bounds = labels("eli"), Rect(0, 0, 1600, 2000)
        zones = FaceZones(analysis, Edit(), Pyramid(picture))
        for name in regions.REGIONS:
            cover = zones.cover(name, None, bounds, truth.shape)
            reach = zones.extent(name, None)
            assert reach is not None
            with self.subTest(name):
                self.assertGreater(float(cover.max()), 0.5)
                outside = cover.copy()
                outside[reach.within(bounds)] = 0
                self.assertEqual(float(outside.max()), 0.0)
                if regions.REGIONS[name].skin:
                    self.assertLess(float(cover[np.isin(truth, (3, 4, 5))].mean()), 0.06)
                part = Rect(600, 800, 900, 1000)
                np.testing.assert_allclose(
                    zones.cover(name, None, part, (200, 300)), cover[800:1000, 600:900], atol=0.02
                )
        upper = zones.cover("lid_above", None, bounds, truth.shape)
        rows = (upper.sum(1) * np.arange(2000)).sum() / upper.sum()
        self.assertLess(float(rows), float(analysis.faces[0].right_iris.y))

    def test_each_kind_acts_on_its_region_alone(self) -> None:
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "eli.jpg")), understand("eli").analysis)
        whole = bench.renderer.bounds
        before = bench.renderer.plan(Edit()).view(whole, 1)
        amounts = {"eye_make_up": "amount", "lash_line": "darker", "blush": "amount",
                   "contour": "darker", "highlight": "lighter"}  # fmt: skip
        for kind, name in amounts.items():
            done = AddPass(kind, settings={name: 60.0}).perform(Edit(), bench)
            moved = np.abs(bench.renderer.plan(done.edit).view(whole, 1) - before).max(-1) > 0.002
            with self.subTest(kind):
                self.assertTrue(0.0003 < moved.mean() < 0.06, moved.mean())
                told = pass_readings(bench.renderer, done.edit, done.pass_id or "")
                sides = ["sides"] if kind in ("eye_make_up", "blush") else []
                self.assertEqual([r.name for r in told], ["laid", "light", "chroma", *sides])


if __name__ == "__main__":
    unittest.main()

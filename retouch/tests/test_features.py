"""Eyes, teeth, lips, brows: what each pass does, what it leaves, and the colours it may reach."""

from __future__ import annotations

import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import colour
import cv2
import numpy as np

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO
from retouch.cli.render import EXIT_BAD_INPUT, main
from retouch.colour.difference import ciede2000
from retouch.colour.lab import from_lab, to_lab
from retouch.edit import Edit, Mask, Pass
from retouch.edit.mask import ZoneArea
from retouch.face import analyse
from retouch.face.feature_colours import irises_of, seen_in
from retouch.face.red_eyes import red_eyes
from retouch.features import irises, lips, red_eye, teeth, whites
from retouch.features.toning import FADE, MOST_LIFT, lifted
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.natural.passes import pass_readings
from retouch.passes import registry
from retouch.picture import Picture, Pyramid, read
from retouch.render import Renderer
from retouch.tests.colours import flat, median
from retouch.work import Bench
from retouch.work.bench import Refused, bench_for
from retouch.work.operations import AddPass, AddTouches, ApplyRoutine, NewTouch

KINDS = ("eye_whites", "irises", "teeth", "lips", "brows")


class Colours(unittest.TestCase):
    def test_the_whiteness_index_of_dentistry(self) -> None:
        """Pérez and others (Dental Materials 32, 2016): 0.511 L* - 2.324 a* - 1.100 b*, here of
        colours that colour-science made from XYZ.
        """
        white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
        xyz = colour.xy_to_XYZ(white) * np.array([[1.0], [0.55]])
        self.assertAlmostEqual(float(teeth.whiteness(colour.XYZ_to_Lab(xyz[0], white))), 51.1, 3)
        lab = colour.XYZ_to_Lab(np.array([0.52, 0.55, 0.45]), white)
        wanted = 0.511 * lab[0] - 2.324 * lab[1] - 1.1 * lab[2]
        self.assertAlmostEqual(float(teeth.whiteness(lab)), wanted, 6)

    def test_shades_of_the_common_guide_rise_in_whiteness_as_they_are_ordered(self) -> None:
        """O'Brien, Groh and Boenke (Journal of Dental Research 69, 1990), from memory: A1 to A4."""
        guide = [(79.6, -1.6, 13.1), (76.0, -0.1, 16.7), (75.4, 1.4, 19.6), (68.6, 1.6, 21.0)]
        found = teeth.whiteness(np.array(guide))
        self.assertTrue((np.diff(found) < -teeth.ACCEPTED).all(), found)

    def test_a_lift_stops_at_its_ceiling_and_keeps_three_fifths_of_contrast(self) -> None:
        light = np.linspace(0, 100, 2001, dtype=np.float32)
        up = lifted(light, 1.0, 86.0)
        self.assertLessEqual(float(up[light <= 86].max()), 86.0 + 1e-4)
        np.testing.assert_array_equal(up[light >= 86], light[light >= 86])
        slopes = np.diff(up) / np.diff(light)
        self.assertGreaterEqual(float(slopes.min()), 1 - MOST_LIFT / FADE - 1e-3)


class Algorithms(unittest.TestCase):
    def test_teeth_lose_yellow_down_to_ivory_and_never_turn_grey(self) -> None:
        own = (72.0, 2.0, 24.0)
        look = teeth.TeethLook(1.0, 0.0, 0.0, teeth.CEILING, teeth.IVORY, own)
        light, a, b = median(teeth.whitened(flat(own, 1.0), look, 4.0))
        self.assertAlmostEqual(float(np.hypot(a, b)), teeth.IVORY, delta=0.3)
        self.assertAlmostEqual(float(light), 72.0, delta=0.3)
        pale = (80.0, 0.0, 9.0)
        same = teeth.whitened(flat(pale), replace(look, own=pale), 4.0)
        np.testing.assert_array_equal(same, flat(pale))

    def test_gums_and_the_dark_of_the_mouth_are_no_teeth(self) -> None:
        look = teeth.TeethLook(1.0, 1.0, 1.0, teeth.CEILING, teeth.IVORY, (74.0, 2.0, 20.0))
        for other in ((52.0, 28.0, 14.0), (18.0, 8.0, 6.0)):
            with self.subTest(other):
                np.testing.assert_array_equal(teeth.whitened(flat(other), look, 4.0), flat(other))

    def test_whites_stay_below_the_ceiling_and_keep_their_texture(self) -> None:
        look = whites.WhitesLook(1.0, 0.0, 0.0, 0.0, 86.0, (78.0, 1.0, 4.0), (62.0, 14.0, 18.0))
        before = flat((78.0, 1.0, 4.0), 0.8, 128)
        after = whites.brightened(before, look, 6.0)
        own, made = (to_lab(i)[..., 0] for i in (before, after))
        self.assertGreater(float(np.median(made - own)), 2.5)
        self.assertLess(float(np.quantile(made, 0.75)), 86.0)
        fine = [float(np.std(c - cv2.GaussianBlur(c, (0, 0), 1.0))) for c in (own, made)]
        self.assertAlmostEqual(fine[1] / fine[0], 1.0, delta=0.1)

    def test_veins_fade_and_broad_red_stays(self) -> None:
        lab = np.tile(np.array((76.0, 1.0, 4.0), np.float32), (96, 96, 1))
        lab[48, :, 1] += 9.0
        lab[48, :, 0] -= 4.0
        lab[:20, :, 1] += 6.0
        look = whites.WhitesLook(0.0, 0.0, 0.0, 1.0, 86.0, (76.0, 1.0, 4.0), (62.0, 14.0, 18.0))
        after = to_lab(whites.brightened(from_lab(lab), look, 8.0))
        self.assertLess(float(after[48, 20:76, 1].mean()), 4.0)
        self.assertGreater(float(after[48, 20:76, 0].mean()), 73.5)
        np.testing.assert_allclose(after[:8, :, 1], lab[:8, :, 1], atol=0.4)

    def test_skin_beside_whites_stays_bit_for_bit(self) -> None:
        skin = (58.0, 15.0, 19.0)
        look = whites.WhitesLook(1.0, 1.0, 1.0, 1.0, 86.0, (74.0, 2.0, 5.0), skin)
        np.testing.assert_array_equal(whites.brightened(flat(skin), look, 6.0), flat(skin))

    def test_a_recoloured_iris_keeps_pattern_and_light(self) -> None:
        image = flat((40.0, 6.0, 14.0), 3.0, 120)
        place = irises.IrisPlace(60.0, 60.0, 40.0, 0.35, (40.0, 6.0, 14.0))
        nothing = dict.fromkeys(
            ("lighter", "richer", "depth", "crisp", "rim", "pupil", "catchlight", "even"), 0.0
        )
        look = irises.IrisLook(**nothing, recolour=1.0, hue=250.0, ceiling=70.0)
        out = irises.changed(image, Rect(0, 0, 120, 120), 1.0, look, [place])
        before, after = to_lab(image), to_lab(out)
        ys, xs = np.mgrid[:120, :120] + 0.5
        away = np.hypot(xs - 60, ys - 60) / 40
        pattern = (away > 0.45) & (away < 0.9)
        hue = np.degrees(np.arctan2(*np.median(after[pattern], 0)[[2, 1]])) % 360
        self.assertAlmostEqual(float(hue), 250.0, delta=2.0)
        np.testing.assert_allclose(after[pattern][:, 0], before[pattern][:, 0], atol=0.6)
        np.testing.assert_array_equal(out[away > 1.15], image[away > 1.15])

    def test_a_pupil_is_found_where_lids_hide_the_iris(self) -> None:
        light = np.full((160, 160), 60.0, np.float32)
        ys, xs = np.mgrid[:160, :160] + 0.5
        away = np.hypot(xs - 80, ys - 80)
        light[away < 40] = 35.0
        light[away < 14] = 8.0
        light[:62] = 62.0
        found = irises.find_pupil(light, 80.0, 90.0, 38.0)
        assert found is not None
        np.testing.assert_allclose(found[:2], (80, 80), atol=1.6)
        self.assertAlmostEqual(found[2], 14, delta=2)
        self.assertIsNone(irises.find_pupil(np.full((80, 80), 20.0, np.float32), 40, 40, 30))

    def test_dry_lips_keep_form_and_the_finest_texture(self) -> None:
        lab = np.tile(np.array((52.0, 24.0, 12.0), np.float32), (200, 200, 1))
        xs = np.arange(200)
        for period, amount in ((90, 4.0), (9, 2.0), (2, 0.6)):
            lab[..., 0] += amount * np.cos(2 * np.pi * xs / period)
        look = lips.LipsLook(0, 0, 0, 1.0, 0, 0, 20.0, 40.0, (52.0, 24.0, 12.0))
        after = to_lab(lips.changed(from_lab(lab), look, 8.0))[100, :, 0]

        def of(row: np.ndarray, period: int) -> float:
            wave = np.exp(-2j * np.pi * xs / period)
            return float(np.abs(((row - row.mean()) * wave).mean()) * 2)

        self.assertLess(of(after, 9), 1.1)
        self.assertGreater(of(after, 90), 3.3)
        self.assertGreater(of(after, 2), 0.5)


class OnPeople(unittest.TestCase):
    """On demo portraits, against their labels."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.picture = read(DEMO / "portraits" / "eli.jpg")
        cls.analysis = understand("eli").analysis
        cls.labels = labels("eli")

    def bench(self) -> Bench:
        return bench_for(Pyramid(self.picture), self.analysis)

    def whole(self, bench: Bench, edit: Edit) -> np.ndarray:
        return bench.renderer.plan(edit).view(bench.renderer.bounds, 0)

    def test_levels_agree_where_bright_acts(self) -> None:
        """A reduced view agrees with the whole scaled down within 0.5 CIEDE2000."""
        bench = self.bench()
        edit = ApplyRoutine("bright").perform(Edit(), bench).edit
        before, after = self.whole(bench, Edit()), self.whole(bench, edit)
        rect = bench.renderer.bounds.reduced(1)
        seen = bench.renderer.plan(edit).view(rect, 1)
        size = (rect.width, rect.height)
        was, now = (cv2.resize(i, size, interpolation=cv2.INTER_AREA) for i in (before, after))
        there = np.abs(now - was).max(-1) > 2 / 255
        off = ciede2000(to_lab(seen)[there], to_lab(now)[there])
        self.assertLess(float(off.mean()), 0.5)

    def test_whites_in_cool_light_get_no_bluer(self) -> None:
        cool = (80.0, -1.0, -5.0)
        look = whites.WhitesLook(0.0, 1.0, 1.0, 0.0, 86.0, (80.0, -2.0, -8.0), (50.0, 10.0, 6.0))
        np.testing.assert_array_equal(whites.brightened(flat(cool), look, 6.0), flat(cool))

    def test_amounts_of_nothing_change_nothing(self) -> None:
        bench = self.bench()
        edit = Edit()
        for kind in KINDS:
            edit = AddPass(kind).perform(edit, bench).edit
        np.testing.assert_array_equal(self.whole(bench, edit), self.whole(bench, Edit()))

    def test_bright_stays_within_the_features(self) -> None:
        """At most 0.05 % of the pixels outside of a feature's label change by more than a step."""
        bench = self.bench()
        edit = ApplyRoutine("bright").perform(Edit(), bench).edit
        before = self.whole(bench, Edit())
        numbers = {"eye_whites": (4, 5), "irises": (5,), "teeth": (3, 10), "lips": (2, 3),
                   "brows": (6, 9)}  # fmt: skip
        self.assertEqual({p.kind for p in edit.passes}, set(KINDS))
        for one in edit.passes:
            after = self.whole(bench, Edit((one,)))
            moved = np.abs(np.round(after * 255) - np.round(before * 255)).max(-1) > 1
            inside = np.isin(self.labels, numbers[one.kind])
            with self.subTest(one.kind):
                self.assertGreater((moved & inside).sum() / inside.sum(), 0.05)
                # Of lips the labels end a little higher than where the lower one does.
                rim = np.ones((5, 5), np.uint8)
                near = (
                    cv2.dilate(inside.astype(np.uint8), rim) > 0 if one.kind == "lips" else inside
                )
                self.assertLess((moved & ~near).mean(), 0.0005)

    def test_teeth_get_whiter_by_more_than_can_be_seen_and_stay_ivory(self) -> None:
        bench = self.bench()
        added = AddPass("teeth", settings={"yellow": 50.0, "lighter": 30.0}).perform(Edit(), bench)
        white, light, ivory = pass_readings(bench.renderer, added.edit, added.pass_id or "")
        self.assertGreater(white.after - white.before, teeth.SEEN)
        self.assertFalse(light.beyond or ivory.beyond)
        self.assertGreaterEqual(ivory.after, teeth.IVORY)

    def test_beyond_the_ceiling_is_told(self) -> None:
        bench = self.bench()
        far = {"yellow": 100.0, "lighter": 100.0, "beyond": True}
        added = AddPass("teeth", settings=far).perform(Edit(), bench)
        found = pass_readings(bench.renderer, added.edit, added.pass_id or "")
        self.assertTrue(next(r for r in found if r.name == "ivory").beyond)

    def test_one_side_alone(self) -> None:
        bench = self.bench()
        added = AddPass("irises", settings={"lighter": 100.0, "beyond": True}).perform(
            Edit(), bench
        )
        one = added.edit.passes[0]
        areas = tuple(replace(a, side="left") for a in one.mask.areas if isinstance(a, ZoneArea))
        left = Edit((replace(one, mask=Mask(areas)),))
        before = self.whole(bench, Edit())
        moved = np.abs(self.whole(bench, left) - before).max(-1) > 0
        both = np.abs(self.whole(bench, added.edit) - before).max(-1) > 0
        middle = int(self.analysis.faces[0].points[168, 0])
        self.assertEqual(int(moved[:, :middle].sum()), 0)
        np.testing.assert_array_equal(moved[:, middle:], both[:, middle:])

    def test_pupils_are_where_they_are(self) -> None:
        bench = self.bench()
        known = sorted(self.truth()["eyes"], key=lambda e: e["x"])
        for wanted, found in zip(
            known, irises_of(self.analysis, bench.renderer.pyramid, 0), strict=True
        ):
            assert found is not None
            away = np.hypot(found.x - wanted["x"], found.y - wanted["y"])
            self.assertLess(away, 0.12 * wanted["iris_r"])

    def truth(self) -> dict[str, list[dict[str, float]]]:
        return json.loads((DEMO / "truth" / "eli.json").read_text())  # type: ignore[no-any-return]

    def test_the_teeth_stay_last(self) -> None:
        bench = self.bench()
        edit = AddPass("teeth").perform(Edit(), bench).edit
        for kind in ("white_balance", "lips", "redness"):
            edit = AddPass(kind).perform(edit, bench).edit
        self.assertEqual(edit.passes[-1].kind, "teeth")


class WhatIsMissing(unittest.TestCase):
    def test_a_closed_mouth_is_said(self) -> None:
        picture, analysis = read(DEMO / "portraits" / "ana.jpg"), understand("ana").analysis
        self.assertFalse(seen_in(analysis, 0, ("teeth",)))
        done = ApplyRoutine("bright").perform(Edit(), bench_for(Pyramid(picture), analysis))
        self.assertEqual(done.label, "Bright routine (Teeth not seen, left out)")
        self.assertNotIn("teeth", {p.kind for p in done.edit.passes})

    def test_nothing_to_see_to_is_refused(self) -> None:
        picture, analysis = read(DEMO / "portraits" / "ana.jpg"), understand("ana").analysis
        blind = replace(
            analysis, layers=tuple(a for a in analysis.layers if a.zone == "background")
        )
        with self.assertRaisesRegex(Refused, "Nothing that this routine sees to is seen"):
            ApplyRoutine("bright").perform(Edit(), bench_for(Pyramid(picture), blind))

    def test_a_pass_on_a_painted_mask_needs_no_face(self) -> None:
        picture = read(DEMO / "portraits" / "eli.jpg")
        renderer = Renderer(Pyramid(picture))
        for kind in ("eye_whites", "teeth", "lips", "brows"):
            settings = {"teeth": {"lighter": 80.0}, "brows": {"darker": 80.0}, "lips": {"richer": 80.0},
                        "eye_whites": {"lighter": 80.0}}[kind]  # fmt: skip
            edit = Edit((completed(Pass("p", kind, settings=settings)),))
            rect = Rect(600, 800, 1000, 1300)
            before, after = (renderer.plan(e).view(rect, 0) for e in (Edit(), edit))
            self.assertGreater(float(np.abs(after - before).max()), 0.01, kind)


class RedEyes(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture = read(DEMO / "portraits" / "ana-flash.jpg")
        cls.bench = bench_for(Pyramid(cls.picture), understand("ana-flash").analysis)

    def test_both_are_found_and_become_dark(self) -> None:
        assert self.bench.analysis is not None
        found = red_eyes(self.bench.analysis, self.bench.renderer.pyramid)
        self.assertEqual([e.side for e in found], ["right", "left"])
        dabs = tuple(NewTouch(((e.x, e.y),), values={"radius_px": e.radius}) for e in found)
        edit = AddTouches("red_eye", dabs).perform(Edit(), self.bench).edit
        before, after = (
            self.bench.renderer.plan(e).view(self.bench.renderer.bounds, 0) for e in (Edit(), edit)
        )
        # The same place without flash: the demo portrait that the flash picture is cut from.
        plain = read(DEMO / "portraits" / "ana.jpg")
        truth = Pyramid(plain).crop(Rect(400, 300, 1700, 1925), 0)
        for e in found:
            r = 0.7 * e.radius
            here = np.s_[round(e.y - r) : round(e.y + r), round(e.x - r) : round(e.x + r)]
            off = colour.delta_E(
                to_lab(after[here]).mean((0, 1)), to_lab(truth[here]).mean((0, 1)), "CIE 2000"
            )
            self.assertLess(float(off), 4.0)
            self.assertGreater(float(before[here][..., 0].mean()), 0.5)
        moved = np.abs(after - before).max(-1) > 0
        near = np.zeros(moved.shape, bool)
        for e in found:
            near[int(e.y - e.radius) : int(e.y + e.radius) + 2,
                 int(e.x - e.radius) : int(e.x + e.radius) + 2] = True  # fmt: skip
        self.assertEqual(int((moved & ~near).sum()), 0)

    def test_none_is_offered_without_flash(self) -> None:
        for name in ("ana", "eli", "chi", "hana"):
            with self.subTest(name):
                pyramid = Pyramid(read(DEMO / "portraits" / f"{name}.jpg"))
                self.assertEqual(red_eyes(understand(name).analysis, pyramid), [])

    def test_a_catchlight_in_the_glow_stays(self) -> None:
        image = np.tile(np.array((0.75, 0.2, 0.18), np.float32), (40, 40, 1))
        image[10:14, 10:14] = 0.97
        change = red_eye.darkened(image)
        self.assertEqual(float(np.abs(change[10:14, 10:14]).max()), 0.0)
        np.testing.assert_allclose((image + change)[30, 30], 0.0972, atol=0.01)


class Commands(unittest.TestCase):
    def test_bright_from_the_command_line(self) -> None:
        source = str(DEMO / "portraits" / "dan.jpg")
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "dan.png"
            self.assertEqual(main([source, "--out", str(out), "--routine", "bright"]), 0)
            moved = read(out).pixels != read(source).pixels
        share = moved.any(-1).mean()
        self.assertTrue(0.0005 < share < 0.03, share)

    def test_bright_without_a_routine_is_refused(self) -> None:
        source = str(DEMO / "portraits" / "dan.jpg")
        self.assertEqual(main([source, "--out", "never.png", "--bright"]), EXIT_BAD_INPUT)


class Declared(unittest.TestCase):
    def test_every_pass_of_the_stage_tells_its_numbers(self) -> None:
        for name in KINDS:
            kind = registry.kind(name)
            self.assertIsNotNone(kind.reads, name)
            self.assertTrue(kind.by_side and kind.zones, name)


class InAGroup(unittest.TestCase):
    def test_it_is_said_whose_teeth_are_left_out(self) -> None:
        """Two demo people side by side: one smiles, the other's mouth is closed."""
        ana, eli = (read(DEMO / "portraits" / f"{n}.jpg").pixels for n in ("ana", "eli"))
        both = Picture(np.hstack([cv2.resize(i, (800, 1000), interpolation=cv2.INTER_AREA)
                                  for i in (ana, eli)]))  # fmt: skip
        bench = bench_for(Pyramid(both), analyse(both))
        self.assertEqual(bench.people, 2)
        done = ApplyRoutine("bright").perform(Edit(), bench)
        self.assertRegex(done.label, r"\(Teeth of person \d not seen, left out\)$")
        teeth = [p for p in done.edit.passes if p.kind == "teeth"]
        self.assertEqual(len(teeth), 1)
        assert bench.analysis is not None
        self.assertGreater(
            bench.analysis.faces[bench.person(teeth[0].fit.face) or 0].anchor[0], 800
        )

"""Glasses: found, what lenses add taken off, and the whole of them removed."""

import json
import unittest

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from benchmarks.taken_away import difference, worn
from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.colour.transfer import to_encoded, to_linear
from retouch.edit import Edit
from retouch.face import analyse
from retouch.face.lens_light import reflections, tints
from retouch.face.outlines import outlines, place_within
from retouch.face.ridges import path, ridges
from retouch.features import cast_shadow, lens_light
from retouch.geometry import Rect
from retouch.heal.far import signed_on_grid
from retouch.heal.outline import _signed
from retouch.passes.patch import outlined
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import Refused, bench_for
from retouch.work.glasses import light_on, offered, untold_arms
from retouch.work.operations import AddTouch, ApplyRoutine, NewTouch, TakeOffGlasses, perform
from retouch.work.ready import routine
from retouch.work.routines import foreseen


def drawn(points: list[tuple[float, float]], shape: tuple[int, int]) -> np.ndarray:
    canvas = np.zeros(shape, np.uint8)
    cv2.fillPoly(canvas, [np.round(np.array(points) - 0.5).astype(np.int32)], 1)
    return canvas > 0


class Lines(unittest.TestCase):
    def test_a_line_differs_from_both_sides_an_edge_only_from_one(self) -> None:
        lab = np.zeros((9, 60, 3), np.float32)
        lab[..., 0] = 60
        lab[:, 20:23, 0] = 30
        lab[:, 45:, 0] = 30
        found = ridges(lab, (3,))
        self.assertGreater(found[4, 21], 25)
        self.assertLess(found[4, 43:48].max(), 1)

    def test_a_light_line_is_one_too(self) -> None:
        lab = np.full((9, 40, 3), 40, np.float32)
        lab[:, 20, :] = 70
        self.assertGreater(ridges(lab, (2,))[4, 20], 20)

    def test_the_path_follows_the_line_and_bridges_its_gap(self) -> None:
        scores = np.zeros((40, 30), np.float32)
        for i in range(40):
            if not 15 <= i < 19:
                scores[i, 8 + i // 4] = 1
        at = path(scores, 2, 0.1)
        self.assertLessEqual(int(np.abs(at - (8 + np.arange(40) // 4)).max()), 1)


class Outlined(unittest.TestCase):
    def test_a_ring_is_one_outline_with_its_hole_left_out(self) -> None:
        mask = np.zeros((80, 100), np.uint8)
        cv2.ellipse(mask, (50, 40), (35, 25), 0, 0, 360, 1, 6)
        found = outlines(mask > 0, Rect(0, 0, 100, 80))
        self.assertEqual(len(found), 1)
        again = drawn(found[0], (80, 100))
        self.assertGreater((again & (mask > 0)).sum() / (again | (mask > 0)).sum(), 0.85)
        self.assertFalse(again[40, 50])

    def test_a_place_within_is_within_where_the_middle_is_not(self) -> None:
        bow = ((0.0, 0.0), (90.0, 0.0), (90.0, 60.0), (70.0, 60.0), (70.0, 20.0), (20.0, 20.0),
               (20.0, 60.0), (0.0, 60.0))  # fmt: skip
        x, y = place_within(bow)
        self.assertGreater(cv2.pointPolygonTest(np.array(bow, np.float32), (x, y), True), 9.0)

    def test_it_lies_on_the_original(self) -> None:
        mask = np.zeros((20, 20), np.bool_)
        mask[5:15, 5:15] = True
        xs, ys = np.array(outlines(mask, Rect(100, 200, 140, 240))[0]).T
        self.assertAlmostEqual(float(xs.min()), 111, delta=1.5)
        self.assertAlmostEqual(float(ys.max()), 229, delta=1.5)

    def test_distances_on_a_grid_are_those_measured_one_by_one(self) -> None:
        rng = np.random.default_rng(2)
        turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
        r = 40 + 8 * np.sin(5 * turn) + rng.normal(0, 1, 90)
        line = np.stack([60 + r * np.cos(turn), 55 + r * np.sin(turn)], 1)
        for x0 in (0, 300):
            xs, ys = np.arange(x0, x0 + 120) + 0.5, np.arange(110) + 0.5
            wide, high = np.meshgrid(xs, ys)
            exact = _signed(wide.ravel(), high.ravel(), line).reshape(wide.shape)
            away = np.abs(signed_on_grid(xs, ys, line) - exact)
            self.assertLess(float(np.quantile(away, 0.999)), 1e-6)
            self.assertLess(float(away.max()), 1)

    def test_the_way_in_to_a_hole_and_back_is_not_measured_to(self) -> None:
        """A square ring: its outside, in along a line, around the hole, and back along that line."""
        outer = [(10.0, 10.0), (70.0, 10.0), (70.0, 70.0), (10.0, 70.0), (10.0, 10.0)]
        hole = [(30.0, 30.0), (30.0, 50.0), (50.0, 50.0), (50.0, 30.0), (30.0, 30.0)]
        axis = np.arange(80) + 0.5
        found = signed_on_grid(axis, axis, np.array(outer + hole))
        # On that line the nearest is the outer square; in the hole it is outside, as beside the ring.
        self.assertAlmostEqual(float(found[20, 20]), -10.5)
        self.assertAlmostEqual(float(found[40, 40]), 9.5)
        self.assertAlmostEqual(float(found[5, 40]), 4.5)


class LensLight(unittest.TestCase):
    def test_what_a_lens_adds_and_keeps_is_undone(self) -> None:
        rng = np.random.default_rng(1)
        there = rng.uniform(0.2, 0.7, (20, 30, 3)).astype(np.float32)
        cover = np.zeros((20, 30), np.float32)
        cover[:, 10:] = 1
        veil, lets = (0.05, 0.07, 0.06), (0.8, 0.7, 0.75)
        k = cover[..., None]
        light = to_linear(there) * (1 - k * (1 - np.array(lets))) + k * np.array(veil)
        seen = to_encoded(np.ascontiguousarray(light, np.float32))
        clear = lens_light.unveiled(seen, cover, veil, lets)
        self.assertLess(float(np.abs(clear - there).max()), 2e-3)

    def test_nothing_gets_darker_than_black(self) -> None:
        dark = np.full((4, 4, 3), 0.1, np.float32)
        clear = lens_light.unveiled(dark, np.ones((4, 4), np.float32), (0.5,) * 3, (1.0,) * 3)
        self.assertTrue((clear > 0).all())


class Shadows(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(4)
        self.thing = np.zeros((120, 200), np.float32)
        cv2.ellipse(self.thing, (100, 55), (60, 35), 0, 0, 360, 1.0, 5)
        skin = np.full((120, 200, 3), (0.75, 0.6, 0.5), np.float32)
        skin += rng.normal(0, 0.01, skin.shape).astype(np.float32)
        self.skin = skin
        dark = 0.25 * cast_shadow.shadow(self.thing, -4.0, 9.0, 2.5)
        light = to_linear(skin) * (1 - dark)[..., None]
        self.seen = np.asarray(to_encoded(np.ascontiguousarray(light, np.float32)))
        self.free = cv2.dilate((self.thing > 0).astype(np.uint8), np.ones((5, 5))) == 0

    def test_it_is_found_and_lifted(self) -> None:
        found = cast_shadow.fit(self.seen, self.thing, self.free, 170.0)
        assert found is not None
        across, down, soft, dark = found
        self.assertAlmostEqual(across, -4, delta=1.6)
        self.assertAlmostEqual(down, 9, delta=1.6)
        lifted = cast_shadow.lifted(
            self.seen, dark * cast_shadow.shadow(self.thing, across, down, soft)
        )
        before = float(np.abs(self.seen - self.skin)[self.free].mean())
        self.assertLess(float(np.abs(lifted - self.skin)[self.free].mean()), 0.5 * before)

    def test_none_where_there_is_none(self) -> None:
        self.assertIsNone(cast_shadow.fit(self.skin, self.thing, self.free, 170.0))


class OnPeople(unittest.TestCase):
    """Bela with glasses on, beside the same picture without: invented, with a known frame."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.analysis = understand("bela-glasses").analysis
        cls.picture = read(DEMO / "portraits" / "bela-glasses.jpg")
        cls.bench = bench_for(Pyramid(cls.picture), cls.analysis)
        cls.whole = cls.picture.bounds
        cls.seen = cls.rendered(Edit())
        cls.truth = read(DEMO / "portraits" / "bela.jpg").pixels.astype(np.float32) / 255
        mask = cv2.imread(str(DEMO / "truth" / "bela-glasses_mask.png"), cv2.IMREAD_GRAYSCALE)
        cls.frame, cls.lens = mask == 1, mask == 2
        cls.edit = perform(Edit(), TakeOffGlasses(), cls.bench).edit
        cls.after = cls.rendered(cls.edit)

    @classmethod
    def rendered(cls, edit: Edit) -> np.ndarray:
        return np.asarray(cls.bench.renderer.plan(edit).view(cls.whole, 0))

    def difference(self, image: np.ndarray, where: np.ndarray) -> float:
        soft = [to_lab(cv2.GaussianBlur(i, (0, 0), 3)) for i in (image, self.truth)]
        return float(ciede2000(*soft)[where].mean())

    def test_frame_and_lenses_are_found(self) -> None:
        shape = self.frame.shape
        lens = self.analysis.mask(("lenses",), self.whole, shape) > 0.5
        self.assertGreater((lens & self.lens).sum() / (lens | self.lens).sum(), 0.9)
        found = self.analysis.mask(("glasses",), self.whole, shape) > 0.4
        self.assertGreater(found[self.frame].mean(), 0.88)
        near = cv2.dilate(self.frame.astype(np.uint8), np.ones((9, 9))) > 0
        self.assertLess((found & ~near).sum(), 0.2 * self.frame.sum())

    def test_reflections_are_found_for_what_they_are(self) -> None:
        found = reflections(self.analysis, self.bench.renderer.pyramid)
        burnt = [r for r in found if r.burnt]
        self.assertEqual(len(burnt), 2)
        for one in burnt:
            place = drawn(list(one.outline), self.frame.shape) & self.lens
            self.assertGreater(float((self.seen.min(-1)[place] > 0.8).mean()), 0.6)
        veils = [r for r in found if not r.burnt]
        self.assertEqual(len(veils), 1)
        place = drawn(list(veils[0].outline), self.frame.shape)
        inner = cv2.erode(place.astype(np.uint8), np.ones((9, 9))) > 0
        added = to_linear(self.seen[inner]) - 0.94 * to_linear(self.truth[inner])
        self.assertAlmostEqual(float(np.mean(veils[0].veil)), float(np.median(added)), delta=0.008)
        self.assertEqual(tints(self.analysis, self.bench.renderer.pyramid), [])

    def test_the_frame_goes_and_what_is_behind_goes_on(self) -> None:
        self.assertGreater(self.difference(self.seen, self.frame), 25)
        self.assertLess(self.difference(self.after, self.frame), 2.6)
        found = self.analysis.mask(("glasses",), self.whole, self.frame.shape) > 0.4
        # The arm behind the far temple is a part of it.
        self.assertGreater(
            np.count_nonzero(found & self.frame) / np.count_nonzero(self.frame), 0.95
        )
        energies = []
        for low, high in ((0, 1), (1, 2), (2, 4)):
            each = []
            for image in (self.after, self.truth):
                grey = image.mean(-1)
                soft = [cv2.GaussianBlur(grey, (0, 0), s) if s else grey for s in (low, high)]
                # Hairs and the face's edge behind the frame don't count: the median.
                each.append(float(np.median(np.abs(soft[0] - soft[1])[self.frame & found])))
            energies.append(abs(np.log(each[0] / each[1])))
        self.assertLess(float(np.mean(energies)), 0.25)

    def test_the_eyes_are_untouched_outside_of_reflections(self) -> None:
        labels = cv2.imread(str(DEMO / "truth" / "bela_labels.png"), cv2.IMREAD_GRAYSCALE)
        eyes = np.isin(labels, (4, 5))
        for one in reflections(self.analysis, self.bench.renderer.pyramid):
            place = drawn(list(one.outline), eyes.shape).astype(np.uint8)
            eyes &= cv2.dilate(place, np.ones((15, 15))) == 0
        self.assertGreater(eyes.sum(), 2000)
        self.assertEqual(int((self.after != self.seen)[eyes].sum()), 0)

    def test_an_eye_burnt_out_on_both_sides_is_made_from_its_own_other_half(self) -> None:
        eyes = next(p for p in self.edit.passes if p.name.startswith("Eyes behind"))
        self.assertEqual([t.values["source_mirror"] for t in eyes.touches], [True, True])
        for one in reflections(self.analysis, self.bench.renderer.pyramid):
            if one.burnt:
                inside = drawn(list(one.outline), self.frame.shape)
                self.assertGreater(self.difference(self.seen, inside), 20)
                self.assertLess(self.difference(self.after, inside), 9.7)

    def test_it_is_made_of_ordinary_passes(self) -> None:
        kinds = [p.kind for p in self.edit.passes]
        self.assertEqual(kinds[:3], ["lens_light", "cast_shadow", "fill"])
        routine = perform(Edit(), ApplyRoutine("no-glasses"), self.bench).edit
        self.assertEqual([p.kind for p in routine.passes], kinds)

    def test_reflections_alone(self) -> None:
        edit = perform(Edit(), TakeOffGlasses(only_light=True), self.bench).edit
        self.assertEqual([p.kind for p in edit.passes], ["lens_light", "fill"])
        after = self.rendered(edit)
        core = cv2.erode(self.frame.astype(np.uint8), np.ones((5, 5))) > 0
        self.assertLess(float((np.abs(after - self.seen).max(-1)[core] > 0.02).mean()), 0.05)
        self.assertLess(
            self.difference(after, self.lens), 0.7 * self.difference(self.seen, self.lens)
        )

    def test_one_reflection_after_the_other_comes_out_as_all_at_once(self) -> None:
        at_once = self.rendered(perform(Edit(), TakeOffGlasses(only_light=True), self.bench).edit)
        lights = offered(self.analysis, self.bench.renderer.pyramid)
        edit, labels = Edit(), []
        # The burnt-out ones first: what they are filled from is cleared of its veil only afterwards.
        for one in sorted(lights, key=lambda r: not r.burnt):
            alone = perform(edit, TakeOffGlasses(light=one.place), self.bench)
            edit, labels = alone.edit, [*labels, alone.label]
        self.assertEqual([p.kind for p in edit.passes], ["lens_light", "fill"])
        self.assertEqual(sorted(labels)[1:], ["Reflection off the right lens"] * 2)
        after = self.rendered(edit)
        self.assertLess(
            self.difference(after, self.lens), 1.05 * self.difference(at_once, self.lens)
        )
        with self.assertRaisesRegex(Refused, "No reflections"):
            perform(Edit(), TakeOffGlasses(light=(5.0, 5.0)), self.bench)

    def test_what_is_painted_on_the_zone_goes_too(self) -> None:
        """A mole on the cheek stays, and goes when it is painted as if it were a part of them."""
        mole = np.s_[1205:1235, 1005:1045]
        y, x = np.unravel_index(self.after[mole].mean(-1).argmin(), (30, 40))
        x, y = 1005 + int(x), 1205 + int(y)
        values = {"zone": "glasses", "radius_px": 22.0, "edges": 0.0, "softness": 10.0}
        painted = NewTouch(((float(x), float(y)),), values=values)
        edit = perform(Edit(), AddTouch("zones", painted), self.bench).edit
        after = self.rendered(perform(edit, TakeOffGlasses(), self.bench).edit)

        def stands_out(image: np.ndarray) -> float:
            own = image[y - 3 : y + 4, x - 3 : x + 4].mean()
            return float(np.median(image[y - 40 : y + 41, x - 40 : x + 41].mean(-1)) - own)

        self.assertGreater(stands_out(self.after), 0.12)
        self.assertLess(stands_out(after), 0.04)

    def test_dark_lenses_hide_the_eyes_and_it_is_said(self) -> None:
        pixels = self.picture.pixels.copy()
        pixels[self.lens] = pixels[self.lens] // 12 + 4
        dark = Picture(pixels)
        analysis = analyse(dark)
        lenses = analysis.mask(("lenses",), self.whole, self.lens.shape) > 0.5
        # Nothing tells a dark rim from a dark lens.
        self.assertGreater((lenses & self.lens).sum() / (lenses | self.lens).sum(), 0.85)
        eyes = analysis.mask(("eye_whites", "irises", "pupils"), self.whole, self.lens.shape)
        self.assertEqual(float(eyes[self.lens].max()), 0.0)
        bench = bench_for(Pyramid(dark), analysis)
        with self.assertRaisesRegex(Refused, "dark"):
            perform(Edit(), TakeOffGlasses(), bench)
        why = {f.title: f.why for f in foreseen(routine("bright"), analysis) if not f.acts}
        self.assertEqual(why["Eye whites"], "behind dark glasses")
        label = perform(Edit(), ApplyRoutine("bright"), bench).label
        self.assertIn("left out", label)

    def test_nobody_else_wears_any(self) -> None:
        for name in ("ana", "bela", "chi", "dan", "eli", "hana", "ivo", "kofi", "lia"):
            zones = {a.zone for a in understand(name).analysis.layers}
            self.assertNotIn("glasses", zones, name)
        one = bench_for(Pyramid(read(DEMO / "portraits" / "eli.jpg")), understand("eli").analysis)
        with self.assertRaisesRegex(Refused, "No glasses are found"):
            perform(Edit(), TakeOffGlasses(), one)

    def test_thin_metal_is_found_too(self) -> None:
        """Light round rims drawn over Dan: a rim is told by its line, not by being dark."""
        picture = read(DEMO / "portraits" / "dan.jpg")
        face = understand("dan").analysis.faces[0]
        pixels = picture.pixels.copy()
        known = np.zeros(pixels.shape[:2], np.uint8)
        r = round(0.13 * face.height)
        middles = []
        for iris in (face.right_iris, face.left_iris):
            middles.append((round(iris.x), round(iris.y + 0.03 * face.height)))
            cv2.circle(known, middles[-1], r, 1, max(3, round(0.008 * face.height)))
        (ax, ay), (bx, by) = sorted(middles)
        cv2.line(known, (ax + r, ay - r // 8), (bx - r, by - r // 8), 1, 5)
        pixels[known > 0] = (235, 215, 150)
        found = analyse(Picture(pixels))
        mask = found.mask(("glasses",), picture.bounds, known.shape) > 0.4
        self.assertGreater(mask[known > 0].mean(), 0.75)


class OtherFrames(unittest.TestCase):
    """People with glasses of other forms; the same pictures without them are known."""

    def taken_off(self, name: str) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        picture, truth, mask = worn(name)
        bench = bench_for(Pyramid(picture), analyse(picture))
        edit = perform(Edit(), TakeOffGlasses(), bench).edit
        made = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        return picture.pixels.astype(np.float32) / 255, made, truth, mask

    def test_frames_go_and_lenses_come_nearer_to_the_truth(self) -> None:
        """A frame as brown as the skin, a white one with square corners, a red one with an arm in the shade, metal
        before dark hair, a wire on dark skin with panes over both eyes, a shaded side."""
        limits = {"ana": 2.6, "chi": 4.2, "eli": 3.1, "hana": 2.9, "kofi": 2.4, "lia": 3.2}
        for name, most in limits.items():
            before, made, truth, mask = self.taken_off(name)
            with self.subTest(name):
                self.assertLess(difference(made, truth, mask == 1), most)
                seen, after = (difference(i, truth, mask == 2) for i in (before, made))
                # Metal takes hardly anything from what is behind its lenses.
                self.assertLess(after, (0.95 if name == "hana" else 0.85) * seen)

    def test_a_veil_beside_a_pane_is_told_and_shine_on_skin_is_none(self) -> None:
        """On dark skin, which shines behind one lens; the other has a veil that touches a burnt-out pane."""
        picture, _, mask = worn("chi")
        analysis = analyse(picture)
        found, _ = light_on(analysis, Pyramid(picture))
        (veil,) = (r for r in found if not r.burnt)
        x, y = np.asarray(veil.outline).mean(0)
        self.assertEqual(mask[int(y), int(x)], 2)
        # Of the person's left lens it covers the outer part.
        self.assertGreater(x, analysis.faces[0].left_iris.x)

    def test_a_wire_is_followed_along_a_reflected_pane(self) -> None:
        """With kofi's reflections alone taken off, his wire stays, and nothing of a pane is left beside it."""
        picture, truth, mask = worn("kofi")
        analysis = analyse(picture)
        bench = bench_for(Pyramid(picture), analysis)
        edit = perform(Edit(), TakeOffGlasses(only_light=True), bench).edit
        made = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        seen = picture.pixels.astype(np.float32) / 255
        core = cv2.erode((mask == 1).astype(np.uint8), np.ones((3, 3))) > 0
        self.assertLess(float((np.abs(made - seen).max(-1)[core] > 0.1).mean()), 0.05)
        lens = cv2.erode((mask == 2).astype(np.uint8), np.ones((5, 5))) > 0
        burnt, left = ((i.min(-1) > 0.7) & (truth.min(-1) < 0.5) & lens for i in (seen, made))
        self.assertGreater(burnt.sum(), 2000)
        self.assertLess(left.sum(), 0.03 * burnt.sum())
        # Panes over both eyes leave one arc of each iris; where they are is known of the rendered face.
        known = json.loads((DEMO / "truth" / "kofi.json").read_text())["eyes"]
        found = (analysis.faces[0].left_iris, analysis.faces[0].right_iris)
        for iris, true in zip(found, known, strict=True):
            self.assertLess(abs(iris.radius / true["iris_r"] - 1), 0.06)
            self.assertLess(abs(iris.x - true["x"]), 0.1 * true["iris_r"])

    def test_hair_beside_a_rim_along_the_edge_of_the_face_is_drawn_from(self) -> None:
        """Kept from it, skin was laid over hana's hair where her glasses reach beyond the face."""
        picture, _, _ = worn("hana")
        bench = bench_for(Pyramid(picture), analyse(picture))
        edit = perform(Edit(), TakeOffGlasses(), bench).edit
        frame = next(p for p in edit.passes if p.name.startswith("Frame"))
        hair = (812.0, 490.0)
        assert bench.analysis is not None
        self.assertEqual(bench.analysis.zone_at(*hair)[1], "hair")
        for line in (s for t in frame.touches for s in t.spare):
            self.assertLess(cv2.pointPolygonTest(np.array(line, np.float32), hair, False), 0)

    def test_where_an_arm_begins_that_is_not_told_nothing_is_drawn_from(self) -> None:
        """Of kofi's left arm, foreshortened and in the shade, nothing is told; dan's thick ones are."""
        picture, _, _ = worn("kofi")
        analysis = analyse(picture)
        arm = (825.0, 467.0)
        self.assertLess(analysis.mask(("glasses",), Rect(815, 455, 835, 480), (25, 20)).mean(), 0.1)
        lines = untold_arms(analysis, 0, picture.bounds)
        inside = [cv2.pointPolygonTest(np.array(b, np.float32), arm, False) > 0 for b in lines]
        self.assertEqual(sum(inside), 1)
        thick, _, _ = worn("dan")
        self.assertEqual(untold_arms(analyse(thick), 0, thick.bounds), [])

    def test_what_lies_far_from_them_stays(self) -> None:
        before, made, _, mask = self.taken_off("lia")
        side = 2 * 70 + 1
        near = cv2.dilate((mask > 0).astype(np.uint8), np.ones((side, side), np.uint8)) > 0
        self.assertLess(float(np.abs(made - before)[~near].max()), 1e-3)


class CoarseGrid(unittest.TestCase):
    def test_a_long_outline_is_as_far_away_as_on_a_fine_grid(self) -> None:
        """A ring with many corners on a grid three pixels wide, beside its own formula."""
        turn = np.linspace(0, 2 * np.pi, 400)
        way = np.stack([np.cos(turn), np.sin(turn)], 1)
        way[-1] = way[0]
        ring = np.concatenate([200 + 150 * way, 200 + 130 * way[::-1]])
        outline = outlined(tuple((float(x), float(y)) for x, y in ring), 0.0)
        xs = np.arange(1.5, 400, 3).astype(np.float32)
        away = outline.distance(xs[None], xs[:, None]) - outline.radius
        r = np.hypot(xs[None] - 200, xs[:, None] - 200)
        exact = np.maximum(130 - r, r - 150)
        near = np.abs(exact) < 60
        self.assertLess(float(np.abs(away - exact)[near].max()), 1.0)
        self.assertGreater(int((away < 0).sum()), 1500)

"""Loose strands and lint: thin lines followed, taken away, thinned out; what stays stays."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from benchmarks.taken_away import difference, texture
from retouch.edit import Edit, Pass, Touch
from retouch.errors import Cancelled
from retouch.face.threads import followed, is_ridge, middles, strongest
from retouch.fill.thin import replaced
from retouch.forms.form import completed, completed_touch
from retouch.passes import registry
from retouch.passes.strands import STRANDS
from retouch.picture import Picture, Pyramid, read
from retouch.progress import listening
from retouch.render import Renderer
from retouch.shape.mended import mended
from retouch.work.bench import Bench, Refused, bench_for
from retouch.work.operations import (
    ChangeTouch,
    ClearLint,
    ClearLoose,
    MendOutline,
    OutlineHair,
    SwitchStrand,
    ThinStrands,
    perform,
)
from retouch.work.thinning import thinned

Array = NDArray[np.float32]
GROUND = np.float32([0.42, 0.45, 0.48])
DARK, GOLDEN = np.float32([0.15, 0.1, 0.08]), np.float32([0.7, 0.55, 0.25])


def pixels(name: str) -> Array:
    return read(DEMO / "portraits" / f"{name}.jpg").pixels.astype(np.float32) / 255


def work(name: str) -> Bench:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    return bench_for(Pyramid(picture), understand(name).analysis)


def made(bench: Bench, edit: Edit) -> Array:
    return np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))


def curve(a: float, b: float, c: float, d: float) -> NDArray[np.float64]:
    """A parabola from (a, b) to (c, d)."""
    t = np.linspace(0, 1, 60)[:, None]
    return (1 - t) * (a, b) + t * (c, d) + 14 * t * (1 - t) * (1, -1)


def drawn(image: Array, path: NDArray[np.float64], colour: Array, wide: float = 2.0) -> Array:
    """How much of each pixel a line covers, and the line laid over the image."""
    cover = np.zeros((image.shape[0] * 4, image.shape[1] * 4), np.uint8)
    points = np.round(path * 4 * 16 - 8).astype(np.int32)
    cv2.polylines(cover, [points], False, 255, round(4 * wide), cv2.LINE_AA, 4)
    part = cv2.resize(cover, image.shape[1::-1], interpolation=cv2.INTER_AREA).astype(np.float32)
    part /= 255
    image += part[..., None] * (colour - image)
    return part


def ground(h: int = 160, w: int = 200, grain: float = 0.006) -> Array:
    rng = np.random.default_rng(3)
    slope = np.linspace(-0.05, 0.05, w, dtype=np.float32)[None, :, None]
    noise = rng.normal(0, grain, (h, w, 1)).astype(np.float32)
    return np.ascontiguousarray(GROUND + slope + noise, np.float32)


class Threads(unittest.TestCase):
    def test_crossing_lines_are_followed_through_one_another(self) -> None:
        image = ground()
        paths = [curve(15, 20, 180, 140), curve(20, 140, 185, 25), curve(100, 8, 110, 150)]
        for path, colour in zip(paths, (DARK, GOLDEN, DARK), strict=True):
            drawn(image, path, colour)
        away = 100 * (cv2.GaussianBlur(image, (0, 0), 0.6) - cv2.GaussianBlur(image, (0, 0), 4))
        may, none = np.ones(image.shape[:2], np.bool_), np.full(image.shape[:2], np.nan, np.float32)
        strength, way = strongest(away, may, none, 6, 0.0)
        usual = np.full(image.shape[:2], np.median(strength), np.float32)
        lines = followed(away, may, none, 6, 0.0, usual, middles(strength, way, usual, 3.5), 1.8)
        long = [line for line in lines if len(line) > 40]
        self.assertLessEqual(len(long), 5)
        for path in paths:
            # Each is one line from end to end, no further away than a pixel.
            nearest = [
                np.hypot(*(path[:, None] - line[None, :, ::-1] - 0.5).transpose(2, 0, 1)).min(1)
                for line in long
            ]
            best = min(nearest, key=lambda away: float(np.median(away)))
            self.assertGreater(float((best < 1.2).mean()), 0.93)

    def test_an_edge_is_no_ridge(self) -> None:
        lab = np.zeros((60, 60, 3), np.float32)
        lab[:, 30:, 0] = 40
        line = np.stack([np.arange(5.0, 55), np.full(50, 30.0)], 1)
        self.assertFalse(is_ridge(line, lab, 3.0, 0.3))
        lab[:, 32:, 0] = 0
        self.assertTrue(is_ridge(line, lab, 3.0, 0.3))


class ReplacedLine(unittest.TestCase):
    def test_a_slope_comes_back_and_beside_nothing_changes(self) -> None:
        clean = ground(grain=0)
        image = clean.copy()
        path = curve(30, 30, 170, 120)
        part = drawn(image, path[4:-4], DARK)
        out, cover = replaced(image, path, 2.5)
        self.assertLess(float(np.abs(out - clean)[part > 0.2].max()), 1.5 / 255)
        self.assertTrue((out[cover == 0] == image[cover == 0]).all())
        away = cv2.distanceTransform((part < 0.01).astype(np.uint8), cv2.DIST_L2, 5)
        self.assertEqual(float(cover[away > 16].max()), 0)

    def test_grain_goes_on(self) -> None:
        image = ground(grain=0.012)
        path = curve(30, 30, 170, 120)
        before = image.copy()
        part = drawn(image, path[4:-4], GOLDEN, 3.0)
        out, _ = replaced(image, path, 3.0)
        fine = [(i - cv2.GaussianBlur(i, (0, 0), 2))[part > 0.5].std() for i in (out, before)]
        self.assertTrue(0.7 < fine[0] / fine[1] < 1.25, fine)

    def test_what_crosses_leaves_no_trace_in_it(self) -> None:
        clean = ground(grain=0)
        image = clean.copy()
        drawn(image, np.array([[100.0, 10], [104, 150]]), GOLDEN)
        path = np.array([[20.0, 80], [180, 84]])
        drawn(image, path, DARK)
        out, cover = replaced(image, path, 2.5)
        self.assertLess(float(np.abs(out - clean)[cover > 0.99].max()), 8 / 255)

    def test_a_feather_is_as_wide_as_it_says(self) -> None:
        image = ground(grain=0)
        _, cover = replaced(image, np.array([[20.0, 80.5], [180, 80.5]]), 2.0, 6.0)
        middle = cover[80:, 100]
        # Pixel centres lie 0, 1, 2 … from the line: whole to 2, then even to nothing at 8.
        wanted = np.clip((8 - np.arange(12)) / 6, 0, 1)
        np.testing.assert_allclose(middle[:12], wanted, atol=0.05)
        self.assertTrue((np.diff(cover[80, 20:26]) > 0.1).all(), cover[80, 18:30])

    def test_a_dab_and_a_line_at_the_border_are_no_trouble(self) -> None:
        image = ground(20, 30)
        for path in ([[15.0, 10.0]], [[0.0, 0.0], [29.9, 19.9]], [[-5.0, 10.0], [40.0, 10.0]]):
            out, _ = replaced(image, np.asarray(path), 2.0)
            self.assertTrue(np.isfinite(out).all())


class Thinning(unittest.TestCase):
    def touches(self) -> tuple[Touch, ...]:
        paths = [
            ((0, 0), (100, 0)),
            ((50, -30), (50, 30)),
            ((0, 50), (20, 50)),
            ((0, 80), (60, 80)),
        ]
        return tuple(
            Touch(f"s{n}", path, {"radius_px": 2.0, "opacity": 100.0})
            for n, path in enumerate(paths)
        )

    def on(self, amount: float) -> list[str]:
        return [t.id for t in thinned(self.touches(), amount) if t.enabled]

    def test_the_longest_and_most_crossing_go_first(self) -> None:
        self.assertEqual(self.on(0), [])
        self.assertEqual(self.on(25), ["s0"])
        self.assertEqual(self.on(50), ["s0", "s1"])
        self.assertEqual(self.on(75), ["s0", "s1", "s3"])
        self.assertEqual(len(self.on(100)), 4)

    def test_a_strand_that_stays_is_spared_where_it_is_crossed(self) -> None:
        first, *_ = thinned(self.touches(), 25)
        (corners,) = first.spare
        self.assertLess(float(np.abs(np.mean(corners, 0) - (50, 0)).max()), 0.1)
        all_gone = thinned(thinned(self.touches(), 25), 100)
        self.assertTrue(all(not t.spare for t in all_gone))


class Outline(unittest.TestCase):
    def test_a_piece_takes_the_shorter_way_around(self) -> None:
        around = [(float(x), 0.0) for x in range(0, 100, 5)]
        around += [(100.0, float(y)) for y in range(0, 100, 5)]
        around += [(float(x), 100.0) for x in range(100, 0, -5)]
        around += [(0.0, float(y)) for y in range(100, 0, -5)]
        for piece in (
            ((30.0, 1.0), (50.0, -20.0), (70.0, 1.0)),
            ((70.0, 1.0), (50.0, -20.0), (30.0, 1.0)),
        ):
            line, away = mended(tuple(around), piece)
            area = cv2.contourArea(np.asarray(line, np.float32))
            # A triangle more, 40 wide and 20 high.
            self.assertAlmostEqual(area, 10000 + 420, delta=60)
            self.assertLess(away, 4)


class LooseStrands(unittest.TestCase):
    """Ana with loose strands; the same picture without them is known."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.bench = work("ana-fly")
        cls.before, cls.clean = pixels("ana-fly"), pixels("ana")
        path = str(DEMO / "truth" / "ana-fly_mask.png")
        cls.mask = cv2.imread(path, cv2.IMREAD_GRAYSCALE) > 0
        cls.done = perform(Edit(), ClearLoose(amount=100.0), cls.bench)
        cls.after = made(cls.bench, cls.done.edit)

    def gone(self, after: Array) -> float:
        """The part of the strands' contrast that is gone: noise beside it doesn't count."""
        strands = (self.before - self.clean) * self.mask[..., None]
        return float(1 - ((after - self.clean) * strands).sum() / (strands * strands).sum())

    def test_strands_go_and_the_rest_stays(self) -> None:
        self.assertGreater(self.gone(self.after), 0.77)
        near = cv2.dilate(self.mask.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
        changed = (np.abs(self.after - self.before) > 1.5 / 255).any(2)
        self.assertLess(float((changed & ~near).mean()), 0.004)

    def test_an_amount_leaves_some_and_comes_back(self) -> None:
        assert self.done.pass_id is not None
        found = self.done.edit.passes[-1].touches
        half = perform(self.done.edit, ThinStrands(self.done.pass_id, 50.0), self.bench).edit
        on = [t for t in half.passes[-1].touches if t.enabled]
        self.assertEqual(len(on), round(len(found) / 2))
        gone = self.gone(made(self.bench, half))
        self.assertTrue(0.4 < gone < self.gone(self.after) - 0.02, gone)
        none = perform(half, ThinStrands(self.done.pass_id, 0.0), self.bench).edit
        self.assertTrue((made(self.bench, none) == made(self.bench, Edit())).all())

    def test_one_is_kept_and_cleared_by_itself(self) -> None:
        one = self.done.edit.passes[-1].touches[0]
        kept = perform(self.done.edit, SwitchStrand(one.id), self.bench)
        self.assertEqual(kept.label, "Strand kept")
        self.assertFalse(kept.edit.passes[-1].touches[0].enabled)
        again = perform(kept.edit, SwitchStrand(one.id), self.bench).edit
        self.assertEqual(again.passes, self.done.edit.passes)
        with self.assertRaises(Refused):
            perform(self.done.edit, SwitchStrand("nobody"), self.bench)

    def test_the_outline_decides_what_is_loose(self) -> None:
        edit = perform(Edit(), OutlineHair(), self.bench).edit
        (outline,) = (p for p in edit.passes if p.kind == "hair_outline")
        points = np.asarray(outline.touches[0].path)
        low, high = points.min(0), points.max(0)
        # Drawn wide around the strands' crown, those within are hair.
        wide = (
            (low[0], low[1] + 200),
            (low[0], low[1] - 160),
            (high[0], low[1] - 160),
            (high[0], low[1] + 200),
        )
        wider = perform(edit, MendOutline(wide), self.bench).edit
        soft = ChangeTouch(outline.touches[0].id, values={"feather_px": 4.0})
        wider = perform(wider, soft, self.bench).edit
        fewer = perform(wider, ClearLoose(amount=100.0), self.bench).edit
        self.assertLess(len(fewer.passes[-1].touches), 0.9 * len(self.done.edit.passes[-1].touches))
        for edit, feather in ((fewer, 4.0), (self.done.edit, 1.0)):
            own = {t.values["feather_px"] for t in edit.passes[-1].touches}
            self.assertEqual(own, {feather})
        with self.assertRaises(Refused):
            perform(Edit(), MendOutline(wide), self.bench)

    def test_how_far_it_is_is_told_and_it_can_be_stopped(self) -> None:
        told: list[float] = []
        with listening(told.append):
            perform(Edit(), ClearLoose(amount=100.0), self.bench)
        self.assertGreater(len({round(t, 3) for t in told}), 4)
        self.assertLess(min(told), 0.3)
        self.assertLessEqual(max(told), 1.0)

        def stop(done: float) -> None:
            if done > 0.2:
                raise Cancelled("stopped")

        with self.assertRaises(Cancelled), listening(stop):
            perform(Edit(), ClearLoose(amount=100.0), self.bench)

    def test_a_shaved_head_has_none(self) -> None:
        with self.assertRaisesRegex(Refused, "No hair"):
            perform(Edit(), ClearLoose(), work("kofi"))

    def test_it_only_thins_strands(self) -> None:
        with self.assertRaisesRegex(Refused, "no strands"):
            edit = perform(Edit(), OutlineHair(), self.bench).edit
            perform(edit, ThinStrands(edit.passes[0].id, 50.0), self.bench)
        self.assertEqual(STRANDS.way.least_points, 1)  # type: ignore[union-attr]


class Stain(unittest.TestCase):
    """The stain on Bela's shirt, outlined; the shirt without it is known."""

    def test_the_cloth_comes_back_with_its_weave(self) -> None:
        picture = read(DEMO / "portraits" / "bela-stain.jpg")
        before, clean = pixels("bela-stain"), pixels("bela")
        truth = cv2.imread(str(DEMO / "truth" / "bela-stain_mask.png"), cv2.IMREAD_GRAYSCALE)
        _, parts, stats, _ = cv2.connectedComponentsWithStats((truth == 255).astype(np.uint8))
        largest = parts == 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
        wide = cv2.dilate(largest.astype(np.uint8), np.ones((9, 9), np.uint8))
        lines, _ = cv2.findContours(wide, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        line = cv2.approxPolyDP(max(lines, key=len), 2, True)[:, 0]
        touch = Touch("t", tuple((float(x) + 0.5, float(y) + 0.5) for x, y in line), {})
        one = Pass("p", "stain", touches=(completed_touch(touch, registry.kind("stain")),))
        plan = Renderer(Pyramid(picture)).plan(Edit((completed(one),)))
        after = np.asarray(plan.view(picture.bounds, 0))
        self.assertGreater(difference(before, clean, largest), 12)
        self.assertLess(difference(after, clean, largest), 0.9)
        self.assertLess(texture(after, clean, largest), 0.45)
        # OpenCV's inpainting with the true mask leaves a smooth place.
        coded = np.round(before * 255).astype(np.uint8)
        library = cv2.inpaint(coded, wide * 255, 3, cv2.INPAINT_TELEA).astype(np.float32) / 255
        self.assertLess(difference(after, clean, largest), difference(library, clean, largest))
        self.assertLess(texture(after, clean, largest), 0.5 * texture(library, clean, largest))
        self.assertTrue((after == before)[wide == 0].reshape(-1).mean() > 0.999)


class Lint(unittest.TestCase):
    """Bela with lint and a stain on his shirt; the same picture without them is known."""

    def test_lint_goes_and_the_cloth_stays(self) -> None:
        bench = work("bela-stain")
        before, clean = pixels("bela-stain"), pixels("bela")
        truth = cv2.imread(str(DEMO / "truth" / "bela-stain_mask.png"), cv2.IMREAD_GRAYSCALE)
        stain = cv2.dilate((truth == 255).astype(np.uint8), np.ones((11, 11), np.uint8)) > 0
        mask = (truth == 128) & ~stain
        edit = perform(Edit(), ClearLint(), bench).edit
        after = made(bench, edit)
        lint = (before - clean) * mask[..., None]
        gone = 1 - ((after - clean) * lint).sum() / (lint * lint).sum()
        self.assertGreater(float(gone), 0.8)
        near = cv2.dilate((truth > 0).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        changed = (np.abs(after - before) > 1.5 / 255).any(2)
        self.assertLess(float((changed & ~near).mean()), 0.0005)

    def test_clean_cloth_has_next_to_none(self) -> None:
        for name in ("bela", "ana", "kofi"):
            try:
                edit = perform(Edit(), ClearLint(), work(name)).edit
            except Refused:
                continue
            self.assertLess(sum(len(p.touches) for p in edit.passes), 16, name)

    def test_a_woven_pattern_is_no_lint(self) -> None:
        """Stripes, checks and fine light lines over the clean cloth of one portrait."""
        plain = read(DEMO / "portraits" / "bela.jpg")
        bounds = plain.bounds
        own = work("bela").analysis
        assert own is not None
        cloth = own.mask(("clothing",), bounds, (bounds.height, bounds.width))
        y, x = np.mgrid[: bounds.height, : bounds.width]
        patterns = {
            "stripes": 1 + 0.18 * np.sign(np.sin(x / 9)),
            "checks": 1 + 0.12 * np.sign(np.sin(x / 14)) + 0.12 * np.sign(np.sin(y / 14)),
            "fine lines": 1 + 0.5 * ((x % 60) < 3),
        }
        for name, pattern in patterns.items():
            woven = plain.pixels * (1 + (pattern - 1) * cloth)[..., None]
            pyramid = Pyramid(Picture(np.clip(woven, 0, 255).astype(np.uint8)))
            with self.subTest(name):
                try:
                    edit = perform(Edit(), ClearLint(), bench_for(pyramid, own)).edit
                except Refused:
                    continue
                self.assertLess(sum(len(p.touches) for p in edit.passes), 16)

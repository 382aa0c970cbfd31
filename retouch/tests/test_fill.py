"""Fill: matching, joining, and what a filled place looks like."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from scipy import sparse
from scipy.sparse.linalg import spsolve

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.errors import Cancelled, EditError
from retouch.fill import fill, match, poisson
from retouch.fill.levels import levels_of
from retouch.fill.removed import like_removed
from retouch.fill.synthesis import _reach
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.progress import listening
from retouch.render import Renderer
from retouch.tests.scenes import skin


def disc(h: int, w: int, x: float, y: float, r: float) -> np.ndarray:
    ys, xs = np.mgrid[:h, :w] + 0.5
    return np.hypot(xs - x, ys - y) <= r


def direct(values: np.ndarray, laplacian: np.ndarray, hole: np.ndarray) -> np.ndarray:
    """The discrete Poisson equation solved at once (Perez, Gangnet, Blake 2003, eq. 7)."""
    h, w = hole.shape
    index = np.full((h, w), -1)
    places = np.argwhere(hole)
    index[hole] = np.arange(len(places))
    rows, cols, data, right = [], [], [], np.zeros(len(places))
    for n, (y, x) in enumerate(places):
        count = 0
        for v, u in ((y - 1, x), (y + 1, x), (y, x - 1), (y, x + 1)):
            if not (0 <= v < h and 0 <= u < w):
                continue
            count += 1
            if hole[v, u]:
                rows.append(n)
                cols.append(index[v, u])
                data.append(-1.0)
            else:
                right[n] += values[v, u]
        rows.append(n)
        cols.append(n)
        data.append(float(count))
        right[n] -= laplacian[y, x]
    solved = spsolve(sparse.csr_matrix((data, (rows, cols)), shape=(len(places),) * 2), right)
    out = values.astype(np.float64).copy()
    out[hole] = solved
    return out


class WithAModel(unittest.TestCase):
    """A dark bar lies wholly inside of the hole; only the model knows of it."""

    def setUp(self) -> None:
        self.truth = skin(160, 200, seed=8)
        self.truth[70:84, 70:130] *= 0.45
        self.hole = np.zeros((160, 200), np.bool_)
        self.hole[56:98, 58:142] = True
        self.area = self.truth.copy()
        self.area[self.hole] = (0.1, 0.9, 0.2)
        # As the other side of a face: moved, a little turned, darker, with another skin's grain.
        other = skin(160, 200, seed=21)
        other[70:84, 70:130] *= 0.45
        other[20:24, 20:60] *= 0.6
        self.truth[20:24, 20:60] *= 0.6
        self.area[20:24, 20:60] *= 0.6
        turn = cv2.getRotationMatrix2D((100, 77), 2.0, 1.0) + [[0, 0, 5], [0, 0, -3]]
        self.model = 0.75 * cv2.warpAffine(
            other, turn, (200, 160), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
        ).astype(np.float32)

    def off(self, out: np.ndarray) -> float:
        return float(np.abs(out - self.truth)[self.hole].mean())

    def test_what_only_the_model_knows_comes_back_in_the_areas_own_tone(self) -> None:
        with_it = fill(self.area, self.hole, model=self.model)
        without = fill(self.area, self.hole)
        self.assertLess(self.off(with_it), 0.5 * self.off(without))
        bar = with_it[74:80, 80:120].mean((0, 1)) / self.truth[74:80, 80:120].mean((0, 1))
        np.testing.assert_allclose(bar, 1, atol=0.15)
        np.testing.assert_array_equal(with_it[~self.hole], self.area[~self.hole])

    def test_it_is_the_same_every_time(self) -> None:
        one, two = (fill(self.area, self.hole, model=self.model) for _ in range(2))
        np.testing.assert_array_equal(one, two)

    def test_a_model_that_fits_nowhere_is_no_error(self) -> None:
        flat = np.full_like(self.model, 0.5)
        self.assertTrue(np.isfinite(fill(self.area, self.hole, model=flat)).all())


class WhatContinues(unittest.TestCase):
    def test_dark_hair_at_the_end_of_a_dark_bar_is_no_part_of_it(self) -> None:
        dark = np.random.default_rng(4).uniform(0.02, 0.4, (120, 900, 1)).astype(np.float32)
        area = np.full((120, 900, 3), 0.7, np.float32)
        area[:, 865:] = dark[:, 865:]  # hair
        area[40:70, 40:60] = dark[40:70, 40:60]  # another bar: it touches nothing of this one
        hole = np.zeros((120, 900), np.bool_)
        hole[85:95, 30:880] = True
        area[hole] = dark[hole]
        out = like_removed(area, hole, ~hole)
        self.assertLess(out[:, 867:].mean(), 0.02)
        self.assertGreater(out[45:65, 45:55].mean(), 0.98)


class JoiningAgainstADirectSolve(unittest.TestCase):
    def setUp(self) -> None:
        self.rng = np.random.default_rng(5)
        self.values = self.rng.random((24, 30), np.float32)
        self.hole = disc(24, 30, 14, 12, 8)

    def solve(self, hole: np.ndarray, laplacian: np.ndarray) -> np.ndarray:
        out = poisson.guided(self.values[..., None], laplacian[..., None].astype(np.float32), hole)
        return out[..., 0]

    def test_a_membrane(self) -> None:
        nothing = np.zeros_like(self.values)
        expected = direct(self.values, nothing, self.hole)
        np.testing.assert_allclose(self.solve(self.hole, nothing), expected, atol=2e-4)

    def test_with_gradients(self) -> None:
        wanted = self.rng.normal(0, 0.1, self.values.shape)
        expected = direct(self.values, wanted, self.hole)
        np.testing.assert_allclose(self.solve(self.hole, wanted), expected, atol=5e-4)

    def test_at_the_border_of_the_picture(self) -> None:
        hole = np.zeros_like(self.hole)
        hole[:9, :9] = True
        nothing = np.zeros_like(self.values)
        expected = direct(self.values, nothing, hole)
        np.testing.assert_allclose(self.solve(hole, nothing), expected, atol=5e-4)

    def test_holes_of_every_form(self) -> None:
        rng = np.random.default_rng(11)
        ys, xs = np.mgrid[:90, :110]
        speckled = cv2.GaussianBlur(rng.standard_normal((90, 110)), (0, 0), 3) > 0
        self.values = rng.random((90, 110), np.float32)
        for name, hole in {
            "ring": np.abs(np.hypot(ys - 45, xs - 50) - 30) < 4,
            "thread": np.abs(ys - 0.7 * xs) < 1.5,
            "speckled": speckled,
            "half of the picture": ys < 45,
            "all but a corner": (ys > 10) | (xs > 60),
        }.items():
            with self.subTest(name):
                wanted = rng.normal(0, 0.02, self.values.shape)
                expected = direct(self.values, wanted, hole)
                np.testing.assert_allclose(self.solve(hole, wanted), expected, atol=2e-3)

    def test_what_is_copied_whole_comes_back_whole(self) -> None:
        image = self.rng.random((40, 60, 3), np.float32)
        hole = disc(40, 60, 18, 20, 8)
        image[:, 30:] = image[:, :30]  # the right half repeats the left one
        truth = image.copy()
        field = np.full((40, 60, 2), -1, np.int32)
        ys, xs = np.nonzero(hole)
        field[ys, xs] = np.stack([ys, xs + 30], 1)
        image[hole] = 0.5
        wanted = poisson.copied_laplacian(image, hole, field, image)
        joined = poisson.guided(image, wanted, hole)
        np.testing.assert_allclose(joined, truth, atol=1e-3)

    def test_an_edge_between_two_sources_stays_one(self) -> None:
        """Neither source has the edge: cloth below, skin above, both smooth."""
        image = np.full((60, 80, 3), (0.8, 0.6, 0.5), np.float32)
        image[30:] = (0.3, 0.4, 0.6)
        hole = np.zeros((60, 80), np.bool_)
        hole[20:42, 20:50] = True
        field = np.full((60, 80, 2), -1, np.int32)
        ys, xs = np.nonzero(hole)
        field[ys, xs] = np.stack([np.where(ys < 30, 5, 55), np.full(len(xs), 65)], 1)
        wanted = poisson.copied_laplacian(image, hole, field, image)
        joined = poisson.guided(image, wanted, hole)
        np.testing.assert_allclose(joined, image, atol=0.02)


class Matching(unittest.TestCase):
    def test_a_repeated_place_is_found(self) -> None:
        rng = np.random.default_rng(2)
        tile = rng.random((32, 40, 5), np.float32)
        image = np.concatenate([tile, tile], 1)
        target = np.zeros((32, 80), np.bool_)
        target[10:20, 10:20] = True
        usable = np.zeros_like(target)
        usable[3:-3, 43:-3] = True
        field = np.full((32, 80, 2), -1, np.int32)
        cost = np.full((32, 80), np.inf, np.float32)
        state = np.array([12345], np.uint64)
        far = np.full((32, 80), 1000, np.int32)
        match.scatter(field, cost, target, np.flatnonzero(usable), state, far)
        weight = np.ones((32, 80), np.float32)
        match.search(image, match.Belief(weight), target, usable, field, cost, 12, 80, state, far)
        ys, xs = np.nonzero(target)
        right = (field[ys, xs, 0] == ys) & (field[ys, xs, 1] == xs + 40)
        self.assertGreater(right.mean(), 0.95)
        np.testing.assert_allclose(cost[ys[right], xs[right]], 0, atol=1e-9)


class Filling(unittest.TestCase):
    def test_nothing_but_the_hole_changes(self) -> None:
        image = skin(120, 140, seed=4)
        hole = disc(120, 140, 70, 60, 14)
        out = fill(image, hole)
        np.testing.assert_array_equal(out[~hole], image[~hole])
        self.assertGreater(np.abs(out - image)[hole].max(), 0.01)

    def test_the_same_seed_gives_the_same_and_another_another(self) -> None:
        image = skin(120, 140, seed=4)
        hole = disc(120, 140, 70, 60, 14)
        first = fill(image, hole, seed=3)
        np.testing.assert_array_equal(first, fill(image, hole, seed=3))
        other = fill(image, hole, seed=4)
        self.assertGreater(np.abs(first - other)[hole].mean(), 0.002)

    def test_grain_is_as_strong_as_around(self) -> None:
        image = skin(160, 160, grain=0.03, seed=9)
        hole = disc(160, 160, 80, 80, 24)
        holed = image.copy()
        holed[hole] = 0.5
        grey = cv2.cvtColor(fill(holed, hole), cv2.COLOR_RGB2GRAY)
        fine = grey - cv2.GaussianBlur(grey, (0, 0), 2)
        inside, outside = fine[disc(160, 160, 80, 80, 18)].std(), fine[~hole].std()
        self.assertLess(abs(np.log(inside / outside)), 0.2)

    def test_an_edge_goes_on_through_the_hole(self) -> None:
        image = skin(160, 160, grain=0.01, seed=2)
        image[:, 80:] *= np.float32(0.4)
        hole = disc(160, 160, 80, 80, 20)
        holed = image.copy()
        holed[hole] = (1, 0, 1)
        out = fill(holed, hole)
        for y in range(64, 97):
            step = out[y, :, 0] < 0.55
            self.assertLessEqual(abs(int(step.argmax()) - 80), 3, f"row {y}")

    def test_shading_goes_on_smoothly(self) -> None:
        image = skin(160, 200, grain=0.005, slope=0.4, seed=3)
        hole = disc(160, 200, 100, 80, 22)
        holed = image.copy()
        holed[hole] = 0
        out = fill(holed, hole)
        soft = cv2.GaussianBlur(out, (0, 0), 4) - cv2.GaussianBlur(image, (0, 0), 4)
        self.assertLess(np.abs(soft[hole]).mean(), 0.012)

    def test_a_thin_hole_is_filled_with_what_is_beside_each_of_its_places(self) -> None:
        """A line across three kinds of ground: none of one comes out in another far away."""
        rng = np.random.default_rng(11)
        area = np.full((120, 1500, 3), 0.5, np.float32)
        area[:, :500] = (0.8, 0.3, 0.3)
        area[:, 1000:] = (0.3, 0.3, 0.8)
        area += rng.normal(0, 0.02, area.shape).astype(np.float32)
        hole = np.zeros((120, 1500), np.bool_)
        hole[56:64, 40:1460] = True
        out = fill(np.clip(area, 0, 1), hole)
        red, blue = out[56:64, 60:420], out[56:64, 1080:1440]
        self.assertTrue((red[..., 0] > red[..., 2] + 0.2).all())
        self.assertTrue((blue[..., 2] > blue[..., 0] + 0.2).all())

    def test_what_is_spared_is_not_used(self) -> None:
        # Blue everywhere but in a strip; the strip is spared, so no red may come in.
        image = np.full((100, 140, 3), (0.2, 0.3, 0.8), np.float32)
        image += np.random.default_rng(1).normal(0, 0.01, image.shape).astype(np.float32)
        image[:, 70:100] = (0.9, 0.1, 0.1)
        hole = disc(100, 140, 62, 50, 12)
        refused = np.zeros((100, 140), np.bool_)
        refused[:, 68:102] = True
        out = fill(image, hole, refused)
        # Away from the rim that the strip touches, gradients come from blue alone.
        inner = hole & (np.arange(140)[None, :] < 58)
        self.assertLess(out[inner][:, 0].max(), 0.45)

    def test_skin_with_many_spared_spots_is_still_drawn_from(self) -> None:
        """Spots all over a cheek leave no free patch of it on a coarse level; hair beside is whole."""
        rng = np.random.default_rng(3)
        image = skin(240, 320, grain=0.01, seed=8)
        strands = rng.normal(0, 0.06, (240, 120, 1)).astype(np.float32)
        image[:, 200:] = np.clip((0.35, 0.3, 0.2) + cv2.blur(strands, (1, 25))[..., None], 0, 1)
        hole = disc(240, 320, 168, 120, 38)
        spots = np.zeros((240, 320), np.bool_)
        for x, y in [(x, y) for x in range(10, 200, 26) for y in range(10, 240, 26)]:
            spots |= disc(240, 320, x, y, 2.5)
        holed = image.copy()
        holed[spots] = (0.5, 0.15, 0.15)
        holed[hole] = (0, 0, 1)
        out = fill(holed, hole, spots)
        left = hole & (np.arange(320)[None] < 190)
        away = np.abs(out - image)[left]
        self.assertLess(float(np.median(away)), 0.03)
        grey = cv2.cvtColor(out, cv2.COLOR_RGB2GRAY)
        rough = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 2))
        self.assertLess(np.median(rough[left]), 2 * np.median(rough[:, :120]))

    def test_what_goes_does_not_come_back_from_beside_it(self) -> None:
        # A row of dark brackets; one is brushed over, its neighbours mustn't be copied into it.
        rng = np.random.default_rng(4)
        image = np.full((80, 200, 3), (0.8, 0.76, 0.66), np.float32)
        image += rng.normal(0, 0.01, image.shape).astype(np.float32)
        for x in range(25, 200, 30):
            image[35:45, x - 5 : x + 5] = (0.3, 0.32, 0.34)
        hole = disc(80, 200, 85, 40, 10)
        self.assertGreater(float(fill(image, hole)[hole].min()), 0.55)
        removed = like_removed(image, hole, ~hole)
        self.assertTrue(removed[36:44, 52:58].all())
        self.assertFalse(removed[:30].any() or (removed & hole).any())

    def test_what_reaches_into_the_hole_is_still_drawn_from(self) -> None:
        image = skin(100, 140, grain=0.01, seed=6)
        image[50:] = skin(100, 140, base=(0.5, 0.2, 0.22), grain=0.01, seed=7)[50:]
        hole = disc(100, 140, 70, 50, 18)
        self.assertFalse(like_removed(image, hole, ~hole).any())

    def test_nothing_to_draw_from(self) -> None:
        image = skin(60, 60)
        hole = disc(60, 60, 30, 30, 28)
        with self.assertRaisesRegex(EditError, "Nothing is left"):
            fill(image, hole, np.ones((60, 60), np.bool_))

    def test_no_hole_is_no_change(self) -> None:
        image = skin(50, 50)
        np.testing.assert_array_equal(fill(image, np.zeros((50, 50), np.bool_)), image)

    def test_progress_rises_to_one_and_can_stop_it(self) -> None:
        image = skin(120, 140, seed=4)
        hole = disc(120, 140, 70, 60, 14)
        seen: list[float] = []
        fill(image, hole, progress=seen.append)
        self.assertEqual(seen, sorted(seen))
        self.assertEqual(seen[-1], 1.0)

        def stop(done: float) -> None:
            if done > 0.3:
                raise Cancelled("enough")

        with self.assertRaises(Cancelled):
            fill(image, hole, progress=stop)


class FillTouches(unittest.TestCase):
    def test_a_thin_place_sees_as_far_as_its_sources_lie(self) -> None:
        """A ring of wire: what is beside each of its places is there to be drawn from."""
        turn = np.linspace(0, 2 * np.pi, 80)
        way = np.stack([np.cos(turn), np.sin(turn)], 1)
        way[-1] = way[0]
        ring = np.concatenate([500 + 150 * way, 500 + 146 * way[::-1]])
        path = tuple((float(x), float(y)) for x, y in ring)
        bounds = Rect(0, 0, 1000, 1000)
        touch = Touch("t", path, {"shape": "outline"})
        (seen,) = registry.kind("fill").touches.reads(touch, {}, bounds)
        reach = _reach(np.pad(np.ones((3, 300), np.bool_), 200)).max()
        self.assertLessEqual(seen.x0, 350 - reach)
        self.assertGreaterEqual(seen.y1, 650 + reach)

    def test_a_wide_place_is_drawn_from_further_away_than_a_thin_one(self) -> None:
        hole = np.zeros((600, 900), np.bool_)
        hole[300:304, 50:850] = True
        hole[230:370, 400:540] = True
        reach = _reach(hole)
        self.assertEqual(int(reach[302, 60]), 120)
        self.assertGreater(int(reach[302, 470]), 300)
        # So is what belongs to the wide part, and lies close to it.
        self.assertGreater(int(reach[302, 395]), 300)

    def test_coarser_levels_are_means_of_what_may_be_drawn_from(self) -> None:
        """Against the same worked out place by place."""
        rng = np.random.default_rng(2)
        area = rng.random((101, 75, 3)).astype(np.float32)
        hole = np.zeros((101, 75), np.bool_)
        hole[30:70, 20:50] = True
        allowed = ~hole & (rng.random(hole.shape) > 0.2)
        fine, coarse = levels_of(area, hole, allowed)[:2]
        self.assertEqual(coarse.hole.shape, (51, 38))
        for y, x in ((3, 5), (10, 10), (50, 37), (14, 9)):
            rows, cols = (np.minimum((2 * n, 2 * n + 1), m - 1) for n, m in ((y, 101), (x, 75)))
            cells = [(r, c) for r in rows for c in cols]
            known = [p for p in cells if not hole[p]]
            self.assertEqual(bool(coarse.hole[y, x]), len(known) < 2)
            free = [p for p in known if allowed[p]]
            self.assertEqual(bool(coarse.allowed[y, x]), len(known) == 4 and len(free) >= 2)
            if free:
                wanted = np.mean([fine.image[p] for p in free], axis=0)
                np.testing.assert_allclose(coarse.image[y, x], wanted, atol=0.01)

    def render(self, image: np.ndarray, *touches: Touch) -> np.ndarray:
        picture = Picture(to_integers(image, 16))
        edit = loads(dumps(Edit((Pass("p", "fill", touches=touches),))))
        return Renderer(Pyramid(picture)).render(edit, picture.bounds)

    def test_a_stroke_and_an_outline(self) -> None:
        image = skin(160, 200, seed=6)
        dark = image.copy()
        dark[60:100, 90:96] = 0.05
        stroke = Touch("a", ((93.0, 55.0), (93.0, 105.0)), {"radius_px": 9.0})
        corners = ((82.0, 48.0), (104.0, 48.0), (104.0, 112.0), (82.0, 112.0))
        outlined = Touch("b", corners, {"shape": "outline"})
        for touch in (stroke, outlined):
            out = self.render(dark, touch)
            self.assertGreater(out[60:100, 90:96].min(), 0.25, touch.id)
            np.testing.assert_allclose(
                out[:, :70], to_integers(dark, 16)[:, :70] / 65535, atol=1e-6
            )

    def test_a_place_as_large_as_the_picture_is_refused(self) -> None:
        whole = Touch(
            "a", ((0.0, 0.0), (200.0, 0.0), (200.0, 160.0), (0.0, 160.0)), {"shape": "outline"}
        )
        with self.assertRaisesRegex(EditError, "too large"):
            self.render(skin(160, 200), whole)

    def test_it_reports_while_it_renders(self) -> None:
        seen: list[float] = []
        with listening(seen.append):
            self.render(skin(160, 200), Touch("a", ((80.0, 80.0),), {"radius_px": 10.0}))
        self.assertGreater(len(seen), 2)

    def test_beside_the_picture_nothing_happens(self) -> None:
        image = skin(100, 100)
        out = self.render(image, Touch("a", ((-60.0, 50.0),), {"radius_px": 10.0}))
        np.testing.assert_allclose(out, to_integers(image, 16) / 65535, atol=1e-6)

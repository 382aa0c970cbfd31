"""Where a round brush covers: distances to its path, its edge, its area; and displacements there and back.

Distances are those of the textbook (place to segment: project, clamp, measure); areas those of disc and stadium.
"""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from retouch.geometry import Rect
from retouch.heal.footprint import Footprint
from retouch.warp.field import Field

_PLACE = st.tuples(st.floats(-40, 90), st.floats(-40, 90))
_SLOW = settings(max_examples=60, deadline=None)


def away(x: float, y: float, path: list[tuple[float, float]]) -> float:
    """Distance from a place to a path, written out."""
    best = min(np.hypot(x - px, y - py) for px, py in path)
    for (ax, ay), (bx, by) in itertools.pairwise(path):
        length = (bx - ax) ** 2 + (by - ay) ** 2
        if length > 0:
            t = min(1.0, max(0.0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length))
            best = min(best, np.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)))
    return float(best)


class Distances(unittest.TestCase):
    @given(path=st.lists(_PLACE, min_size=1, max_size=2), radius=st.floats(1, 40))
    @_SLOW
    def test_they_are_those_of_the_textbook(
        self, path: list[tuple[float, float]], radius: float
    ) -> None:
        place = Footprint(tuple(path), radius)
        rect = Rect(-7, 3, 22, 19)
        beyond = place.beyond(rect)
        self.assertEqual(beyond.shape, (16, 29))
        for x, y in ((-7, 3), (21, 18), (0, 10), (13, 4)):
            found = float(beyond[y - rect.y0, x - rect.x0]) + radius
            self.assertAlmostEqual(found, away(x + 0.5, y + 0.5, path), places=3)

    def test_a_grid_and_places_one_by_one_are_measured_alike(self) -> None:
        place = Footprint(((3.0, 4.0), (20.0, 9.0), (11.0, 30.0)), 6.0)
        xs, ys = np.meshgrid(np.linspace(-5, 40, 31), np.linspace(-5, 40, 23))
        grid = place.distance(xs[:1].astype(np.float32), ys[:, :1].astype(np.float32))
        single = place.distance(xs.ravel().astype(np.float32), ys.ravel().astype(np.float32))
        np.testing.assert_allclose(grid.ravel(), single, atol=1e-4)

    def test_superfluous_points_of_a_long_stroke_go_and_its_place_stays(self) -> None:
        along = np.linspace(0, 200, 401)
        path = tuple((float(x), float(20 * np.sin(x / 30))) for x in along)
        place = Footprint(path, 12.0)
        self.assertLess(len(place.path), 80)
        plain = [away(x, y, list(path)) for x, y in ((10.0, 30.0), (100.0, -9.0), (150.0, 4.0))]
        found = place.distance(
            np.array([10.0, 100.0, 150.0], np.float32), np.array([30.0, -9.0, 4.0], np.float32)
        )
        np.testing.assert_allclose(found, plain, atol=0.5)

    def test_nodes_lie_evenly_along_it(self) -> None:
        place = Footprint(((0.0, 0.0), (30.0, 0.0), (30.0, 30.0)), 5.0)
        nodes = place.nodes(10.0, 50)
        self.assertEqual(len(nodes), 7)
        np.testing.assert_allclose(np.hypot(*np.diff(nodes, axis=0).T), 10.0, atol=1e-6)
        self.assertEqual(len(place.nodes(10.0, 3)), 3)
        np.testing.assert_allclose(Footprint(((4.0, 5.0),), 5.0).nodes(10.0, 50), [[4.0, 5.0]])


class Covers(unittest.TestCase):
    def test_a_hard_dab_has_the_area_of_a_disc_and_a_stroke_that_of_a_stadium(self) -> None:
        for radius in (3.0, 10.5, 40.0):
            for path in (((64.3, 50.8),), ((64.3, 50.8), (90.0, 75.2))):
                place = Footprint(path, radius)
                length = float(np.hypot(*np.diff(np.array(path), axis=0).T).sum())
                whole = np.pi * radius**2 + 2 * radius * length
                cover = place.cover(place.bounds, 0.0)
                self.assertAlmostEqual(float(cover.sum()) / whole, 1.0, delta=0.02 + 0.05 / radius)

    @given(x=st.floats(-5, 5), y=st.floats(-5, 5), radius=st.floats(0.5, 30), soft=st.floats(0, 1))
    @_SLOW
    def test_it_fades_outwards_and_ends_within_its_bounds(
        self, x: float, y: float, radius: float, soft: float
    ) -> None:
        place = Footprint(((x, y),), radius)
        wide = place.bounds.grow(3)
        cover, beyond = place.cover(wide, soft), place.beyond(wide)
        self.assertGreaterEqual(float(cover.min()), 0.0)
        self.assertLessEqual(float(cover.max()), 1.0)
        order = np.argsort(beyond.ravel(), kind="stable")
        self.assertLessEqual(float(np.diff(cover.ravel()[order]).max()), 1e-4)
        self.assertEqual(float(cover[0].max() + cover[-1].max() + cover[:, 0].max()), 0.0)
        np.testing.assert_allclose(cover, place.coverage(beyond + radius, soft), atol=1e-4)


class ThereAndBack(unittest.TestCase):
    def field(self, seed: int, share: float) -> Field:
        """Smooth displacements that nowhere fold (their slope is below one)."""
        rng = np.random.default_rng(seed)
        rows, columns, step = 7, 9, 16.0
        shifts = rng.uniform(-1, 1, (rows, columns, 2)) * step * share
        shifts[[0, -1]] = 0
        shifts[:, [0, -1]] = 0
        return Field(10.0, 20.0, step, shifts)

    @given(seed=st.integers(0, 2**31), share=st.floats(0.0, 0.22))
    @_SLOW
    def test_forth_undoes_back(self, seed: int, share: float) -> None:
        field = self.field(seed, share)
        rng = np.random.default_rng(seed + 1)
        places = rng.uniform((0, 0), (160, 140), (200, 2))
        np.testing.assert_allclose(field.forth(field.back(places)), places, atol=0.01)
        np.testing.assert_allclose(field.back(field.forth(places)), places, atol=0.01)
        moved = np.hypot(*(field.back(places) - places).T)
        self.assertLessEqual(float(moved.max()), field.most + 1e-9)

    def test_at_nodes_it_is_what_they_say_between_them_linear_beyond_nothing(self) -> None:
        field = self.field(3, 0.2)
        nodes = field.places.reshape(-1, 2)
        np.testing.assert_allclose(
            field.back(nodes) - nodes, field.shifts.reshape(-1, 2), atol=1e-9
        )
        one, two = field.places[2, 3], field.places[2, 4]
        between = (field.shifts[2, 3] + 3 * field.shifts[2, 4]) / 4
        at = (one + 3 * two) / 4
        np.testing.assert_allclose(field.back(at[None])[0] - at, between, atol=1e-9)
        outside = np.array([[9.0, 60.0], [60.0, 19.0], [139.0, 60.0], [60.0, 117.0], [-500.0, 9e6]])
        np.testing.assert_array_equal(field.back(outside), outside)
        inner = field.rect
        self.assertEqual((inner.x0, inner.y0, inner.x1, inner.y1), (10, 20, 139, 117))

    def test_a_part_of_it_moves_a_part_and_its_key_tells_it_apart(self) -> None:
        field = self.field(5, 0.2)
        half, none = field.scaled(0.5), field.scaled(np.zeros(field.shifts.shape[:2]))
        at = np.array([[70.0, 64.0], [33.0, 50.0]])
        np.testing.assert_allclose(half.back(at) - at, (field.back(at) - at) / 2, atol=1e-9)
        np.testing.assert_array_equal(none.back(at), at)
        self.assertEqual(none.most, 0.0)
        self.assertEqual(len({field.key, half.key, none.key}), 3)
        self.assertEqual(field.key, self.field(5, 0.2).key)

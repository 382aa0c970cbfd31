"""The compiled loops of the heal against OpenCV, SciPy and plain NumPy."""

from __future__ import annotations

import cv2
import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.coarse import Grid, doubled, halved
from retouch.heal.surface import fit
from retouch.heal.windows import box_mean, disc_max

_sizes = st.tuples(st.integers(1, 60), st.integers(1, 60), st.sampled_from([1, 3]))
_seeds = st.integers(0, 2**31)


def _picture(h: int, w: int, depth: int, seed: int) -> np.ndarray:
    a = np.random.default_rng(seed).random((h, w, depth), np.float32)
    return a[..., 0] if depth == 1 else a


class GridAgainstOpenCV(SimpleTestCase):
    @settings(max_examples=60, deadline=None)
    @given(_sizes, st.floats(1, 9), _seeds)
    def test_cells_are_area_means(self, size: tuple[int, int, int], step: float, seed: int) -> None:
        h, w, depth = size
        area = _picture(h, w, depth, seed)
        grid = Grid(Rect(0, 0, w, h), max(1, int(h / step)), max(1, int(w / step)))
        expected = cv2.resize(area, (grid.cols, grid.rows), interpolation=cv2.INTER_AREA)
        got = grid.reduce(area)
        self.assertEqual(got.shape, expected.reshape(got.shape).shape)
        np.testing.assert_allclose(got, expected.reshape(got.shape), atol=2e-5)

    def test_a_part_of_a_larger_array_is_read_as_it_lies(self) -> None:
        whole = _picture(40, 50, 3, 1)
        part = whole[5:35, 7:47]
        grid = Grid(Rect(0, 0, 40, 30), 6, 8)
        np.testing.assert_array_equal(grid.reduce(part), grid.reduce(part.copy()))

    @settings(max_examples=40, deadline=None)
    @given(st.integers(2, 30), st.integers(2, 30), _seeds)
    def test_half_size_and_back(self, rows: int, cols: int, seed: int) -> None:
        area = _picture(2 * rows, 2 * cols, 3, seed)
        half = halved(area)
        expected = cv2.resize(area, (cols, rows), interpolation=cv2.INTER_AREA)
        np.testing.assert_allclose(half, expected, atol=1e-6)
        one = np.ascontiguousarray(half[..., 0])
        back = cv2.resize(one, (2 * cols, 2 * rows), interpolation=cv2.INTER_LINEAR)
        np.testing.assert_allclose(doubled(one, 2 * rows, 2 * cols), back, atol=1e-5)
        np.testing.assert_allclose(
            doubled(one, 2 * rows - 1, 2 * cols - 1), back[:-1, :-1], atol=1e-5
        )

    def test_values_spread_over_pixels_as_scipy_interpolates(self) -> None:
        grid = Grid(Rect(10, 20, 50, 56), 9, 10)
        cells = _picture(9, 10, 3, 5)
        rect = Rect(5, 18, 55, 60)
        y = (np.arange(rect.y0, rect.y1) + 0.5 - 20) / grid.step_y - 0.5
        x = (np.arange(rect.x0, rect.x1) + 0.5 - 10) / grid.step_x - 0.5
        places = np.meshgrid(y, x, indexing="ij")
        for channel in range(3):
            expected = ndimage.map_coordinates(cells[..., channel], places, order=1, mode="nearest")
            np.testing.assert_allclose(grid.spread(cells, rect)[..., channel], expected, atol=1e-5)


class WindowsAgainstLibraries(SimpleTestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 30), st.integers(1, 30), st.integers(0, 6), _seeds)
    def test_box_mean(self, rows: int, cols: int, reach: int, seed: int) -> None:
        planes = np.random.default_rng(seed).random((rows, cols, 5), np.float32)
        size = 2 * reach + 1
        expected = np.stack(
            [ndimage.uniform_filter(planes[..., k], size, mode="reflect") for k in range(5)], 2
        )
        np.testing.assert_allclose(box_mean(planes, size), expected, atol=1e-5)

    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 25), st.integers(1, 25), st.floats(0.5, 7), _seeds)
    def test_disc_max(self, rows: int, cols: int, radius: float, seed: int) -> None:
        plane = np.random.default_rng(seed).random((rows, cols), np.float32)
        reach = int(radius)
        ys, xs = np.mgrid[-reach : reach + 1, -reach : reach + 1]
        disc = ys * ys + xs * xs <= radius * radius
        expected = ndimage.maximum_filter(plane, footprint=disc, mode="constant", cval=-np.inf)
        np.testing.assert_array_equal(disc_max(plane, radius), expected)


class Distances(SimpleTestCase):
    def test_to_a_dab_and_to_a_stroke(self) -> None:
        x, y = np.arange(12, dtype=np.float32)[None] + 0.5, np.arange(9, dtype=np.float32)[:, None]
        dab = Footprint(((4.0, 3.0),), 2.0)
        np.testing.assert_allclose(dab.distance(x, y), np.hypot(x - 4, y - 3), rtol=1e-6)
        stroke = Footprint(((2.0, 4.0), (9.0, 4.0)), 2.0)
        beyond = np.maximum(np.maximum(2 - x, x - 9), 0)
        np.testing.assert_allclose(stroke.distance(x, y), np.hypot(beyond, y - 4), rtol=1e-6)

    def test_cover_is_the_coverage_of_the_distance(self) -> None:
        brush = Footprint(((20.3, 18.8), (30.0, 25.0)), 6.0)
        rect = brush.bounds.grow(2)
        x = (np.arange(rect.x0, rect.x1, dtype=np.float32) + 0.5)[None]
        y = (np.arange(rect.y0, rect.y1, dtype=np.float32) + 0.5)[:, None]
        for softness in (0.0, 0.2, 1.0):
            expected = brush.coverage(brush.distance(x, y), softness)
            np.testing.assert_allclose(brush.cover(rect, softness), expected, atol=1e-5)


class RobustSurface(SimpleTestCase):
    def _samples(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        rng = np.random.default_rng(4)
        x, y = rng.uniform(-40, 40, (2, 400)).astype(np.float32)
        u, v = x / 20, y / 20
        planes = [0.6 + 0.03 * u - 0.02 * v + 0.005 * u * v - 0.004 * u * u for _ in range(3)]
        return x, y, np.stack(planes, 1).astype(np.float32)

    def test_a_quadratic_is_found_to_its_ridge(self) -> None:
        x, y, values = self._samples()
        surface = fit(x, y, values, np.ones(400, np.float32), (0.0, 0.0), 20.0)
        np.testing.assert_allclose(surface.at(x, y), values, atol=2e-3)

    def test_a_fifth_of_wrong_samples_hardly_pulls_it(self) -> None:
        x, y, values = self._samples()
        marked = values.copy()
        marked[:80] -= np.array([0.02, 0.15, 0.12], np.float32)
        surface = fit(x, y, marked, np.ones(400, np.float32), (0.0, 0.0), 20.0)
        self.assertLess(np.abs(surface.at(x, y) - values).max(), 0.004)
        plain = np.abs(np.mean(marked - values, 0)).max()
        self.assertGreater(plain, 0.02)  # what an ordinary mean would be off by

"""Pictures as cells of a grid: means of them, values between them, and the guided filter worked out on them."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.ndimage import gaussian_filter, map_coordinates

from retouch.geometry import Rect
from retouch.passes.skin_bands import SKIN_BANDS, pixels
from retouch.passes.ways import Place
from retouch.skin.smooth import (
    Cells,
    cells_of,
    contrast_of,
    edge_aware,
    factor_of,
    fitted,
    reduced,
    soft,
    spread,
    spread_at,
)
from retouch.tests.scenes import skin, spot

WHOLE = Rect(0, 0, 320, 240)


def picture() -> np.ndarray:
    image = spot(skin(240, 320, grain=0.02, slope=0.3, seed=3), 150, 110, 22)
    image[:, 250:] *= np.float32(0.4)
    return image


class Means(unittest.TestCase):
    def test_cells_are_means_whatever_rectangle_is_asked_for(self) -> None:
        image = picture()
        expected = image.reshape(30, 8, 40, 8, 3).mean((1, 3))
        for rect in (WHOLE, Rect(16, 8, 304, 232), Rect(13, 5, 307, 239), Rect(3, 40, 300, 47)):
            small, cells = reduced(image[rect.within(WHOLE)], rect, 8)
            inner = Rect(-(-rect.x0 // 8), -(-rect.y0 // 8), rect.x1 // 8, rect.y1 // 8)
            if inner.empty:
                continue
            with self.subTest(rect=rect):
                self.assertEqual(small.shape, (cells.height, cells.width, 3))
                own = small[inner.within(cells)]
                np.testing.assert_allclose(own, expected[inner.within(Rect(0, 0, 40, 30))], atol=1e-6)  # fmt: skip

    def test_cells_that_are_cut_are_of_what_is_known(self) -> None:
        image = np.zeros((20, 20, 3), np.float32)
        image[:, 8:] = 1
        # The rectangle begins in the middle of a dark cell and ends in one that is light.
        small, cells = reduced(image[:, 4:18], Rect(4, 0, 18, 20), 8)
        self.assertEqual(cells, Rect(0, 0, 3, 3))
        np.testing.assert_array_equal(small[..., 0], [[0, 1, 1]] * 3)

    def test_grids_of_cells_lie_in_each_other(self) -> None:
        image = picture()
        once, cells = reduced(image, WHOLE, 16)
        half, between = reduced(image, WHOLE, 4)
        twice, same = reduced(half, between, 4)
        self.assertEqual(cells, same)
        np.testing.assert_allclose(once, twice, atol=1e-6)

    def test_of_cells_that_are_given_a_part_is_taken(self) -> None:
        image = picture()
        given = Cells(*reduced(image, WHOLE, 4), 4)
        wanted = Rect(130, 129, 180, 170)
        part = cells_of(image, WHOLE, 4, given, wanted)
        self.assertLess(part.rect.width * part.rect.height, 60 * 80)
        full = Rect(*(n * 4 for n in part.rect.as_tuple()))
        self.assertEqual(wanted.clip(full), wanted)
        np.testing.assert_array_equal(part.image, given.image[part.rect.within(given.rect)])
        # More than there is can't be had.
        self.assertEqual(cells_of(image, WHOLE, 4, given, WHOLE.grow(500)).rect, given.rect)


class Between(unittest.TestCase):
    def values(self) -> tuple[np.ndarray, Rect]:
        return np.random.default_rng(4).random((12, 15, 3)).astype(np.float32), Rect(3, 2, 18, 14)

    def reference(self, values: np.ndarray, cells: Rect, rect: Rect, factor: int) -> np.ndarray:
        """SciPy's linear interpolation."""
        ys = (np.arange(rect.y0, rect.y1) + 0.5) / factor - 0.5 - cells.y0
        xs = (np.arange(rect.x0, rect.x1) + 0.5) / factor - 0.5 - cells.x0
        at = np.meshgrid(ys, xs, indexing="ij")
        return np.stack(
            [map_coordinates(c, at, order=1, mode="nearest") for c in np.moveaxis(values, 2, 0)], -1
        )

    def test_values_between_cells_are_those_of_a_reference_library(self) -> None:
        values, cells = self.values()
        for factor in (2, 4, 8):
            rect = Rect(3 * factor + 1, 2 * factor + 3, 18 * factor - 2, 14 * factor - 1)
            expected = self.reference(values, cells, rect, factor)
            np.testing.assert_allclose(spread(values, cells, rect, factor), expected, atol=1e-5)
            some = np.random.default_rng(5).integers(0, rect.width * rect.height, 200)
            got = spread_at(values, cells, rect, factor, some)
            np.testing.assert_allclose(got[0], expected.reshape(-1, 3)[some], atol=1e-5)

    def test_one_row_of_cells_and_one_cell(self) -> None:
        for rows, cols in ((1, 9), (9, 1), (1, 1)):
            values = np.random.default_rng(6).random((rows, cols, 3)).astype(np.float32)
            cells, rect = Rect(0, 0, cols, rows), Rect(0, 0, 4 * cols, 4 * rows)
            expected = self.reference(values, cells, rect, 4)
            places = np.arange(rect.width * rect.height)
            got = spread_at(values, cells, rect, 4, places)
            np.testing.assert_allclose(got[0], expected.reshape(-1, 3), atol=1e-5)


class Guided(unittest.TestCase):
    """K. He, J. Sun, X. Tang, *Guided Image Filtering*, PAMI 35, 2013: equations (5), (6) and (8), with SciPy's Gaussian
    as the window.
    """

    def lines(self, image: np.ndarray, sigma: float, contrast: float) -> tuple[np.ndarray, ...]:
        def mean(a: np.ndarray) -> np.ndarray:
            return gaussian_filter(a.astype(np.float64), sigma, mode="reflect", truncate=4)

        guide = 0.25 * image[..., 0] + 0.5 * image[..., 1] + 0.25 * image[..., 2]
        centre = mean(guide)
        variance = mean(guide * guide) - centre**2
        slopes, offsets = [], []
        for c in np.moveaxis(image, 2, 0):
            slope = (mean(guide * c) - centre * mean(c)) / (variance + contrast**2)
            slopes.append(mean(slope))
            offsets.append(mean(mean(c) - slope * centre))
        return guide, np.stack(slopes, -1), np.stack(offsets, -1)

    def test_it_is_the_published_filter(self) -> None:
        image, sigma = picture(), 2.5
        self.assertEqual(factor_of(sigma), 1)
        for contrast in (0.02, 0.2):
            guide, slope, offset = self.lines(image, sigma, contrast)
            got = edge_aware(image, WHOLE, sigma, contrast)
            inside = np.s_[20:-20, 20:-20]
            np.testing.assert_allclose(
                got[inside], (slope * guide[..., None] + offset)[inside], atol=5e-4
            )

    def test_lines_of_cells_are_laid_between_them(self) -> None:
        image, factor = picture(), 8
        small, cells = reduced(image, WHOLE, factor)
        lines = fitted(small, 4.0, 0.05)
        between = Between()
        slope, offset = (
            between.reference(a, cells, WHOLE, factor) for a in (lines.slope, lines.offset)
        )
        light = 0.25 * image[..., 0] + 0.5 * image[..., 1] + 0.25 * image[..., 2]
        got = lines.at(image, cells, WHOLE, factor)
        np.testing.assert_allclose(got, slope * light[..., None] + offset, atol=1e-5)

    def test_bands_on_cells_are_those_at_full_size(self) -> None:
        """Beside each smoothing at full size from the one before: cells around the wanted part are enough."""
        image, inner = picture(), Rect(90, 60, 230, 180)
        values = {s.name: s.default for s in (*SKIN_BANDS.settings, *SKIN_BANDS.fitted)}
        values |= {"px_per_mm": 9.0, "middle": -60.0, "broad": -60.0, "fine": -40.0, "keep_texture": False}  # fmt: skip
        contrast = contrast_of(float(values["guard"]) / 100)
        upper, expected = image, image.copy()
        for size, amount in ((0.6, -0.4), (3.5, -0.6), (12.0, -0.6)):
            sigma = 0.5 * size * 9.0
            lower = soft(upper, WHOLE, sigma) if size < 1 else edge_aware(upper, WHOLE, sigma, contrast)  # fmt: skip
            expected = expected + amount * (upper - lower)
            upper = lower
        got = pixels(image, values, Place(WHOLE, 0, inner))
        self.assertGreater(float(np.abs(got - image[inner.within(WHOLE)]).max()), 0.02)
        np.testing.assert_allclose(got, np.clip(expected, 0, 1)[inner.within(WHOLE)], atol=2e-3)


if __name__ == "__main__":
    unittest.main()

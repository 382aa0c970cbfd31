"""Areas of masks: each kind, how they combine, growing and feathers measured in pixels."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage.color import rgb2lab

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Mask, Pass
from retouch.edit.mask import (
    Area,
    GradientArea,
    MaskStroke,
    OutlineArea,
    RangeArea,
    ZoneArea,
)
from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.masks.ground import in_range
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, changed_region
from retouch.tests.areas import area

SQUARE = OutlineArea(((40.0, 40.0), (120.0, 40.0), (120.0, 120.0), (40.0, 120.0)))
LOWER = OutlineArea(((0.0, 80.0), (160.0, 80.0), (160.0, 160.0), (0.0, 160.0)))
WHOLE = Rect(0, 0, 160, 160)


class LeftZone:
    """A stand-in of the face analysis: the zone of everyone is the left half, person 1 has none."""

    key = "left"

    def knows(self, face: object) -> bool:
        return True

    def extent(self, zone: str, face: object) -> Rect | None:
        return None

    def cover(self, zone: str, face: object, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
        xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        row = (xs < 80).astype(np.float32) * (face != 1)
        return np.repeat(row[None, :], shape[0], 0)


def pyramid() -> Pyramid:
    """Three upright stripes: dull red, bright red, grey."""
    image = np.zeros((160, 160, 3), np.float32)
    image[:, :50] = (0.55, 0.35, 0.3)
    image[:, 50:100] = (0.85, 0.6, 0.52)
    image[:, 100:] = (0.5, 0.5, 0.5)
    return Pyramid(Picture(to_integers(image, 16)))


def drawn(*areas: Area, rect: Rect = WHOLE, level: int = 0, **values: float | bool) -> np.ndarray:
    mask = Mask(areas, **values)  # type: ignore[arg-type]
    cover = Masks(pyramid()).draw(mask, rect, level, LeftZone())
    assert cover is not None
    return cover[..., 0]


class Algebra(unittest.TestCase):
    square, lower = drawn(area(SQUARE)), drawn(area(LOWER))

    def test_sets(self) -> None:
        """On hard-edged shapes the ways are union, difference and intersection of sets."""
        a, b = self.square > 0.5, self.lower > 0.5
        for way, want in (("add", a | b), ("take", a & ~b), ("cross", a & b)):
            got = drawn(area(SQUARE), area(LOWER, way))  # type: ignore[arg-type]
            np.testing.assert_allclose(got, want, atol=0.3, err_msg=way)  # drawn edges: 1/4 pixel

    def test_what_is_taken_first_is_taken_from_everything(self) -> None:
        np.testing.assert_array_equal(drawn(area(SQUARE, "take")), 1 - self.square)
        np.testing.assert_array_equal(drawn(area(SQUARE, "cross")), self.square)

    @given(st.lists(st.tuples(st.sampled_from([SQUARE, LOWER, GradientArea((20, 9), (140, 80))]),
                              st.sampled_from(["add", "take", "cross"]), st.booleans()),
                    min_size=1, max_size=5))  # fmt: skip
    @settings(max_examples=40, deadline=None)
    def test_any_combination_stays_between_nothing_and_all_and_inverts(self, parts) -> None:
        areas = [area(*p) for p in parts]
        got, turned = drawn(*areas), drawn(*areas, invert=True)
        self.assertGreaterEqual(float(got.min()), 0)
        self.assertLessEqual(float(got.max()), 1)
        np.testing.assert_allclose(turned, 1 - got, atol=1e-6)

    def test_inverting_an_area_is_not_inverting_the_mask(self) -> None:
        got = drawn(area(SQUARE), area(LOWER, "cross", invert=True))
        want = (self.square > 0.5) & (self.lower < 0.5)
        np.testing.assert_allclose(got, want, atol=0.3)


class Edges(unittest.TestCase):
    def rise(self, row: np.ndarray, *at: float) -> np.ndarray:
        return np.interp(at, row[:80], np.arange(len(row[:80])) + 0.5)

    def test_feathers_have_the_width_they_say(self) -> None:
        """From 2.3 to 97.7 per cent: four standard deviations of a Gaussian edge."""
        for feather in (6.0, 12.0, 24.0):
            soft = OutlineArea(SQUARE.points, feather)
            for row in (drawn(area(soft))[80], drawn(area(SQUARE), feather_px=feather)[80]):
                low, half, high = self.rise(row, 0.023, 0.5, 0.977)
                self.assertAlmostEqual(half, 40, delta=0.6)
                self.assertAlmostEqual(high - low, feather, delta=0.07 * feather + 0.6)

    def test_feathers_of_a_reduced_view_are_as_wide(self) -> None:
        soft = OutlineArea(SQUARE.points, 24)
        small = drawn(area(soft), rect=Rect(0, 0, 40, 40), level=2)[20]
        half = np.interp(0.5, small[:20], np.arange(20) + 0.5) * 4
        self.assertAlmostEqual(float(half), 40, delta=1)

    def test_growing_moves_the_edge_by_so_many_pixels(self) -> None:
        for by in (-17.0, -4.0, 3.0, 11.5, 30.0):
            row = drawn(area(SQUARE), grow_px=by)[80]
            self.assertAlmostEqual(float(self.rise(row, 0.5)[0]), 40 - by, delta=0.6, msg=str(by))

    def test_a_part_of_the_mask_is_as_the_whole(self) -> None:
        part = Rect(30, 50, 75, 90)
        for values in (
            {"feather_px": 20.0},
            {"grow_px": 9.0},
            {"grow_px": -9.0, "feather_px": 8.0},
        ):
            whole = drawn(area(SQUARE), **values)
            got = drawn(area(SQUARE), rect=part, **values)
            np.testing.assert_allclose(got, whole[50:90, 30:75], atol=2e-3)


class Ranges(unittest.TestCase):
    @staticmethod
    def lab(*rgb: float) -> tuple[float, float, float]:
        """CIELAB by scikit-image."""
        light, a, b = rgb2lab(np.array([[rgb]]))[0, 0]
        return float(light), float(a), float(b)

    def test_a_picked_colour_is_caught_and_another_is_not(self) -> None:
        dull = RangeArea((self.lab(0.55, 0.35, 0.3),), tolerance=8)
        row = drawn(area(dull))[80]
        np.testing.assert_allclose(row[:50], 1, atol=1e-3)
        np.testing.assert_allclose(row[50:], 0, atol=1e-3)

    def test_several_samples_are_caught_together(self) -> None:
        both = RangeArea((self.lab(0.55, 0.35, 0.3), self.lab(0.5, 0.5, 0.5)), tolerance=8)
        row = drawn(area(both))[80]
        np.testing.assert_allclose(row[[25, 75, 130]], [1, 0, 1], atol=1e-3)

    def test_limits_of_light_and_saturation(self) -> None:
        """L* of the stripes is about 42, 69 and 53; only the grey one has no saturation."""
        bright = drawn(area(RangeArea(light=(60, 100))))[80]
        np.testing.assert_allclose(bright[[25, 75, 130]], [0, 1, 0], atol=1e-3)
        grey = drawn(area(RangeArea(saturation=(0, 10))))[80]
        np.testing.assert_allclose(grey[[25, 75, 130]], [0, 0, 1], atol=1e-3)

    def test_softness_is_the_part_of_the_tolerance_over_which_it_fades(self) -> None:
        """Colours off by 75, 100 and 125 per cent of the tolerance at softness 50."""
        lab = np.array([[[50, x, 0] for x in (0.0, 7.5, 10.0, 12.5, 20.0)]] * 2, np.float32)
        got = in_range(lab, RangeArea(((50, 0, 0),), tolerance=10, softness=50))[0]
        np.testing.assert_allclose(got, [1, 1, 0.5, 0, 0], atol=1e-4)


class Others(unittest.TestCase):
    def test_gradients(self) -> None:
        row = drawn(area(GradientArea((20, 80), (120, 80))))[80]
        np.testing.assert_allclose(row[[5, 69, 125]], [1, 0.507, 0], atol=0.01)
        self.assertTrue((np.diff(row) <= 0).all())
        rings = drawn(area(GradientArea((80, 80), (120, 80), round=True)))
        self.assertAlmostEqual(float(rings[80, 100]), float(rings[100, 80]), delta=1e-3)
        self.assertEqual(float(rings[5, 5]), 0)

    def test_zones_of_everyone_and_of_one_person(self) -> None:
        cheeks = drawn(area(ZoneArea("skin")), area(LOWER, "cross"))
        self.assertEqual(float(cheeks[120, 40]), 1)
        self.assertEqual(float(cheeks[40, 40]), 0)
        self.assertEqual(float(cheeks[120, 120]), 0)
        self.assertEqual(float(drawn(area(ZoneArea("skin", 1))).max()), 0)

    def test_where_no_face_is_known_a_zone_covers_nothing(self) -> None:
        cover = Masks(pyramid()).draw(Mask((area(ZoneArea("skin")),)), WHOLE, 0)
        assert cover is not None
        self.assertEqual(float(cover.max()), 0)


class Strokes(unittest.TestCase):
    def test_kept_tiles_give_what_painting_anew_gives(self) -> None:
        """Strokes added one by one, and then taken back, over the borders of tiles."""
        rng = np.random.default_rng(4)
        picture = Pyramid(Picture(rng.integers(0, 255, (400, 700, 3), dtype=np.uint8)))
        strokes = tuple(
            MaskStroke(
                tuple((float(x), float(y)) for x, y in rng.uniform(0, 500, (3, 2))),
                float(rng.uniform(5, 120)), 60.0, float(rng.uniform(5, 100)), bool(n % 3),
                40.0 * (n % 2),
            )
            for n in range(8)
        )  # fmt: skip
        kept = Masks(picture)
        for rect in (Rect(0, 0, 700, 400), Rect(230, 100, 300, 333)):
            for count in (1, 2, 3, 4, 5, 6, 7, 8, 5, 2):
                mask = Mask(strokes=strokes[:count])
                got, want = kept.draw(mask, rect, 0), Masks(picture).draw(mask, rect, 0)
                assert got is not None
                assert want is not None
                np.testing.assert_allclose(got, want, atol=1e-6)

    def test_an_edge_aware_stroke_keeps_to_its_colour(self) -> None:
        strict = MaskStroke(((30.0, 80.0),), 60.0, 0.0, 100.0, True, 90.0)
        mask = Mask((area(SQUARE, "cross"),), grow_px=-100, strokes=(strict,))
        cover = Masks(pyramid()).draw(mask, WHOLE, 0)
        assert cover is not None
        self.assertGreater(float(cover[80, 5:45].min()), 0.99)
        self.assertLess(float(cover[80, 55:].max()), 0.01)


class InARenderer(unittest.TestCase):
    def _edit(self, mask: Mask, strength: float = 100.0) -> Edit:
        one = Pass("p", "light", settings={"exposure_ev": 1.0}, mask=mask, strength=strength)
        return Edit((one,))

    def test_zones_that_become_known_are_rendered(self) -> None:
        found: list[LeftZone | None] = [None]
        renderer = Renderer(pyramid(), zones=lambda edit: found[0])
        edit = self._edit(Mask((area(ZoneArea("skin")),)))
        raw = renderer.render(Edit(), WHOLE)
        np.testing.assert_array_equal(renderer.render(edit, WHOLE), raw)
        found[0] = LeftZone()
        got = renderer.render(edit, WHOLE)
        np.testing.assert_array_equal(got[:, 80:], raw[:, 80:])
        self.assertTrue((got[:, :50] > raw[:, :50]).all())

    def test_no_strength_or_everything_off_is_the_original_to_the_bit(self) -> None:
        renderer = Renderer(pyramid())
        raw = renderer.render(Edit(), WHOLE)
        (one,) = self._edit(Mask()).passes
        off, staged = replace(one, enabled=False), replace(one, stage_on=False)
        for edit in (
            self._edit(Mask(), 0.0),
            self._edit(Mask(invert=True)),
            Edit((off, replace(staged, id="q"), replace(one, id="r", strength=0.0))),
        ):
            np.testing.assert_array_equal(renderer.render(edit, WHOLE), raw)

    def test_a_change_inside_of_an_outline_is_painted_there_only(self) -> None:
        mask = Mask((area(OutlineArea(SQUARE.points, 8.0)),), grow_px=5)
        dirty = changed_region(self._edit(mask), self._edit(mask, 50.0), WHOLE)
        self.assertLess(dirty.width, 120)
        renderer = Renderer(pyramid())
        a, b = (renderer.render(self._edit(mask, s), WHOLE) for s in (100.0, 50.0))
        ys, xs = np.nonzero((a != b).any(-1))
        self.assertTrue(dirty.x0 <= xs.min() and xs.max() < dirty.x1)
        self.assertTrue(dirty.y0 <= ys.min() and ys.max() < dirty.y1)

"""The pieces that the analysis is made of, each on something drawn with a known answer."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from retouch.colour.lab import lab_of_pixels as lab
from retouch.face import landmarks as lm
from retouch.face.classes import classify
from retouch.face.find import Face
from retouch.face.frame import cut, distance, fill, ramp
from retouch.face.iris import Iris
from retouch.face.pose import pose
from retouch.face.scale import IRIS_MM, from_irises
from retouch.face.zones import Layer, combine
from retouch.geometry import Rect


def iris(x: float, radius: float, found: bool = True) -> Iris:
    return Iris(x, 100.0, radius, found)


class Scale(unittest.TestCase):
    def test_two_good_irises(self) -> None:
        """At 5 px/mm irises of 11.7 mm, pupils 63 mm apart (the published means)."""
        scale = from_irises(iris(100, 5 * IRIS_MM / 2), iris(100 + 5 * 63, 5 * IRIS_MM / 2))
        self.assertAlmostEqual(scale.px_per_mm, 5.0, places=2)
        self.assertAlmostEqual(scale.pupils_mm, 63, delta=0.2)
        self.assertTrue(scale.plausible)
        self.assertLess(scale.uncertainty, 0.05)

    def test_disagreeing_eyes_are_less_sure(self) -> None:
        same = from_irises(iris(100, 29), iris(415, 29))
        apart = from_irises(iris(100, 26), iris(415, 33))
        self.assertGreater(apart.uncertainty, 2 * same.uncertainty)

    def test_an_impossible_distance_is_told(self) -> None:
        self.assertFalse(from_irises(iris(100, 29), iris(100 + 5 * 110, 29)).plausible)

    def test_a_turned_head(self) -> None:
        """Turned by 30 degrees the pupils look nearer by the cosine; the irises hardly do."""
        near = 5 * 63 * np.cos(np.radians(30))
        scale = from_irises(iris(100, 29.25), iris(100 + near, 29.25), yaw=30)
        self.assertAlmostEqual(scale.px_per_mm, 5.0, places=2)

    def test_guessed_irises_leave_it_to_the_pupils(self) -> None:
        scale = from_irises(iris(100, 20, False), iris(415, 20, False))
        self.assertEqual(scale.source, "pupils")
        self.assertGreater(scale.uncertainty, 0.05)


class Pose(unittest.TestCase):
    def head(self) -> np.ndarray:
        points = np.zeros((478, 3), np.float32)
        points[lm.CORNER_R], points[lm.CORNER_L] = (-40, 0, 0), (40, 0, 0)
        points[lm.SIDE_R], points[lm.SIDE_L] = (-70, 20, 30), (70, 20, 30)
        points[lm.TOP], points[lm.CHIN] = (0, -80, 0), (0, 100, 0)
        return points

    def test_each_angle(self) -> None:
        straight = pose(self.head())
        self.assertAlmostEqual(straight.yaw, 0, places=4)
        self.assertAlmostEqual(straight.roll, 0, places=4)
        for degrees in (-40, -10, 25, 60):
            a = np.radians(degrees)
            c, s = np.cos(a), np.sin(a)
            rolled = self.head() @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]], np.float32)
            self.assertAlmostEqual(pose(rolled).roll, degrees, places=3)
            turned = self.head() @ np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]], np.float32)
            if abs(degrees) < 50:
                self.assertAlmostEqual(pose(turned).yaw, degrees, places=3)


class Frames(unittest.TestCase):
    def test_a_filled_outline_has_its_area(self) -> None:
        outline = np.array([(10.25, 10.5), (60.75, 12), (55, 70.25), (8, 66)], np.float32)
        area = cv2.contourArea(outline)
        self.assertAlmostEqual(float(fill((90, 90), outline).sum()), area, delta=0.03 * area)

    def test_signed_distance(self) -> None:
        mask = np.zeros((50, 50), np.float32)
        mask[10:40, 10:40] = 1
        away = distance(mask)
        self.assertAlmostEqual(float(away[25, 25]), 15, delta=1)
        self.assertAlmostEqual(float(away[25, 2]), -8, delta=1)

    def test_a_ramp_is_half_at_nothing(self) -> None:
        values = np.array([-9.0, -2.0, 0.0, 2.0, 9.0], np.float32)
        np.testing.assert_allclose(ramp(values, 2), [0, 0, 0.5, 1, 1], atol=1e-6)

    def test_points_follow_the_pixels(self) -> None:
        points = np.zeros((478, 3), np.float32)
        points[5, :2] = (330, 250)
        eye = Iris(0, 0, 5, False)
        face = Face(points, 1, pose(Pose().head()), eye, eye, from_irises(iris(0, 9), iris(60, 9)))
        picture = np.zeros((400, 600, 3), np.uint8)
        picture[246:254, 326:334] = 255
        frame = cut(picture, face, Rect(100, 50, 500, 350), 0.5)
        self.assertEqual(frame.shape, (150, 200))
        x, y = frame.points[5]
        self.assertEqual((x, y), (115, 100))
        self.assertGreater(frame.pixels[int(y), int(x), 0], 200)


class Classes(unittest.TestCase):
    def test_colours_are_learned_and_edges_followed(self) -> None:
        """Told only roughly where two materials lie, the true border is found."""
        rng = np.random.default_rng(2)
        truth = np.zeros((120, 160), bool)
        cv2_mask = truth.astype(np.uint8)
        cv2.circle(cv2_mask, (80, 60), 40, 1, -1)
        truth = cv2_mask > 0
        picture = np.where(truth[..., None], (190, 140, 120), (120, 130, 150)).astype(np.float32)
        picture = np.clip(picture + rng.normal(0, 6, picture.shape), 0, 255).astype(np.uint8)
        ys, xs = np.mgrid[:120, :160]
        rough = ramp(34 - np.hypot(xs - 88, ys - 66), 25)
        found = classify(lab(picture), np.stack([1.02 - rough, rough + 0.02]), picture)
        np.testing.assert_allclose(found.sum(0), 1, atol=1e-4)
        ours = found[1] > 0.5
        self.assertGreater((ours & truth).sum() / (ours | truth).sum(), 0.97)


class Layers(unittest.TestCase):
    def test_any_shape_of_any_part(self) -> None:
        """Shapes that aren't a whole fraction of the rectangle: rounding must not go too far."""
        layer = Layer("chin", 0, Rect(0, 0, 1200, 1200), np.full((300, 300), 255, np.uint8))
        rng = np.random.default_rng(6)
        for _ in range(3000):
            w, h, rows, cols = (int(v) for v in rng.integers(5, 900, 4))
            rect = Rect(100, 100, 100 + w, 100 + h)
            shape = (min(rows, h), min(cols, w))
            got = combine([layer], ("chin",), rect, shape)
            self.assertEqual(got.shape, shape)
        self.assertEqual(float(got.min()), 1)

    def test_masks_lie_where_they_were(self) -> None:
        rng = np.random.default_rng(1)
        mask = cv2.GaussianBlur(rng.random((60, 80)).astype(np.float32), (0, 0), 4)
        mask = ((mask - mask.min()) / np.ptp(mask) * 255).astype(np.uint8)
        layers = [Layer("chin", 0, Rect(40, 30, 200, 150), mask)]
        whole = combine(layers, ("chin",), Rect(40, 30, 200, 150), (60, 80))
        np.testing.assert_allclose(whole, mask / 255, atol=1e-3)
        # Half of it, from within a larger rectangle at the same scale.
        part = combine(layers, ("chin",), Rect(0, 0, 120, 90), (45, 60))
        np.testing.assert_allclose(part[15:, 20:], mask[:30, :40] / 255, atol=0.02)
        self.assertEqual(part[:15].max(), 0)

    def test_people_apart(self) -> None:
        full = np.full((4, 4), 255, np.uint8)
        layers = [Layer("chin", n, Rect(8 * n, 0, 8 * n + 8, 8), full) for n in (0, 1)]
        rect, shape = Rect(0, 0, 16, 8), (8, 16)
        self.assertEqual(combine(layers, ("chin",), rect, shape)[4, 3], 1)
        one = combine(layers, ("chin",), rect, shape, face=1)
        self.assertEqual((one[4, 3], one[4, 12]), (0, 1))
        self.assertEqual(combine(layers, ("nose",), rect, shape).max(), 0)

"""Moves beside features, which are held; strokes pressed more or less along their way."""

import unittest

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.errors import EditError
from retouch.face import landmarks as lm
from retouch.picture import Pyramid, read
from retouch.render.shaping import shape_of
from retouch.shape.composed import Composed
from retouch.shape.nudge import Brush, begun, stroke
from retouch.work.bench import bench_for
from retouch.work.operations import AddTouch, ChangeTouch, NewTouch, perform


class Features(unittest.TestCase):
    def setUp(self) -> None:
        self.bench = bench_for(
            Pyramid(read(DEMO / "portraits" / "eli.jpg")), understand("eli").analysis
        )
        assert self.bench.analysis is not None
        self.face = self.bench.analysis.faces[0]
        self.mm = self.face.scale.px_per_mm
        corner = self.face.points[61, :2]
        self.lips = self.face.points[list(lm.LIPS_OUT), :2].astype(np.float64)
        # Beside the right corner of the mouth.
        self.start = (float(corner[0] - 9 * self.mm), float(corner[1]))

    def nudged(self, path: list[tuple[float, float]], **values: float | bool) -> Edit:
        own = {"act": "push", "radius_px": 20 * self.mm, **values}
        new = NewTouch(tuple(path), values=own)  # type: ignore[arg-type]
        return perform(Edit(), AddTouch("nudge", new), self.bench).edit

    def moved(self, edit: Edit, places: np.ndarray) -> np.ndarray:
        shape = shape_of(edit)
        return np.hypot(*(shape.forth(places) - places).T)

    def beside(self) -> list[tuple[float, float]]:
        x, y = self.start
        return [(x, y), (x - 2 * self.mm, y), (x - 4 * self.mm, y)]

    def test_lips_beside_a_stroke_stay_in_their_place(self) -> None:
        edit = self.nudged(self.beside())
        self.assertEqual(float(self.moved(edit, self.lips).max()), 0.0)
        middle = np.array([self.start]) - (4 * self.mm, 0)
        self.assertGreater(float(self.moved(edit, middle)[0]), 0.3 * self.mm)

    def test_let_go_of_they_go_along(self) -> None:
        edit = self.nudged(self.beside(), hold_features=False)
        self.assertGreater(float(self.moved(edit, self.lips).max()), 0.3 * self.mm)
        touch = edit.passes[-1].touches[-1]
        again = perform(edit, ChangeTouch(touch.id, values={"hold_features": True}), self.bench)
        self.assertEqual(float(self.moved(again.edit, self.lips).max()), 0.0)

    def test_what_a_stroke_goes_over_is_what_it_moves(self) -> None:
        x, y = self.start
        edit = self.nudged([(x, y), (x + 12 * self.mm, y)])
        self.assertGreater(float(self.moved(edit, self.lips).max()), 0.3 * self.mm)
        # The eyes are far away; the nose is near, and held.
        nose = self.face.points[[98, 327, 2], :2].astype(np.float64)
        self.assertEqual(float(self.moved(edit, nose).max()), 0.0)

    def test_an_outline_around_the_mouth_takes_it_along(self) -> None:
        grown = self.lips.mean(0) + 1.4 * (self.lips - self.lips.mean(0))
        line = cv2.convexHull(grown.astype(np.float32))[:, 0]
        values = {"down_px": 2 * self.mm, "soft_px": 20 * self.mm}
        new = NewTouch(tuple((float(x), float(y)) for x, y in line), values=values)
        edit = perform(Edit(), AddTouch("part", new), self.bench).edit
        self.assertGreater(float(self.moved(edit, self.lips).min()), 1.5 * self.mm)
        nose = self.face.points[[1, 2, 98, 327], :2].astype(np.float64)
        self.assertEqual(float(self.moved(edit, nose).max()), 0.0)


class Pressure(unittest.TestCase):
    BRUSH = Brush(40, 0.7, 1.0)

    def way(self, pressure: list[float], at: float) -> float:
        line = np.array([(100.0, 100.0), (110.0, 100.0), (120.0, 100.0)])
        field = stroke("push", line, self.BRUSH, Composed(), np.array(pressure))
        assert field is not None
        return float((field.forth(np.array([[at, 100.0]])) - (at, 100.0))[0, 0])

    def test_pressed_half_it_goes_half_as_far(self) -> None:
        self.assertAlmostEqual(
            self.way([0.5] * 3, 100.0), 0.5 * self.way([1.0] * 3, 100.0), delta=0.5
        )

    def test_pressed_more_at_its_end_more_goes_there(self) -> None:
        rising, falling = [0.0, 0.5, 1.0], [1.0, 0.5, 0.0]
        self.assertGreater(self.way(rising, 128.0), 1.3 * self.way(falling, 128.0))

    def test_a_stroke_begun_keeps_its_pressure(self) -> None:
        rows = np.array([(0.0, 0.0, 0.2), (10.0, 0.0, 0.8)])
        self.assertTrue(np.allclose(begun(rows, 0.5), [(0, 0, 0.2), (5, 0, 0.5)]))

    def test_a_number_for_each_place_or_none(self) -> None:
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "eli.jpg")), None)
        new = NewTouch(((10.0, 10.0), (20.0, 10.0)), pressure=(0.5,))
        with self.assertRaisesRegex(EditError, "a number for each point"):
            perform(Edit(), AddTouch("nudge", new), bench)

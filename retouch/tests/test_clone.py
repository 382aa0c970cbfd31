"""Clone: what is copied, how opacity and flow add up, and where it may take from."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.copying import clone, coverage
from retouch.memory import Memory
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer

SIZE = 200
WHOLE = Rect(0, 0, SIZE, SIZE)


def halves() -> np.ndarray:
    """Dark on the left, bright on the right, each of one value."""
    image = np.full((SIZE, SIZE, 3), 0.2, np.float32)
    image[:, SIZE // 2 :] = 0.8
    return image


def rendered(image: np.ndarray, *touches: Touch, bits: int = 16) -> np.ndarray:
    picture = Picture(to_integers(image, bits))
    one = Pass("p", "clone", touches=touches)
    edit = loads(dumps(Edit((one,))))
    return Renderer(Pyramid(picture), Memory(1 << 26)).render(edit, WHOLE)


def touch(
    name: str, *path: tuple[float, float], source: tuple[int, int] = (100, 0), **values: float
) -> Touch:
    return Touch(name, path, {"radius_px": 20.0, "softness": 0.0, **values}, source)


class Copying(unittest.TestCase):
    def test_a_full_copy_is_exact(self) -> None:
        rng = np.random.default_rng(3)
        image = rng.random((SIZE, SIZE, 3)).astype(np.float32)
        result = rendered(image, touch("a", (60, 100), source=(71, -30)))
        stored = to_integers(image, 16) / np.float32(65535)
        np.testing.assert_allclose(result[90:110, 50:70], stored[60:80, 121:141], atol=1e-6)
        np.testing.assert_array_equal(result[:, 100:], stored[:, 100:].astype(np.float32))

    def test_opacity_over_several_strokes(self) -> None:
        """n strokes of opacity a leave (1 - a)^n of what was there."""
        for opacity in (20.0, 50.0):
            for n in (1, 2, 5):
                touches = [touch(f"t{k}", (50, 100), opacity=opacity) for k in range(n)]
                value = rendered(halves(), *touches)[100, 50, 0]
                share = 1 - (1 - opacity / 100) ** n
                with self.subTest(f"{n} x {opacity:g} %"):
                    self.assertAlmostEqual(float(value), 0.2 + 0.6 * share, places=4)

    def test_flow_builds_up_as_far_as_opacity_allows(self) -> None:
        path = tuple((30.0 + k, 100.0) for k in range(41))
        once = touch("a", (50, 100), flow=10.0, opacity=60.0)
        stroke = touch("b", *path, flow=10.0, opacity=60.0)
        back = touch("c", *path, *path[::-1], *path, *path[::-1], flow=60.0, opacity=60.0)
        values = [float(rendered(halves(), t)[100, 50, 0]) for t in (once, stroke, back)]
        self.assertAlmostEqual(values[0], 0.2 + 0.6 * 0.06, places=4)
        self.assertGreater(values[1], values[0] + 0.1)
        self.assertAlmostEqual(values[2], 0.2 + 0.6 * 0.6, places=3)

    def test_full_flow_covers_as_the_brush_does(self) -> None:
        brush = Footprint(((40, 40), (90, 70)), 15)
        xs, ys = np.arange(SIZE) + 0.5, np.arange(SIZE)[:, None] + 0.5
        away = brush.distance(xs[None].astype(np.float32), ys.astype(np.float32))
        np.testing.assert_allclose(
            coverage(brush, WHOLE, 0.4, 1.0), brush.coverage(away, 0.4), atol=1e-6
        )

    def test_later_strokes_see_earlier_ones(self) -> None:
        first = touch("a", (50, 100))
        second = touch("b", (50, 40), source=(0, 60), radius_px=10.0)
        self.assertAlmostEqual(float(rendered(halves(), first, second)[40, 50, 0]), 0.8, places=4)
        self.assertAlmostEqual(float(rendered(halves(), second)[40, 50, 0]), 0.2, places=4)

    def test_nothing_comes_from_outside_the_picture(self) -> None:
        image = halves()

        def read(rect: Rect) -> np.ndarray:
            assert rect.clip(WHOLE) == rect
            return image[rect.y0 : rect.y1, rect.x0 : rect.x1]

        brush = Footprint(((100, 100),), 20)
        change = clone(read, brush, (90, 0), WHOLE)
        left, right = change[:, :18], change[:, 24:]
        self.assertGreater(np.abs(left).max(), 0.5)
        self.assertEqual(np.abs(right).max(), 0)
        self.assertEqual(np.abs(clone(read, brush, (5000, 0), WHOLE)).max(), 0)

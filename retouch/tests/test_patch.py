"""Patches: outlined places, blended or copied; and the outline itself."""

from __future__ import annotations

import math
import unittest

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.errors import EditError
from retouch.forms.form import dumps, from_data, loads
from retouch.geometry import Rect
from retouch.heal import outline
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, propose_source
from retouch.tests.scenes import skin, spot

SQUARE = ((60.0, 60.0), (100.0, 60.0), (100.0, 100.0), (60.0, 100.0))


def circle(x: float, y: float, r: float, n: int = 72) -> tuple[tuple[float, float], ...]:
    return tuple(
        (x + r * math.cos(2 * math.pi * i / n), y + r * math.sin(2 * math.pi * i / n))
        for i in range(n)
    )


class Outlines(unittest.TestCase):
    def test_a_round_outline_is_like_a_brush(self) -> None:
        place = outline(circle(80, 70, 20))
        self.assertAlmostEqual(place.radius, 20, delta=0.8)
        x, y = np.arange(160, dtype=np.float32)[None] + 0.5, np.arange(140)[:, None] + 0.5
        away = np.hypot(x - 80, y - 70)
        np.testing.assert_allclose(place.distance(x, y) - place.radius, away - 20, atol=0.1)
        self.assertEqual(place.nodes(20, 48).shape, (1, 2))
        np.testing.assert_allclose(place.nodes(20, 48)[0], (80, 70), atol=1)

    def test_a_long_outline_is_judged_in_parts(self) -> None:
        band = ((10.0, 10.0), (210.0, 10.0), (210.0, 40.0), (10.0, 40.0))
        nodes = outline(band).nodes(15, 48)
        self.assertGreater(len(nodes), 6)
        self.assertTrue(((nodes[:, 0] > 10) & (nodes[:, 0] < 210)).all())

    def test_cover_is_full_inside_and_nothing_outside(self) -> None:
        place = outline(SQUARE)
        rect = Rect(50, 50, 110, 110)
        cover = place.cover(rect)
        self.assertEqual(cover.shape, (60, 60))
        np.testing.assert_array_equal(cover[12:48, 12:48], 1)
        np.testing.assert_array_equal(cover[:9], 0)
        self.assertAlmostEqual(float(cover.sum()), 1600, delta=25)

    def test_a_soft_edge_lies_inside(self) -> None:
        soft = outline(SQUARE, 10).cover(Rect(50, 50, 110, 110))
        self.assertEqual(soft[9, 30], 0)
        self.assertLess(soft[12, 30], 0.3)
        self.assertEqual(soft[30, 30], 1)
        rising = soft[10:22, 30]
        self.assertTrue((np.diff(rising) >= 0).all())

    def test_a_hole_in_a_c_shape_is_outside(self) -> None:
        c = (
            (0.0, 0.0), (60.0, 0.0), (60.0, 20.0), (20.0, 20.0), (20.0, 40.0), (60.0, 40.0),
            (60.0, 60.0), (0.0, 60.0),
        )  # fmt: skip
        place = outline(c)
        inside = place.distance(np.float32([[40.5]]), np.float32([[30.5]]))
        self.assertGreater(float(inside[0, 0]), place.radius)


class Patches(unittest.TestCase):
    def render(self, image: np.ndarray, *touches: Touch) -> np.ndarray:
        picture = Picture(to_integers(image, 16))
        edit = loads(dumps(Edit((Pass("p", "patch", touches=touches),))))
        return Renderer(Pyramid(picture)).render(edit, picture.bounds)

    def test_copied_exactly(self) -> None:
        image = np.random.default_rng(1).random((160, 260, 3)).astype(np.float32)
        values = {"way": "copy", "feather_px": 0.0}
        out = self.render(image, Touch("a", SQUARE, values, (90, 13)))
        stored = (to_integers(image, 16) / 65535).astype(np.float32)
        np.testing.assert_allclose(out[62:98, 62:98], stored[75:111, 152:188], atol=1e-6)
        np.testing.assert_allclose(out[:58], stored[:58], atol=1e-6)

    def test_blended_takes_tone_from_around(self) -> None:
        image = skin(180, 300, grain=0.01, slope=0.35, seed=8)
        clean = image.copy()
        spot(image, 80, 80, 12)
        out = self.render(image, Touch("a", circle(80, 80, 22), {"feather_px": 4.0}, (120, 10)))
        inner = np.s_[70:90, 70:90]
        np.testing.assert_allclose(out[inner].mean((0, 1)), clean[inner].mean((0, 1)), atol=0.012)
        # The source is darker by far; a copy would show it.
        copied = self.render(image, Touch("a", circle(80, 80, 22), {"way": "copy"}, (120, 10)))
        self.assertGreater(
            np.abs(copied[inner].mean((0, 1)) - clean[inner].mean((0, 1))).max(), 0.05
        )

    def test_a_source_is_proposed(self) -> None:
        image = skin(240, 320, seed=5)
        spot(image, 120, 120, 10)
        picture = Picture(to_integers(image, 16))
        edit = Edit((Pass("p", "patch"),))
        touch = Touch(
            "a", circle(120, 120, 16), {"way": "blend", "feather_px": 2.0, "opacity": 100.0}
        )
        found = propose_source(Renderer(Pyramid(picture)), edit, "p", touch)
        self.assertTrue(found)
        self.assertGreater(math.hypot(*found[0]), 30)

    def test_an_outline_needs_three_points(self) -> None:
        data = {
            "version": 1,
            "passes": [
                {"id": "p", "kind": "patch", "touches": [{"id": "a", "path": [[1, 1], [2, 2]]}]}
            ],
        }
        with self.assertRaisesRegex(EditError, "needs 3 points"):
            from_data(data)

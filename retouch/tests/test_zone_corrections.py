"""Corrections of zones: brush, colour, inverted, softened, and their order."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.edit.model import Touch
from retouch.face.corrected import zone_mask
from retouch.geometry import Rect

WIDTH, HEIGHT = 400, 300
WHOLE = Rect(0, 0, WIDTH, HEIGHT)
DEFAULTS = {
    "zone": "hair", "add": True, "way": "brush", "radius_px": 30.0, "softness": 0.0, "edges": 0.0,
    "tolerance": 12.0, "feather_mm": 1.0,
}  # fmt: skip


def touch(*path: tuple[float, float], **values: object) -> Touch:
    return Touch("t", path, {**DEFAULTS, **values})  # type: ignore[dict-item]


def read(rect: Rect, shape: tuple[int, int]) -> np.ndarray:
    """Left half brown, right half blue."""
    xs = np.linspace(rect.x0, rect.x1, shape[1], endpoint=False)
    left = np.broadcast_to((xs < WIDTH / 2)[None, :, None], (*shape, 1))
    return np.where(left, (0.45, 0.3, 0.2), (0.2, 0.3, 0.6)).astype(np.float32)


def mask(
    *touches: Touch, shape: tuple[int, int] = (HEIGHT, WIDTH), name: str = "hair"
) -> np.ndarray:
    return zone_mask(None, name, WHOLE, shape, touches, read)


class Corrections(unittest.TestCase):
    def test_a_brush_adds_and_takes(self) -> None:
        one = mask(touch((100, 150)))
        self.assertAlmostEqual(float(one.sum()), np.pi * 30**2, delta=20)
        self.assertEqual(one[150, 100], 1)
        both = mask(touch((100, 150)), touch((100, 150), add=False, radius_px=10.0))
        self.assertEqual((both[150, 100], both[150, 120]), (0, 1))

    def test_the_order_counts(self) -> None:
        back = mask(touch((100, 150), add=False, radius_px=10.0), touch((100, 150)))
        self.assertEqual(back[150, 100], 1)

    def test_a_strict_brush_stays_within_edges(self) -> None:
        lenient = mask(touch((195, 150)))
        strict = mask(touch((195, 150), edges=100.0))
        self.assertEqual(lenient[150, 215], 1)
        self.assertEqual(strict[150, 190], 1)
        self.assertEqual(strict[150, 215], 0)

    def test_colours_and_tolerance(self) -> None:
        brown = mask(touch((50, 50), way="colour"))
        self.assertEqual((brown[:, :190].min(), brown[:, 210:].max()), (1, 0))
        both = mask(touch((50, 50), way="colour"), touch((350, 50), way="colour"))
        self.assertEqual(both.min(), 1)
        wider = mask(touch((50, 50), way="colour", tolerance=60.0))
        self.assertGreater(wider[150, 350], 0)

    def test_invert(self) -> None:
        one, other = mask(touch((100, 150))), mask(touch((100, 150)), touch((0, 0), way="invert"))
        np.testing.assert_array_equal(other, 1 - one)

    def test_feather_is_as_wide_as_it_says(self) -> None:
        """The edge rises from a tenth to nine tenths over the feather (a Gaussian's 2.56 sigma)."""
        hard = touch((200, 150), (200, 2000), radius_px=150.0)
        soft = zone_mask(
            None, "hair", WHOLE, (HEIGHT, WIDTH),
            (hard, touch((0, 0), way="feather", feather_mm=6.0)), read, px_per_mm=5.0,
        )  # fmt: skip
        row = soft[250, :200]
        width = int((row > 0.9).argmax()) - int((row > 0.1).argmax())
        self.assertAlmostEqual(width, 30, delta=2)

    def test_other_zones_are_left_alone(self) -> None:
        self.assertEqual(mask(touch((100, 150), zone="teeth")).max(), 0)
        # A correction of a part shows in what it is a part of.
        self.assertEqual(mask(touch((100, 150), zone="chin"), name="skin").max(), 1)

    def test_levels_agree(self) -> None:
        """Half size shows what full size shows, averaged."""
        touches = (touch((120, 140), (260, 150), softness=60.0), touch((200, 150), add=False,
                   radius_px=12.0, softness=40.0))  # fmt: skip
        full = mask(*touches)
        half = mask(*touches, shape=(HEIGHT // 2, WIDTH // 2))
        average = full.reshape(HEIGHT // 2, 2, WIDTH // 2, 2).mean((1, 3))
        self.assertLess(np.abs(average - half).mean(), 0.005)

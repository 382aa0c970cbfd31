"""Heals and fills keep to the zone they lie in: what they may take from, and whose tone they get."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any, cast

import cv2
import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Touch
from retouch.face import Analysis
from retouch.geometry import Rect
from retouch.guidance import avoidance, keep_to_zone
from retouch.guidance.groups import GROUPS, beside, group_of_zone
from retouch.passes import registry
from retouch.passes.brush import footprint_of
from retouch.picture import Picture, Pyramid
from retouch.tests.scenes import skin

BOUNDS = Rect(0, 0, 200, 160)
# A mouth in skin: teeth between two lips.
ROWS = {"lip_upper": (60, 74), "teeth": (74, 90), "lip_lower": (90, 106)}


class Mouth:
    """A stand-in of an analysis: bands of lip, teeth and lip across the middle of a face."""

    faces = (SimpleNamespace(),)
    marks: tuple[Any, ...] = ((),)
    width, height = BOUNDS.width, BOUNDS.height
    overview = np.ones((16, 20), np.float32)

    def zone_at(self, x: float, y: float) -> tuple[int, str]:
        found = [z for z, (a, b) in ROWS.items() if a <= y < b and 50 <= x < 150]
        return 0, found[0] if found else "chin"

    def mask(
        self, names: tuple[str, ...], rect: Rect, shape: tuple[int, int], face: int | None = None
    ) -> np.ndarray:
        ys = rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
        xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        mouth = ((xs >= 50) & (xs < 150))[None, :]
        out = np.zeros(shape, bool)
        for zone, (a, b) in ROWS.items():
            if zone in names:
                out |= ((ys >= a) & (ys < b))[:, None] & mouth
        if "chin" in names:
            out |= ~(((ys >= 60) & (ys < 106))[:, None] & mouth)
        return out.astype(np.float32)


def analysis() -> Analysis:
    return cast(Analysis, Mouth())


def heal_at(x: float, y: float, radius: float = 6.0) -> Touch:
    return Touch("t", ((x, y),), {"radius_px": radius, "softness": 20.0, "opacity": 100.0})


def kept(touch: Touch) -> Touch:
    return keep_to_zone(analysis(), touch, footprint_of(touch), BOUNDS)


def covered(touch: Touch) -> np.ndarray:
    """Pixels inside of the spared outlines."""
    out = np.zeros((BOUNDS.height, BOUNDS.width), np.uint8)
    for corners in touch.spare:
        cv2.fillPoly(out, [np.round(np.asarray(corners) - 0.5).astype(np.int32)], 1)
    return out > 0


class Groups(unittest.TestCase):
    def test_every_zone_of_a_group_is_found_and_nothing_is_beside_itself(self) -> None:
        for group, zones in GROUPS.items():
            for zone in zones:
                self.assertEqual(group_of_zone(zone), group)
            self.assertFalse(set(zones) & set(beside(group)))
        self.assertEqual(group_of_zone("a zone of its own"), "skin")


class Heals(unittest.TestCase):
    def test_a_tooth_asks_neither_lips_nor_skin(self) -> None:
        spared = covered(kept(heal_at(100, 82)))
        self.assertGreater(spared[70:73, 95:105].mean(), 0.9)
        self.assertGreater(spared[93:96, 95:105].mean(), 0.9)
        self.assertEqual(spared[76:88, 90:110].sum(), 0)

    def test_skin_beside_a_lip_doesnt_ask_it(self) -> None:
        spared = covered(kept(heal_at(100, 50)))
        self.assertGreater(spared[62:64, 95:105].mean(), 0.9)
        self.assertEqual(spared[:58].sum(), 0)

    def test_skin_alone_is_left_as_it_is(self) -> None:
        touch = heal_at(25, 25)
        self.assertIs(kept(touch), touch)
        outside = heal_at(900, 900)
        self.assertIs(kept(outside), outside)

    def test_a_place_half_and_half_keeps_all_its_ring(self) -> None:
        """On the rim of two zones neither may be left out."""
        touch = heal_at(100, 74, 4)
        prepared = kept(touch)
        ring = covered(prepared)[66:82, 96:104]
        self.assertLess(ring.mean(), 0.7)

    def test_sources_for_a_tooth_lie_on_teeth(self) -> None:
        touch = heal_at(100, 82)
        gone = lambda marks: np.zeros(len(marks), bool)  # noqa: E731
        avoid = avoidance(analysis(), touch, footprint_of(touch), gone)(BOUNDS)
        self.assertEqual(avoid[76:88, 60:140].max(), 0)
        self.assertEqual(avoid[62:72, 60:140].min(), 1)
        self.assertEqual(avoid[:50].min(), 1)


class Fills(unittest.TestCase):
    def fill_at(self, x: float, y: float, radius: float) -> Touch:
        touch = Touch("t", ((x, y),), {
            "shape": "brush", "radius_px": radius, "seed": 0.0, "opacity": 100.0,
            "source_turn": 0.0, "source_size": 100.0, "source_mirror": False,
        })  # fmt: skip
        image = skin(BOUNDS.height, BOUNDS.width)
        way = registry.kind("fill").touches
        assert way is not None
        assert way.prepare is not None
        return way.prepare(analysis(), touch, Pyramid(Picture(to_integers(image, 8))))

    def test_a_tooth_is_filled_from_teeth_though_lips_are_near(self) -> None:
        spared = covered(self.fill_at(100, 82, 5))
        self.assertGreater(spared[64:70, 60:140].mean(), 0.9)
        self.assertEqual(spared[77:87, 60:140].sum(), 0)

    def test_a_hole_over_both_draws_from_both(self) -> None:
        spared = covered(self.fill_at(100, 75, 7))
        self.assertLess(spared[62:72, 60:90].mean(), 0.1)
        self.assertLess(spared[77:87, 60:90].mean(), 0.1)

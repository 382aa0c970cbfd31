"""Outlines of zones for drawing: where the mask has them, without specks."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np

from retouch.face.zones import Layer
from retouch.geometry import Rect
from studio.portraits.services.faces import outlines_of


class Outlines(unittest.TestCase):
    def layer(self, *discs: tuple[int, int, int]) -> Layer:
        """Discs on a mask of 200 x 100 over 400 x 200 pixels of the original."""
        mask = np.zeros((100, 200), np.uint8)
        for x, y, r in discs:
            cv2.circle(mask, (x, y), r, 255, -1)
        return Layer("nose", 0, Rect(1000, 500, 1400, 700), mask)

    def test_a_disc_comes_out_where_it_is_and_as_large(self) -> None:
        (line,) = outlines_of(self.layer((60, 50, 30)), 4.0)
        points = np.asarray(line, np.float32)
        np.testing.assert_allclose(points.mean(0), (1000 + 2 * 60.5, 500 + 2 * 50.5), atol=6)
        area = cv2.contourArea(points)
        self.assertAlmostEqual(area / (math.pi * 60**2), 1.0, delta=0.08)
        # Simple enough to be sent with every analysis.
        self.assertLess(len(line), 40)

    def test_two_pieces_are_two_lines_and_specks_are_none(self) -> None:
        found = outlines_of(self.layer((40, 50, 20), (150, 50, 25), (100, 10, 2)), 4.0)
        self.assertEqual(len(found), 2)
        self.assertEqual(outlines_of(self.layer(), 4.0), [])

"""What the parser says, held against what must be: specks."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from retouch.face.parser import BEARD, CLASSES, CLOTHING, HAIR, SKIN, THING
from retouch.face.sense import without_specks

# Pixels per millimetre of the drawn maps.
UNIT = 2.0


class Specks(unittest.TestCase):
    def setUp(self) -> None:
        """A field of skin, hair above it, cloth below it."""
        self.classes = np.full((300, 300), SKIN, np.uint8)
        self.classes[:60] = HAIR
        self.classes[240:] = CLOTHING

    def cleaned(self) -> np.ndarray:
        chances = np.full((CLASSES, 300, 300), 0.02, np.float32)
        for k in range(CLASSES):
            chances[k][self.classes == k] = 1 - 0.02 * (CLASSES - 1)
        without_specks(chances, UNIT)
        np.testing.assert_allclose(chances.sum(0), 1, atol=1e-3)
        return chances.argmax(0)

    def disc(self, x: int, y: int, radius: int, kind: int) -> None:
        cv2.circle(self.classes, (x, y), radius, kind, -1)

    def test_round_specks_in_the_skin_are_skin(self) -> None:
        """6 mm of hair and of cloth across: a highlight or a mole."""
        self.disc(100, 150, 6, HAIR)
        self.disc(200, 150, 6, CLOTHING)
        found = self.cleaned()
        self.assertEqual((found[150, 100], found[150, 200]), (SKIN, SKIN))

    def test_what_hangs_together_stays(self) -> None:
        """A strand from the hair, a loose strand, a larger lock, the point of a collar."""
        cv2.line(self.classes, (50, 50), (90, 140), HAIR, 3)
        cv2.line(self.classes, (120, 100), (150, 140), HAIR, 3)
        self.disc(200, 130, 14, HAIR)
        cv2.fillPoly(self.classes, [np.array([[240, 241], [250, 225], [260, 241]])], CLOTHING)
        before = self.classes.copy()
        np.testing.assert_array_equal(self.cleaned(), before)

    def test_beard_and_things_worn_stay_however_small(self) -> None:
        self.disc(100, 150, 4, THING)
        self.disc(200, 150, 4, BEARD)
        self.disc(100, 158, 4, HAIR)
        before = self.classes.copy()
        np.testing.assert_array_equal(self.cleaned(), before)

    def test_skin_too_small_for_a_finger_is_none(self) -> None:
        """Buttons and prints: 12 mm across; a hand of 60 mm stays."""
        self.classes[:] = CLOTHING
        self.disc(60, 60, 12, SKIN)
        self.disc(200, 180, 60, SKIN)
        found = self.cleaned()
        self.assertNotEqual(found[60, 60], SKIN)
        self.assertEqual(found[180, 200], SKIN)

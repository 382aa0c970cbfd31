"""Round structuring elements beside scikit-image's, and what the field says of them."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from skimage.morphology import disk

from retouch.discs import disc


class Discs(unittest.TestCase):
    def test_they_cover_the_circle_that_a_reference_library_draws(self) -> None:
        for radius in (1, 2, 3, 5, 8, 13, 30):
            ours, theirs = disc(radius), disk(radius)
            with self.subTest(radius):
                self.assertEqual(ours.shape, theirs.shape)
                # No pixel that one has lies further than one from the other's.
                ring = np.ones((3, 3), np.uint8)
                self.assertTrue((ours <= cv2.dilate(theirs, ring)).all())
                self.assertTrue((theirs <= cv2.dilate(ours, ring)).all())

    def test_their_area_is_that_of_a_circle(self) -> None:
        for radius in (10, 20, 40):
            # Half a pixel wider than the radius, for the middle counts apart.
            self.assertAlmostEqual(
                disc(radius).sum() / (np.pi * (radius + 0.5) ** 2), 1, delta=0.04
            )

    def test_radii_are_whole_and_never_below_the_least(self) -> None:
        self.assertEqual(disc(0.2).shape, (3, 3))
        self.assertEqual(disc(0.2, least=0).tolist(), [[1]])
        self.assertEqual(disc(2.6).shape, disc(3.4).shape)

    def test_opening_takes_away_what_is_smaller_only(self) -> None:
        """An opening by a disc keeps what a disc fits into, to the pixel (Serra, 1982)."""
        image = np.zeros((90, 90), np.uint8)
        image[20:61, 20:61] |= disc(20)
        image[70:77, 5:85] = 1
        opened = cv2.morphologyEx(image, cv2.MORPH_OPEN, disc(6))
        self.assertTrue((opened <= image).all())
        self.assertEqual(int(opened[66:].sum()), 0)
        self.assertGreater(opened[20:61, 20:61].sum(), 0.97 * disc(20).sum())

"""What a mask lets through, taken apart into what is made by itself."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.geometry import Rect
from retouch.render.pieces import pieces


def share(h: int, w: int, *rects: Rect) -> np.ndarray:
    out = np.zeros((h, w, 1), np.float32)
    for r in rects:
        out[r.y0 : r.y1, r.x0 : r.x1] = 0.4
    return out


class Pieces(unittest.TestCase):
    def test_two_far_apart_are_two_and_near_each_other_one(self) -> None:
        left, right = Rect(10, 50, 60, 80), Rect(300, 40, 350, 75)
        found = pieces(share(200, 400, left, right), 10)
        self.assertEqual(len(found), 2)
        for one in (left, right):
            self.assertTrue(any(one.clip(f) == one for f in found))
        # Where a pass looks so far that it would do most of both twice.
        self.assertEqual(len(pieces(share(200, 400, left, right), 200)), 1)

    def test_everything_lies_in_one_of_them_and_they_never_meet(self) -> None:
        rng = np.random.default_rng(4)
        for _ in range(60):
            h, w = (int(n) for n in rng.integers(9, 300, 2))
            mask = share(h, w)
            for _ in range(rng.integers(0, 7)):
                y, x = int(rng.integers(0, h)), int(rng.integers(0, w))
                mask[y : y + int(rng.integers(1, 40)), x : x + int(rng.integers(1, 60))] = 1
            found = pieces(mask, int(rng.integers(0, 40)))
            times = np.zeros((h, w), int)
            for r in found:
                self.assertEqual(r.clip(Rect(0, 0, w, h)), r)
                times[r.y0 : r.y1, r.x0 : r.x1] += 1
            self.assertLessEqual(times.max(), 1)
            self.assertTrue((times[mask[..., 0] > 0] == 1).all())

    def test_nothing(self) -> None:
        self.assertEqual(pieces(share(20, 30), 5), [])

    def test_a_single_faint_pixel_is_found(self) -> None:
        mask = share(100, 120, Rect(5, 5, 20, 20))
        mask[90, 100] = 1e-6
        self.assertEqual(len(pieces(mask, 2)), 2)

    def test_freckles_are_not_taken_apart(self) -> None:
        mask = share(400, 400)
        mask[8:392:32, 8:392:32] = 1
        self.assertEqual(pieces(mask, 1), [Rect(8, 8, 361, 361)])

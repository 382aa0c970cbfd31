"""Repeats: copies of distinctive places are found, copies of plain skin aren't."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.heal.repeats import Copied, find_repeats
from retouch.tests.scenes import skin, spot

BOUNDS = Rect(0, 0, 320, 240)


def copied(image: np.ndarray, x: int, y: int, dx: int, dy: int, r: int = 18) -> np.ndarray:
    out = image.copy()
    ys, xs = np.mgrid[:240, :320] + 0.5
    inside = np.hypot(xs - x, ys - y) <= r
    moved = np.roll(image, (-dy, -dx), (0, 1))
    out[inside] = moved[inside]
    return out


class Repeats(unittest.TestCase):
    def find(self, image: np.ndarray, *touches: Copied) -> list[str]:
        def read(r: Rect) -> np.ndarray:
            assert r.clip(BOUNDS) == r
            return image[r.y0 : r.y1, r.x0 : r.x1]

        return [r.id for r in find_repeats(read, touches, BOUNDS)]

    def touch(self, name: str, x: float, y: float, source: tuple[int, int]) -> Copied:
        return Copied(name, Footprint(((x, y),), 18.0), source)

    def test_a_copied_mole_shows(self) -> None:
        image = spot(skin(seed=3, grain=0.015), 220, 120, 5, colour=(0.3, 0.2, 0.15))
        out = copied(image, 100, 110, 120, 10)
        self.assertEqual(self.find(out, self.touch("a", 100, 110, (120, 10))), ["a"])

    def test_copied_plain_skin_does_not(self) -> None:
        image = skin(seed=3, grain=0.015)
        out = copied(image, 100, 110, 120, 10)
        self.assertEqual(self.find(out, self.touch("a", 100, 110, (120, 10))), [])

    def test_what_was_changed_since_is_no_repeat(self) -> None:
        image = spot(skin(seed=3, grain=0.015), 220, 120, 5, colour=(0.3, 0.2, 0.15))
        self.assertEqual(self.find(image, self.touch("a", 100, 110, (120, 10))), [])

    def test_two_copies_of_a_place_that_is_gone_show_each_other(self) -> None:
        plain = skin(seed=3, grain=0.015)
        image = spot(plain.copy(), 220, 60, 5, colour=(0.3, 0.2, 0.15))
        out = copied(copied(image, 100, 110, 120, -50), 170, 180, 50, -120)
        out[20:100, 180:260] = plain[20:100, 180:260]
        touches = [self.touch("a", 100, 110, (120, -50)), self.touch("b", 170, 180, (50, -120))]
        self.assertEqual(self.find(out, *touches), ["b"])
        self.assertEqual(self.find(out, touches[0]), [])

    def test_the_most_alike_comes_first_and_borders_are_no_error(self) -> None:
        image = spot(skin(seed=3, grain=0.015), 220, 120, 5, colour=(0.3, 0.2, 0.15))
        out = copied(image, 100, 110, 120, 10)
        out = copied(out, 100, 180, 120, -60)
        noise = np.random.default_rng(0).normal(0, 0.02, out.shape).astype(np.float32)
        out[160:200, 80:120] += noise[160:200, 80:120]
        touches = [
            self.touch("noisy", 100, 180, (120, -60)),
            self.touch("exact", 100, 110, (120, 10)),
            self.touch("border", 5, 5, (-40, 0)),
            self.touch("outside", -90, 5, (40, 0)),
        ]
        self.assertEqual(self.find(out, *touches), ["exact", "noisy"])

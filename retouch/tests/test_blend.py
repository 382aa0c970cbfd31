"""Blend modes against a second, plain reading of the recommendation.

Source: W3C, *Compositing and Blending Level 1*, sections 10.1 (separable) and 10.2
(non-separable); the pseudocode there is followed here line by line, for one colour at a time.
"""

from __future__ import annotations

import math
import unittest

import numpy as np

from retouch.colour.blend import MODES, blend


def soft_light(cb, cs):
    if cs <= 0.5:
        return cb - (1 - 2 * cs) * cb * (1 - cb)
    d = ((16 * cb - 12) * cb + 4) * cb if cb <= 0.25 else math.sqrt(cb)
    return cb + (2 * cs - 1) * (d - cb)


SEPARABLE = {
    "normal": lambda cb, cs: cs,
    "multiply": lambda cb, cs: cb * cs,
    "screen": lambda cb, cs: 1 - (1 - cb) * (1 - cs),
    "darken": min,
    "lighten": max,
    "soft-light": soft_light,
}


def lum(c):
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def clip_color(c):
    l, n, x = lum(c), min(c), max(c)  # noqa: E741  (names of the recommendation)
    if n < 0:
        c = [l + (v - l) * l / (l - n) for v in c]
    if x > 1:
        c = [l + (v - l) * (1 - l) / (x - l) for v in c]
    return c


def set_lum(c, l):  # noqa: E741
    d = l - lum(c)
    return clip_color([v + d for v in c])


def sat(c):
    return max(c) - min(c)


def set_sat(c, s):
    order = sorted(range(3), key=lambda i: c[i])
    low, mid, high = order
    out = [0.0, 0.0, 0.0]
    if c[high] > c[low]:
        out[mid] = (c[mid] - c[low]) * s / (c[high] - c[low])
        out[high] = s
    return out


NON_SEPARABLE = {
    "hue": lambda cb, cs: set_lum(set_sat(cs, sat(cb)), lum(cb)),
    "saturation": lambda cb, cs: set_lum(set_sat(cb, sat(cs)), lum(cb)),
    "colour": lambda cb, cs: set_lum(cs, lum(cb)),
    "luminosity": lambda cb, cs: set_lum(cb, lum(cs)),
}


class Modes(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.below = rng.uniform(0, 1, (400, 3)).astype(np.float32)
        self.above = rng.uniform(0, 1, (400, 3)).astype(np.float32)
        corners = np.array(np.meshgrid([0, 1], [0, 1], [0, 1]), np.float32).T.reshape(-1, 3)
        self.below[:8], self.above[:8] = corners, corners[::-1]
        self.below[8:16], self.above[8:16] = 0.25, corners

    def test_every_mode_is_checked(self) -> None:
        self.assertEqual(set(MODES), set(SEPARABLE) | set(NON_SEPARABLE))

    def test_separable(self) -> None:
        for mode, plain in SEPARABLE.items():
            want = [
                [plain(float(b), float(s)) for b, s in zip(cb, cs, strict=True)]
                for cb, cs in zip(self.below, self.above, strict=True)
            ]
            with self.subTest(mode):
                np.testing.assert_allclose(blend(mode, self.below, self.above), want, atol=2e-6)

    def test_non_separable(self) -> None:
        for mode, plain in NON_SEPARABLE.items():
            want = [
                plain([float(v) for v in cb], [float(v) for v in cs])
                for cb, cs in zip(self.below, self.above, strict=True)
            ]
            with self.subTest(mode):
                np.testing.assert_allclose(blend(mode, self.below, self.above), want, atol=2e-5)

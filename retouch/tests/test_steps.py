"""The smooth step: its ends, its slopes, and the precision it keeps."""

import unittest

import numpy as np
from scipy.interpolate import BPoly

from retouch.steps import smooth_step, step_between


class Steps(unittest.TestCase):
    def test_it_is_the_cubic_that_is_flat_at_both_ends(self) -> None:
        # SciPy's Hermite interpolation of 0 and 1 with slopes of 0.
        cubic = BPoly.from_derivatives([0, 1], [[0, 0], [1, 0]])
        t = np.linspace(0, 1, 33)
        np.testing.assert_allclose(smooth_step(t), cubic(t), atol=1e-12)
        np.testing.assert_array_equal(smooth_step(np.array([-5.0, 7.0])), [0, 1])

    def test_it_keeps_its_precision(self) -> None:
        for kind in (np.float32, np.float64):
            self.assertEqual(smooth_step(np.linspace(-1, 2, 7).astype(kind)).dtype, kind)

    def test_between_two_values(self) -> None:
        light = np.array([10.0, 20.0, 30.0, 40.0, 50.0], np.float32)
        np.testing.assert_allclose(step_between(light, 20.0, 40.0), [0, 0, 0.5, 1, 1], atol=1e-6)
        self.assertEqual(step_between(light.astype(np.float64), 20.0, 40.0).dtype, np.float32)

"""The course of a rim around an eye: smooth, through what hides it, to where panes end."""

import unittest

import numpy as np

from retouch.face.rims import Lines, course, pane_ends

N, K = 360, 140
TURN = np.linspace(0, 2 * np.pi, N, endpoint=False)
STRAY = 2.5


def circle(radius: float = 60.0, off: float = 9.0) -> np.ndarray:
    """How far a circle lies from a place beside its middle, in each direction."""
    return off * np.cos(TURN) + np.sqrt(radius**2 - (off * np.sin(TURN)) ** 2)


def square(half: float = 58.0, round_: float = 5.0) -> np.ndarray:
    """A square with rounded corners (a superellipse), narrower than wide."""
    x, y = np.abs(np.cos(TURN)) / half, np.abs(np.sin(TURN)) / (0.7 * half)
    return (x**round_ + y**round_) ** (-1 / round_)


class Courses(unittest.TestCase):
    def lines(self, at: np.ndarray, clear: float = 30.0) -> Lines:
        columns = np.arange(K)
        found = clear * (np.abs(columns - at[:, None]) < 1.5)
        return Lines(found.astype(np.float32), np.zeros((N, K), np.bool_), np.full(N, np.nan))

    def followed(self, lines: Lines) -> np.ndarray:
        return course(np.minimum(lines.clear, 18) / np.float32(18), lines, STRAY)

    def test_a_circle_and_a_square_are_followed(self) -> None:
        for true in (circle(), square()):
            self.assertLess(float(np.abs(self.followed(self.lines(true)) - true).max()), 2.0)

    def test_a_brow_above_it_is_no_detour(self) -> None:
        """The rim is faint there and the brow is clear: the path of the highest scores would go along that."""
        true = circle()
        lines = self.lines(true)
        above = (TURN > 4.2) & (TURN < 5.2)
        lines.clear[above] *= 0.25
        brow = np.abs(np.arange(K) - (true[:, None] + 14)) < 2
        lines.clear[brow & above[:, None]] = 18
        self.assertLess(float(np.abs(self.followed(lines) - true).max()), 4.0)

    def test_what_is_hidden_goes_on_as_the_rest_does(self) -> None:
        true = circle()
        lines = self.lines(true)
        behind = (TURN > 2.6) & (TURN < 3.6)
        near = behind[:, None] & (np.abs(np.arange(K) - true[:, None]) < 8)
        lines.clear[near], lines.hidden[near] = 0, True
        # Beside it lies an edge of something else.
        beside = behind[:, None] & (np.abs(np.arange(K) - (true[:, None] + 10)) < 1.5)
        lines.clear[beside] = 8
        self.assertLess(float(np.abs(self.followed(lines) - true).max()), 2.5)

    def test_the_end_of_a_pane_tells_where_it_is_wrongly_seen(self) -> None:
        """Over two fifths of it something beside the rim is as clear as the rim elsewhere."""
        true = circle()
        wrong = (TURN > 2.2) & (TURN < 4.7)
        seen = self.lines(np.where(wrong, true + 9 * np.sin((TURN - 2.2) / 2.5 * np.pi), true))
        told = Lines(seen.clear, seen.hidden, np.where(wrong, true, np.nan))
        alone, helped = (np.abs(self.followed(s) - true)[wrong].mean() for s in (seen, told))
        self.assertLess(float(helped), 0.6 * float(alone))


class Panes(unittest.TestCase):
    def test_a_pane_ends_at_the_step_beyond_what_is_told(self) -> None:
        light = np.full((3, K), 30, np.float32)
        light[0, 20:61] = 90
        # A bar across it is no end.
        light[0, 40:43] = 45
        light[1, 20:61] = np.linspace(90, 30, 41)
        panes = np.zeros((3, K), np.bool_)
        panes[:2, 22:57] = True
        ends = pane_ends(light, panes, 12)
        self.assertAlmostEqual(float(ends[0]), 60.5, delta=1)
        self.assertTrue(np.isnan(ends[1:]).all())

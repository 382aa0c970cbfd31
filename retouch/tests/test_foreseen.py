"""What is shown before all passes have followed, and what is kept while only parts are moved."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from retouch.edit import Edit, Pass
from retouch.forms.form import from_data
from retouch.picture import Pyramid
from retouch.render import Renderer
from retouch.render.framing import Grid
from retouch.render.kept import kept_around
from retouch.render.plan import Plan
from retouch.render.shows import foreseen, grid_of, seen
from retouch.tests.test_render import SPOTS, heal_pass, portrait

_ALL = (0.0, 0.0, 1.0, 320, 240)


def passes(*data: dict[str, object]) -> tuple[Pass, ...]:
    return from_data({"version": 2, "passes": list(data)}).passes


def grid(plan: Plan) -> Grid:
    return grid_of(plan, *_ALL)


class Nearly(unittest.TestCase):
    """A heal below a pass that looks far around itself."""

    def setUp(self) -> None:
        self.renderer = Renderer(Pyramid(portrait()))
        (self.shine,) = passes({"id": "s", "kind": "shine", "settings": {"amount": 90}})
        self.before = Edit((heal_pass("a", SPOTS[:1]), self.shine))
        self.after = Edit((heal_pass("a", SPOTS[:2]), self.shine))

    def test_it_shows_what_the_hand_did_within_a_step_or_two(self) -> None:
        plan = self.renderer.plan(self.before)
        old = seen(plan, grid(plan)).astype(int)
        preview = self.renderer.preview(self.after, self.before)
        shown = foreseen(preview, grid(preview), grid(preview))
        assert shown is not None
        exact = Renderer(Pyramid(portrait())).plan(self.after)
        wanted = seen(exact, grid(exact)).astype(int)
        x, y = (int(v) for v in SPOTS[1])
        place = np.s_[y - 12 : y + 12, x - 12 : x + 12]
        self.assertGreater(np.abs(wanted - old)[place].max(), 10)
        self.assertLessEqual(np.abs(shown.astype(int) - wanted)[place].max(), 3)

    def test_a_part_is_the_same(self) -> None:
        plan = self.renderer.plan(self.before)
        seen(plan, grid(plan))
        preview = self.renderer.preview(self.after, self.before)
        whole = foreseen(preview, grid(preview), grid(preview))
        x, y = (int(v) for v in SPOTS[1])
        part = foreseen(preview, grid_of(preview, x - 30, y - 20, 1.0, 60, 40), grid(preview))
        assert whole is not None
        np.testing.assert_array_equal(part, whole[y - 20 : y + 20, x - 30 : x + 30])
        beside = foreseen(preview, grid_of(preview, 300, 100, 1.0, 60, 40), grid(preview))
        self.assertTrue(beside is None or beside.shape == (40, 60, 3))

    def test_it_isnt_made_of_what_would_have_to_be_computed(self) -> None:
        preview = self.renderer.preview(self.after, self.before)
        self.assertIsNone(foreseen(preview, grid(preview), grid(preview)))

    def test_nor_where_more_than_one_pass_differs(self) -> None:
        plan = self.renderer.plan(self.before)
        seen(plan, grid(plan))
        other = Edit((self.after.passes[0], replace(self.shine, strength=50.0)))
        preview = self.renderer.preview(other, self.before)
        self.assertIsNone(foreseen(preview, grid(preview), grid(preview)))


class Moved(unittest.TestCase):
    """Strokes that move parts of a picture on which something looks around itself."""

    def edit(self, count: int) -> Edit:
        strokes = [
            {"id": f"n{n}", "path": [[90 + 40 * n, 120], [98 + 40 * n, 124]],
             "values": {"radius_px": 24}}
            for n in range(count)
        ]  # fmt: skip
        return Edit(
            passes(
                {"id": "a", "kind": "heal", "touches": []},
                {"id": "s", "kind": "shine", "settings": {"amount": 90}},
                {"id": "n", "kind": "nudge", "touches": strokes},
            )
        )

    def test_another_stroke_finds_the_pixels_that_are_kept(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        view = (40.0, 30.0, 1.0, 260, 240)
        plan = renderer.plan(self.edit(1))
        seen(plan, grid_of(plan, *view))
        plan = renderer.plan(self.edit(3))
        again = grid_of(plan, *view)
        self.assertIsNotNone(kept_around(plan, again.rect, again.level))
        fresh = Renderer(Pyramid(portrait())).plan(self.edit(3))
        np.testing.assert_array_equal(seen(plan, again), seen(fresh, grid_of(fresh, *view)))

    def test_what_was_healed_since_isnt_shown_as_it_was(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        plan = renderer.plan(self.edit(1))
        seen(plan, grid(plan))
        healed = Edit((heal_pass("a", SPOTS), *self.edit(2).passes[1:]))
        plan = renderer.plan(healed)
        self.assertIsNone(kept_around(plan, grid(plan).rect, grid(plan).level))
        fresh = Renderer(Pyramid(portrait())).plan(healed)
        np.testing.assert_array_equal(seen(plan, grid(plan)), seen(fresh, grid(fresh)))

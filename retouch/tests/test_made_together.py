"""Touches that have to be made anew are made together, and only those that have to be."""

from __future__ import annotations

import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import EVERYTHING, Mask, MaskStroke, OutlineArea
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.render.proposing import propose_source
from retouch.render.stock import TouchKey
from retouch.render.together import pieces_of
from retouch.render.touching import Touching
from retouch.tests.scenes import skin, spot

PLACES = [(120, 90), (150, 96), (200, 260), (230, 250), (420, 120), (400, 330), (560, 400)]
VIEW = Rect(80, 40, 480, 380)


def pyramid() -> Pyramid:
    image = skin(480, 640, grain=0.02, slope=0.3, seed=8)
    for x, y in PLACES:
        spot(image, x, y, 9)
    return Pyramid(Picture(to_integers(image, 8)))


def heals(ident: str, radius: float) -> Pass:
    kind = registry.kind("heal")
    assert kind.touches is not None
    settings = {s.name: s.default for s in kind.settings}
    values = {s.name: s.default for s in kind.touches.settings} | {"radius_px": radius}
    # Each lies so that some read what others of the pass below it and beside it write.
    touches = tuple(
        Touch(f"{ident}{n}", ((float(x), float(y)),), values, source=(38 - 10 * (n % 3), 25))
        for n, (x, y) in enumerate(PLACES)
    )
    return Pass(ident, "heal", settings=settings, touches=touches)


def light(ident: str, stops: float, mask: Mask = EVERYTHING) -> Pass:
    return Pass(ident, "light", settings={"exposure_ev": stops}, mask=mask)


def stroke(x: float, y: float, radius: float) -> MaskStroke:
    return MaskStroke(((x, y), (x + 20, y + 8)), radius, softness=90, flow=40)


def painted(edit: Edit, one: MaskStroke) -> Edit:
    low = edit.passes[0]
    mask = replace(low.mask, strokes=(*low.mask.strokes, one))
    return Edit((replace(low, mask=mask), *edit.passes[1:]))


class Counted:
    """Counts the touches that are made, by name."""

    def __init__(self) -> None:
        self.made: list[str] = []
        make = Touching._make

        def counting(touching: Touching, i: int, j: int, *rest: object) -> object:
            self.made.append(touching.chain.passes[i].touches[j].id)
            return make(touching, i, j, *rest)  # type: ignore[arg-type]

        self.patch = patch.object(Touching, "_make", counting)


class Together(unittest.TestCase):
    def edit(self) -> Edit:
        return Edit((light("low", 0.2), heals("a", 12), light("between", -0.1), heals("b", 15)))

    def test_every_part_is_what_a_fresh_renderer_makes(self) -> None:
        """Whatever is kept, however it is asked for: the same bits."""
        renderer, edit = Renderer(pyramid()), self.edit()
        renderer.render(edit, VIEW)
        for n, radius in enumerate((15, 60, 220)):
            edit = painted(edit, stroke(130 + 60 * n, 100 + 40 * n, radius))
            for rect in (VIEW, Rect(100, 60, 190, 140), Rect(390, 90, 450, 150)):
                got = renderer.render(edit, rect)
                fresh = Renderer(pyramid()).render(edit, rect)
                np.testing.assert_array_equal(got, fresh, f"{radius} {rect}")

    def test_each_is_made_once(self) -> None:
        renderer, edit, counted = Renderer(pyramid()), self.edit(), Counted()
        with counted.patch:
            renderer.render(edit, VIEW)
        self.assertEqual(len(counted.made), len(set(counted.made)))
        self.assertGreaterEqual(len(counted.made), 10)

    def test_painting_on_a_mask_elsewhere_leaves_touches_as_they_are(self) -> None:
        renderer, edit, counted = Renderer(pyramid()), self.edit(), Counted()
        whole = Rect(0, 0, 640, 480)
        renderer.render(edit, whole)
        edit = painted(edit, stroke(560, 400, 20))
        with counted.patch:
            got = renderer.render(edit, whole)
        # The last place alone lies under the stroke, in both passes.
        self.assertEqual(sorted(counted.made), ["a6", "b6"])
        np.testing.assert_array_equal(got, Renderer(pyramid()).render(edit, whole))

    def test_a_pass_that_acts_elsewhere_leaves_touches_as_they_are(self) -> None:
        """Laid in under them, changed and taken away again."""
        corners = ((520.0, 360.0), (600.0, 360.0), (600.0, 440.0), (520.0, 440.0))
        here = Mask((OutlineArea(corners),))
        renderer, edit, counted = Renderer(pyramid()), self.edit(), Counted()
        whole = Rect(0, 0, 640, 480)
        renderer.render(edit, whole)
        with counted.patch:
            for stops in (0.3, -0.4):
                more = Edit((light("elsewhere", stops, here), *edit.passes))
                got = renderer.render(more, whole)
                np.testing.assert_array_equal(got, Renderer(pyramid()).render(more, whole))
                # Fresh ones make all of them; beside those the last place alone was made anew.
                self.assertEqual(
                    sorted(counted.made), sorted([*self.all_of(edit), "a6", "b6"]), stops
                )
                counted.made.clear()
            renderer.render(edit, whole)
        self.assertEqual(counted.made, [])

    def all_of(self, edit: Edit) -> list[str]:
        return [t.id for p in edit.passes for t in p.touches]

    def test_at_fit_they_are_what_they_are_at_full_size(self) -> None:
        """A reduced view has its touches made in pieces; a whole one before it, as it goes along."""
        wide = registry.kind("skin_bands")
        bands = Pass("bands", "skin_bands", settings={s.name: s.default for s in wide.settings})
        edit = Edit((bands, *self.edit().passes))
        rect, counted = Rect(0, 0, 160, 120), Counted()
        with counted.patch:
            fit = Renderer(pyramid()).plan(edit).view(rect, 2)
        self.assertEqual(sorted(counted.made), sorted(self.all_of(edit)))
        plan = Renderer(pyramid()).plan(edit)
        plan.view(Rect(0, 0, 640, 480), 0)
        np.testing.assert_allclose(plan.view(rect, 2), fit, atol=1e-4)

    def test_reduced_ones_serve_though_those_at_full_size_had_to_make_room(self) -> None:
        renderer, edit, counted = Renderer(pyramid()), self.edit(), Counted()
        rect = Rect(0, 0, 160, 120)
        plan = renderer.plan(edit)
        before = plan.rendered(rect, 2, lambda: False, None).copy()
        for i, one in enumerate(plan.passes):
            for j in range(len(one.touches)):
                renderer.changes.drop(TouchKey(plan.chain.rests.key(i, j), 0))
                self.assertFalse(plan.touching.has(i, j))
        with counted.patch:
            again = plan.rendered(rect, 2, lambda: False, None)
        self.assertEqual(counted.made, [])
        np.testing.assert_array_equal(again, before)

    def test_they_lie_in_one_piece_where_what_is_below_them_looks_far(self) -> None:
        plain = Edit((light("low", 0.2), heals("a", 12)))
        wide = Edit((Pass("bands", "skin_bands", settings={
            s.name: s.default for s in registry.kind("skin_bands").settings}), heals("a", 12)))  # fmt: skip
        renderer, every = Renderer(pyramid()), list(range(len(PLACES)))
        apart, joined = (pieces_of(renderer.plan(e).chain, 1, every) for e in (plain, wide))
        self.assertEqual([touches for _, touches in joined], [every])
        self.assertEqual(sorted(len(touches) for _, touches in apart), [1, 1, 1, 2, 2])
        rests = renderer.plan(plain).chain.rests
        for rect, touches in apart:
            for j in touches:
                self.assertTrue(all(r.clip(rect) == r for r in rests.reads(1, j)))

    def test_a_change_under_all_of_them_makes_all_anew(self) -> None:
        renderer, edit, counted = Renderer(pyramid()), self.edit(), Counted()
        whole = Rect(0, 0, 640, 480)
        renderer.render(edit, whole)
        brighter = Edit((light("low", 0.3), *edit.passes[1:]))
        with counted.patch:
            renderer.render(brighter, whole)
        self.assertEqual(len(counted.made), 2 * len(PLACES))

    def test_what_was_looked_at_for_a_source_counts_only_while_nothing_changed(self) -> None:
        renderer = Renderer(pyramid())
        edit = self.edit()
        new = replace(edit.passes[3].touches[0], id="new", path=((300.0, 180.0),), source=None)
        offered = propose_source(renderer, edit, "b", new)
        self.assertIsNotNone(renderer.looked_at)
        for low in (edit.passes[0], light("low", -0.4)):
            top = edit.passes[3]
            touches = (*top.touches, replace(new, source=offered[0]))
            now = Edit((low, *edit.passes[1:3], replace(top, touches=touches)))
            rect = Rect(270, 150, 330, 210)
            got = renderer.render(now, rect)
            np.testing.assert_array_equal(got, Renderer(pyramid()).render(now, rect))


class KeysOfMasks(unittest.TestCase):
    def test_within_a_rectangle_only_strokes_near_it_count(self) -> None:
        near, far = stroke(50, 50, 20), stroke(400, 300, 20)
        both, one, other = (Mask(strokes=s) for s in ((near, far), (near,), (far,)))
        here = Rect(20, 20, 80, 80)
        self.assertEqual(both.key_within(here), one.key_within(here))
        self.assertNotEqual(both.key_within(here), other.key_within(here))
        self.assertEqual(other.key_within(here), Mask().key_within(here))
        self.assertEqual(both.key_within(Rect(0, 0, 640, 480)), both.key)

    def test_the_order_of_strokes_counts(self) -> None:
        a, b = stroke(50, 50, 20), replace(stroke(55, 50, 20), reveal=True)
        here = Rect(20, 20, 80, 80)
        self.assertNotEqual(
            Mask(strokes=(a, b)).key_within(here), Mask(strokes=(b, a)).key_within(here)
        )

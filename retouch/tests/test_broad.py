"""Passes that see what lies far around on a coarser level: nothing is missed, and little is looked at."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Place
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.tests.scenes import skin, spot

# So large that pictures of a coarser level are kept, too.
W, H = 1120, 960
# So large that what is shown there is kept.
PART = Rect(330, 240, 640, 450)
CORNER, WHOLE = Rect(0, 0, 40, 40), Rect(0, 0, W, H)
# 9 px/mm, as a face that fills 16 megapixels; and the longer side of such a picture.
FITTED = {"px_per_mm": 9.0, "long_px": 4000.0}
KINDS = ("shadows", "shine", "tone")


def pyramid() -> Pyramid:
    image = spot(skin(H, W, grain=0.02, slope=0.5, seed=4), 465, 330, 40, (0.5, 0.36, 0.33))
    return Pyramid(Picture(to_integers(spot(image, 590, 330, 30, (0.95, 0.93, 0.9)), 16)))


def acting(name: str, amount: float = 90.0) -> Pass:
    kind = registry.kind(name)
    values = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
    fitted = {k: v for k, v in FITTED.items() if k in values}
    amounts = {
        k: v for k, v in (("amount", amount), ("shade", amount), ("lit", -50.0)) if k in values
    }
    return Pass(name, name, settings={**values, **fitted, **amounts})


def darkened(*xs: float) -> Pass:
    kind = registry.kind("dodge_burn").touches
    assert kind is not None
    own = {s.name: s.default for s in kind.settings}
    own |= {"radius_px": 70.0, "way": "burn", "exposure": 100.0, "flow": 100.0}
    touches = tuple(Touch(f"t{x:.0f}", ((x, 330.0),), own) for x in xs)
    settings = {s.name: s.default for s in registry.kind("dodge_burn").settings}
    return Pass("burn", "dodge_burn", settings=settings, touches=touches)


class Broad(unittest.TestCase):
    def test_a_small_part_needs_little_around(self) -> None:
        for name in KINDS:
            plan = Renderer(pyramid()).plan(Edit((acting(name),)))
            kind, values = plan.chain.kinds[0], plan.chain.values[0]
            with self.subTest(name):
                self.assertGreater(kind.reach(values), 100)
                self.assertLess(plan.reach, 20)

    def test_parts_are_the_whole(self) -> None:
        edit = Edit((darkened(250), *(acting(n) for n in KINDS)))
        for level in (0, 1):
            rect = PART.reduced(level)
            whole = Renderer(pyramid()).plan(edit).view(WHOLE.reduced(level), level)
            part = Renderer(pyramid()).plan(edit).view(rect, level)
            np.testing.assert_allclose(part, whole[rect.within(WHOLE)], atol=6e-6)

    def test_it_is_what_all_of_the_picture_at_full_size_would_give(self) -> None:
        """Beside a look over the whole picture at full size: the same but for what averaging first changes."""
        bounds = WHOLE
        for name in KINDS:
            one, pixels = acting(name), pyramid().crop(bounds, 0)
            way = registry.kind(name).way
            full = way.make(pixels, registry.kind(name).values(one), Place(bounds, 0))  # type: ignore[union-attr]
            got = Renderer(pyramid()).plan(Edit((one,))).view(bounds, 0)
            with self.subTest(name):
                self.assertGreater(float(np.abs(full - pixels).max()), 0.02)
                self.assertLess(float(np.abs(got - full).max()), 0.004)

    def test_a_slider_of_such_a_pass(self) -> None:
        """What is below it is kept while it moves, and so is what it sees far around."""
        renderer = Renderer(pyramid())
        for amount, part in ((100.0, CORNER), (80.0, WHOLE), (60.0, PART)):
            edit = Edit((darkened(800), *(acting(n, amount) for n in KINDS)))
            got = renderer.plan(edit).view(part, 0)
            fresh = Renderer(pyramid()).plan(edit).view(part, 0)
            np.testing.assert_allclose(got, fresh, atol=6e-6)

    def test_a_touch_far_beside_is_seen(self) -> None:
        """What changes within the look of a pass changes the part, also where pictures are kept."""
        for name in KINDS:
            renderer = Renderer(pyramid())
            before, after = Edit((darkened(), acting(name))), Edit((darkened(800), acting(name)))
            first = renderer.plan(before).view(PART, 0)
            got = renderer.plan(after).view(PART, 0)
            with self.subTest(name):
                fresh = Renderer(pyramid()).plan(after).view(PART, 0)
                np.testing.assert_array_equal(got, fresh)
                self.assertGreater(float(np.abs(first - got).max()), 1e-4)
                again = renderer.plan(before).view(PART, 0)
                np.testing.assert_array_equal(again, first)

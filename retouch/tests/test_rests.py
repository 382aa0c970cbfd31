"""What plans take over from the one before them is what they would have found themselves."""

from __future__ import annotations

import unittest
from dataclasses import replace

from retouch.edit.mask import Mask, MaskStroke
from retouch.edit.model import Edit, Pass, Touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.render.rests import Rests

BOUNDS = Rect(0, 0, 400, 300)


def of_kind(kind: str, name: str, *touches: Touch) -> Pass:
    settings = {s.name: s.default for s in registry.kind(kind).settings}
    return Pass(name, kind, settings=settings, touches=touches)


def heal(name: str, x: float, y: float) -> Touch:
    values = {s.name: s.default for s in registry.kind("heal").touches.settings}  # type: ignore[union-attr]
    return Touch(name, ((x, y),), {**values, "radius_px": 12.0}, source=(40, 0))


class TakenOver(unittest.TestCase):
    def setUp(self) -> None:
        self.below = of_kind("heal", "below", heal("a", 100, 100), heal("b", 200, 150))
        self.light = of_kind("light", "light")
        self.above = of_kind("heal", "above", heal("c", 105, 104), heal("d", 300, 200))
        self.before = self.rests(Edit((self.below, self.light, self.above)))
        self.everything(self.before)

    def rests(self, edit: Edit) -> Rests:
        return Rests("digest", list(edit.passes), BOUNDS, "")

    def everything(self, one: Rests) -> list[str]:
        """All that is asked of touches: their fingerprints, and what each rests on."""
        places = [(i, j) for i, p in enumerate(one.passes) for j in range(len(p.touches))]
        found = [f"{one.key(i, j)} {one.below(i, j, lambda k, m: False)}" for i, j in places]
        return [*found, repr(one.wanted([BOUNDS] * len(one.passes), lambda i, j: False))]

    def follow(self, *passes: Pass) -> tuple[Rests, Rests]:
        """The rests of an edit that takes over, and those of one that finds all anew."""
        now, fresh = self.rests(Edit(passes)), self.rests(Edit(passes))
        self.same = now.take_over(self.before)
        return now, fresh

    def test_a_stroke_on_a_mask(self) -> None:
        mask = Mask(strokes=(MaskStroke(((100.0, 100.0),), 30.0),))
        now, fresh = self.follow(self.below, replace(self.light, mask=mask), self.above)
        self.assertEqual((self.same.upto, self.same.mask_only), (1, True))
        # What a touch looks at is known, though what it sees there has changed.
        self.assertIn((2, 0), now._reading)
        self.assertEqual(self.everything(now), self.everything(fresh))
        self.assertNotEqual(now.key(2, 0), self.before.key(2, 0))
        self.assertEqual(now.key(2, 1), self.before.key(2, 1))

    def test_a_slider(self) -> None:
        settings = {**self.light.settings, "exposure_ev": 0.5}
        now, fresh = self.follow(self.below, replace(self.light, settings=settings), self.above)
        self.assertEqual((self.same.upto, self.same.mask_only), (1, False))
        self.assertNotIn((2, 0), now._reading)
        self.assertEqual(self.everything(now), self.everything(fresh))

    def test_one_touch_more_below(self) -> None:
        more = replace(self.below, touches=(*self.below.touches, heal("e", 110, 110)))
        now, fresh = self.follow(more, self.light, self.above)
        self.assertEqual(self.same.upto, 0)
        self.assertEqual(self.everything(now), self.everything(fresh))
        self.assertIn((0, 2), now.below(2, 0, lambda k, m: False))

    def test_passes_in_another_order(self) -> None:
        now, fresh = self.follow(self.light, self.below, self.above)
        self.assertEqual(self.same.upto, 0)
        self.assertEqual(self.everything(now), self.everything(fresh))


if __name__ == "__main__":
    unittest.main()

"""What is kept between changes, and how far passes look, changes no pixel of the result."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import EVERYTHING, Mask, MaskStroke, OutlineArea, ZoneArea
from retouch.face.cover import strands
from retouch.geometry import Rect
from retouch.masks import extent
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, shows
from retouch.tests.areas import area
from retouch.tests.scenes import skin, spot

BOX = Rect(90, 70, 150, 110)
WHOLE = Rect(0, 0, 640, 480)


class BoxZone:
    """A stand-in of the face analysis with one zone in a box, that may or may not say so."""

    key = "box"

    def __init__(self, tells: bool) -> None:
        self.tells = tells

    def knows(self, face: object) -> bool:
        return True

    def extent(self, zone: str, face: object) -> Rect | None:
        return BOX if self.tells else None

    def cover(self, zone: str, face: object, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
        xs = rect.x0 + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        ys = rect.y0 + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
        inside = (xs > BOX.x0)[None] & (xs < BOX.x1)[None]
        return (inside & ((ys > BOX.y0) & (ys < BOX.y1))[:, None]).astype(np.float32)


def pyramid() -> Pyramid:
    image = spot(skin(480, 640, grain=0.02, slope=0.3, seed=4), 120, 90, 12)
    return Pyramid(Picture(to_integers(image, 8)))


def on_skin(kind: str, mask: Mask = EVERYTHING) -> Pass:
    settings = {s.name: s.default for s in registry.kind(kind).settings}
    return Pass(kind, kind, settings={**settings, "px_per_mm": 4.0}, mask=mask)


def stroke(n: int) -> MaskStroke:
    path = ((60.0 + 40 * n, 100.0), (200.0 + 30 * n, 150.0 + 20 * n))
    return MaskStroke(path, 70.0, softness=80, flow=30, reveal=n == 2)


class Kept(unittest.TestCase):
    def test_strokes_on_one_pass_after_the_other(self) -> None:
        """The pass's own pixels and rows of strokes are kept; a fresh renderer has neither."""
        renderer = Renderer(pyramid())
        edit = Edit((on_skin("redness"), on_skin("skin_bands"), on_skin("shine")))
        for n in range(4):
            for at in (1, 0):
                one = edit.passes[at]
                mask = replace(one.mask, strokes=(*one.mask.strokes, stroke(n)))
                passes = [*edit.passes]
                passes[at] = replace(one, mask=mask, blend="luminosity" if n == 3 else one.blend)
                edit = Edit(tuple(passes))
                plan = renderer.plan(edit)
                whole = shows.grid_of(plan, 20, 20, 1.0, 400, 300)
                part = shows.grid_of(plan, 68, 60, 1.0, 240, 200)
                got = shows.seen(plan, part, around=whole)
                fresh = Renderer(pyramid()).plan(edit)
                np.testing.assert_array_equal(got, shows.seen(fresh, part), f"{n} {at}")


class LookedAt(unittest.TestCase):
    def test_no_further_than_masks_reach(self) -> None:
        zone = Mask((area(ZoneArea("nose")),), feather_px=8, grow_px=3)
        for kind in ("redness", "shine", "shadows", "skin_bands", "even_colour", "lines"):
            edit = Edit((on_skin("redness"), on_skin(kind, zone)))
            for rect, level in ((WHOLE, 0), (Rect(100, 60, 300, 200), 0), (WHOLE, 1)):
                with self.subTest(kind, rect=rect, level=level):
                    told, untold = (
                        Renderer(pyramid(), zones=lambda e, t=tells: BoxZone(t)).render(  # type: ignore[misc]
                            edit, rect, level
                        )
                        for tells in (True, False)
                    )
                    np.testing.assert_allclose(told, untold, atol=2e-5)

    def test_the_margin_is_really_smaller(self) -> None:
        zone = Mask((area(ZoneArea("nose")),))
        edit = Edit((on_skin("shadows", zone),))
        sizes = [
            Renderer(pyramid(), zones=lambda e, t=tells: BoxZone(t))
            .plan(edit)
            .chain.rects(  # type: ignore[misc]
                Rect(400, 300, 500, 400), 0, 1
            )[0]
            for tells in (True, False)
        ]
        self.assertEqual(sizes[0], Rect(400, 300, 500, 400))
        self.assertGreater(sizes[1].width, 300)

    def test_extents_of_combined_areas(self) -> None:
        """As sets: the sum's lies around both, the product's in both, the difference's in the first."""
        box = OutlineArea(((10.0, 10.0), (60.0, 10.0), (60.0, 50.0), (10.0, 50.0)))
        other = OutlineArea(((40.0, 30.0), (90.0, 30.0), (90.0, 80.0), (40.0, 80.0)))

        def of(*areas: OutlineArea, **values: float | bool) -> Rect:
            return extent(Mask(areas, **values), WHOLE)  # type: ignore[arg-type]

        first = of(area(box))
        self.assertTrue(first.x0 <= 10 and first.x1 >= 61 and first.x1 < 75)
        self.assertGreaterEqual(of(area(box), area(other)).x1, 90)
        self.assertLess(of(area(box), area(other, "cross")).x1, 75)
        self.assertEqual(of(area(box), area(other, "take")), first)
        self.assertEqual(of(area(box), invert=True), WHOLE)
        self.assertEqual(of(area(box, invert=True)), WHOLE)
        self.assertGreaterEqual(of(area(box), grow_px=20.0).x1, 80)


class Strands(unittest.TestCase):
    def test_hairs_are_told_from_pores_on_every_tone(self) -> None:
        for base in ((0.85, 0.68, 0.6), (0.55, 0.38, 0.3), (0.33, 0.22, 0.18)):
            image = skin(120, 160, base=base, grain=0.012, seed=9)
            pores = [(20 + 9 * n, 30 + 5 * (n % 4)) for n in range(12)]
            for x, y in pores:
                image[y : y + 2, x : x + 2] *= np.float32(0.9)
            image[:, 100:102] *= np.float32(0.45)
            found = strands(image)
            with self.subTest(base):
                self.assertGreater(float(found[:, 100:102].mean()), 0.9)
                self.assertLess(float(found[:, :95].mean()), 0.03)
                self.assertEqual(float(strands(image, 4).max()), 0.0)


class Sliding(unittest.TestCase):
    def test_a_slider_under_other_passes_is_nearly_exact_and_at_rest_exact(self) -> None:
        """While it moves, passes above add what they add in the standing edit."""
        renderer = Renderer(pyramid())
        standing = Edit((on_skin("redness"), on_skin("skin_bands"), on_skin("shine")))
        renderer.render(standing, WHOLE)
        first = standing.passes[0]
        for amount in (60.0, 65.0):
            moved = replace(first, settings={**first.settings, "amount": amount})
            edit = Edit((moved, *standing.passes[1:]))
            shown = renderer.plan(edit, standing).view(WHOLE, 0)
            exact = Renderer(pyramid()).render(edit, WHOLE)
            self.assertLess(float(np.abs(shown - exact).mean()), 1 / 255)
            np.testing.assert_array_equal(renderer.render(edit, WHOLE), exact)

    def test_a_touch_beside_the_view_that_a_pass_looks_at_is_seen(self) -> None:
        """What is kept for a view is kept with all that its passes look at around it."""
        heal = Pass("heal", "heal", settings={"keep_edges": True, "band": "all"})
        spotted = Touch(
            "t", ((112.0, 90.0),), {"radius_px": 14.0, "softness": 20.0, "opacity": 100.0}, (0, 80)
        )
        view = Rect(140, 20, 540, 320)
        renderer = Renderer(pyramid())
        for touches in ((), (spotted,)):
            below = replace(heal, touches=touches)
            edit = Edit((below, on_skin("skin_bands"), on_skin("redness")))
            for amount in (30.0, 40.0):
                top = replace(
                    edit.passes[2], settings={**edit.passes[2].settings, "amount": amount}
                )
                edit = Edit((*edit.passes[:2], top))
                np.testing.assert_array_equal(
                    renderer.render(edit, view), Renderer(pyramid()).render(edit, view)
                )

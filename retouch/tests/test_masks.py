"""Masks: clipped by an outline, eased and brought back by strokes; touches switched off."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Mask, MaskStroke, OutlineArea
from retouch.errors import EditError
from retouch.forms.form import dumps, from_data, loads
from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, changed_region
from retouch.tests.areas import area
from retouch.tests.scenes import skin

SQUARE = ((40.0, 40.0), (80.0, 40.0), (80.0, 80.0), (40.0, 80.0))
WHOLE = Rect(0, 0, 160, 120)


def stroke(*path: tuple[float, float], **values: float | bool) -> MaskStroke:
    base = {"radius_px": 15.0, "softness": 0.0, "flow": 100.0, "reveal": False, **values}
    return MaskStroke(path, **base)  # type: ignore[arg-type]


def inside(points: tuple[tuple[float, float], ...], feather: float = 0.0) -> Mask:
    return Mask((area(OutlineArea(points, feather)),))


class Painting(unittest.TestCase):
    image = skin(120, 160, seed=3)

    def rendered(self, mask: Mask) -> tuple[np.ndarray, np.ndarray]:
        """The untouched picture and the one with a strong change under a mask."""
        picture = Picture(to_integers(self.image, 16))
        one = Pass("p", "light", settings={"exposure_ev": 1.0}, mask=mask)
        edit = loads(dumps(Edit((one,))))
        renderer = Renderer(Pyramid(picture))
        return renderer.render(Edit(), picture.bounds), renderer.render(edit, picture.bounds)

    def test_eased_at_full_flow_is_exactly_the_original(self) -> None:
        raw, out = self.rendered(Mask(strokes=(stroke((60, 60), (90, 60)),)))
        np.testing.assert_array_equal(out[50:70, 50:100], raw[50:70, 50:100])
        self.assertGreater(np.abs(out - raw)[:, 120:].mean(), 0.1)

    def test_flow_builds_up(self) -> None:
        """n strokes of flow a leave (1-a)^n of the pass."""
        raw, full = self.rendered(Mask())
        for n in (1, 2, 4):
            marks = tuple(stroke((60, 60), flow=15.0) for _ in range(n))
            _, out = self.rendered(Mask(strokes=marks))
            part = (out - raw)[60, 60] / (full - raw)[60, 60]
            np.testing.assert_allclose(part, 0.85**n, atol=1e-4)

    def test_brought_back(self) -> None:
        _, full = self.rendered(Mask())
        marks = (stroke((60, 60)), stroke((60, 60), reveal=True, radius_px=25.0))
        _, out = self.rendered(Mask(strokes=marks))
        np.testing.assert_array_equal(out, full)

    def test_a_clip_lets_nothing_through_beyond_its_feather(self) -> None:
        for feather in (0.0, 1.0, 8.0):
            raw, out = self.rendered(inside(SQUARE, feather))
            reach = int(np.ceil(feather)) + 1
            outside = np.ones((120, 160), np.bool_)
            outside[40 - reach : 80 + reach, 40 - reach : 80 + reach] = False
            np.testing.assert_allclose(out[outside], raw[outside], atol=2e-4)
            self.assertGreater(np.abs(out - raw)[60, 60].min(), 0.05)

    def test_outside_of_an_outline(self) -> None:
        raw, out = self.rendered(replace(inside(SQUARE, 1.0), invert=True))
        np.testing.assert_allclose(out[45:75, 45:75], raw[45:75, 45:75], atol=1e-6)
        self.assertGreater(np.abs(out - raw)[:, 100:].mean(), 0.1)

    def test_levels_agree(self) -> None:
        mask = Mask(strokes=(stroke((64, 64), (96, 72), softness=60.0, flow=40.0),))
        masks = Masks(Pyramid(Picture(to_integers(self.image, 16))))
        full = masks.draw(mask, Rect(0, 0, 160, 120), 0)
        half = masks.draw(mask, Rect(0, 0, 80, 60), 1)
        assert full is not None
        assert half is not None
        mean = full.reshape(60, 2, 80, 2).mean((1, 3))
        self.assertLess(np.abs(mean - half[..., 0]).max(), 0.12)
        self.assertLess(np.abs(mean - half[..., 0]).mean(), 0.004)

    def test_only_the_stroke_is_painted_again(self) -> None:
        before = Edit((Pass("p", "light", settings={"exposure_ev": 1.0}),))
        after = Edit(
            (
                Pass(
                    "p",
                    "light",
                    settings={"exposure_ev": 1.0},
                    mask=Mask(strokes=(stroke((60, 60)),)),
                ),
            )
        )
        self.assertEqual(changed_region(before, after, WHOLE), Rect(44, 44, 77, 77))
        self.assertEqual(changed_region(after, before, WHOLE), Rect(44, 44, 77, 77))

    def test_a_pass_that_looks_around_is_painted_again_where_its_stroke_is(self) -> None:
        """What lies above it and looks around as well is seen to change further out."""
        settings = {"px_per_mm": 4.0, "size_mm": 2.0}
        top = Pass("p", "redness", settings=settings)
        painted = replace(top, mask=Mask(strokes=(stroke((60, 60)),)))
        alone = changed_region(Edit((top,)), Edit((painted,)), WHOLE)
        self.assertEqual(alone, Rect(44, 44, 77, 77))
        above = Pass("q", "redness", settings=settings)
        below = changed_region(Edit((top, above)), Edit((painted, above)), WHOLE)
        self.assertGreater(below.width, alone.width)

    def test_what_is_wrong_is_named(self) -> None:
        def edit(mask: object) -> object:
            return {"version": 1, "passes": [{"id": "p", "kind": "light", "mask": mask}]}

        bad = {"path": [[1, 1]], "radius_px": 5, "flow": 0}
        with self.assertRaisesRegex(EditError, "flow"):
            from_data(edit({"strokes": [bad]}))
        with self.assertRaisesRegex(EditError, "reveal"):
            from_data(edit({"strokes": [{**bad, "flow": 50, "reveal": 1}]}))
        for bad_area, said in (
            ({"kind": "outline", "points": [[0, 0], [1, 1]]}, "needs 3 points"),
            ({"kind": "zone", "zone": "elbow"}, "no zone 'elbow'"),
            ({"kind": "zone", "zone": "nose", "face": 1.5}, "face can't be 1.5"),
            ({"kind": "range", "light": [60, 20]}, "lowest is above"),
            ({"kind": "range", "colours": [[1, 2]]}, "colour 1"),
            ({"kind": "gradient", "start": [1, 1], "end": [1, 1]}, "two places"),
            ({"kind": "nose"}, "kind is one of"),
            ({"kind": "outline", "points": [[0, 0]] * 3, "way": "or"}, "way is one of"),
        ):
            with self.subTest(said), self.assertRaisesRegex(EditError, said):
                from_data(edit({"areas": [bad_area]}))


class TouchesSwitchedOff(unittest.TestCase):
    def test_it_changes_nothing_and_stays(self) -> None:
        image = skin(120, 160, seed=3)
        picture = Picture(to_integers(image, 16))
        values = {"radius_px": 10.0, "softness": 0.0, "opacity": 100.0, "flow": 100.0}
        on = Touch("a", ((40.0, 60.0),), values, (60, 0))
        off = Touch("b", ((100.0, 60.0),), values, (-40, 30), enabled=False)
        edit = loads(dumps(Edit((Pass("p", "clone", touches=(on, off)),))))
        self.assertFalse(edit.passes[0].touches[1].enabled)
        renderer = Renderer(Pyramid(picture))
        raw = renderer.render(Edit(), picture.bounds)
        out = renderer.render(edit, picture.bounds)
        np.testing.assert_array_equal(out[:, 80:], raw[:, 80:])
        self.assertGreater(np.abs(out - raw)[:, :60].max(), 0.01)
        alone = Edit((Pass("p", "clone", touches=(on,)),))
        np.testing.assert_array_equal(out, renderer.render(alone, picture.bounds))

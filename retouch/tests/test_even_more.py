"""Even colour, living colour, dodge and burn, routines."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any

import numpy as np
from skimage.color import rgb2lab

from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.face import Analysis
from retouch.face.zones import Layer
from retouch.forms.form import from_data
from retouch.geometry import Rect
from retouch.natural import readings
from retouch.passes import registry
from retouch.passes.dodge_burn import weight
from retouch.passes.settings import check_all
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.tests.scenes import skin
from retouch.tests.test_even import edit, own, rendered
from retouch.work.ready import ready_routines


class Colour(unittest.TestCase):
    def setUp(self) -> None:
        self.image = skin(240, 320, seed=4)
        self.own = own(self.image)
        # The lower half is yellower and paler, as a neck beside a face.
        self.image[120:, :, 2] *= 0.82
        self.image[120:, :, 0] *= 0.97
        self.before = rgb2lab(rendered(self.image, Edit()))

    def hue(self, lab: np.ndarray) -> float:
        return float(np.degrees(np.arctan2(lab[..., 2], lab[..., 1]))[160:220].mean())

    def test_the_hue_is_pulled_by_its_part_and_the_rest_held(self) -> None:
        wanted = np.degrees(np.arctan2(self.own["skin_b"], self.own["skin_a"]))
        for part in (50, 100):
            what = edit("even_colour", hue=part, saturation=0, lightness=0, variety=0, **self.own)
            after = rgb2lab(rendered(self.image, what))
            left = (self.hue(after) - wanted) / (self.hue(self.before) - wanted)
            self.assertAlmostEqual(left, 1 - part / 100, delta=0.06)
            self.assertLess(np.abs(after[..., 0] - self.before[..., 0]).max(), 1.0)

    def test_the_skins_own_variety_stays(self) -> None:
        free = edit("even_colour", hue=100, variety=0, **self.own)
        kept = edit("even_colour", hue=100, variety=15, **self.own)
        moved = [
            abs(self.hue(rgb2lab(rendered(self.image, e))) - self.hue(self.before))
            for e in (free, kept)
        ]
        self.assertLess(moved[1], 0.6 * moved[0])

    def test_living_colour_adds_hue_and_no_light(self) -> None:
        lips = {"lip_l": 50.0, "lip_a": self.own["skin_a"] + 12, "lip_b": self.own["skin_b"]}
        after = rgb2lab(rendered(self.image, edit("living_colour", amount=50, **lips, **self.own)))
        np.testing.assert_allclose((after - self.before)[..., 1].mean(), 6, atol=0.4)
        self.assertLess(np.abs((after - self.before)[..., 0]).max(), 1.0)


class DodgeAndBurn(unittest.TestCase):
    image = skin(240, 320, seed=6)

    def done(self, count: int = 1, **values: object) -> np.ndarray:
        touches = [
            {"id": f"t{n}", "path": [[160, 120]],
             "values": {"radius_px": 30, "softness": 0, "flow": 100, **values}}
            for n in range(count)
        ]  # fmt: skip
        data = {"version": 1, "passes": [{"id": "p", "kind": "dodge_burn", "touches": touches}]}
        return rendered(self.image, from_data(data))

    def test_lighter_darker_and_nothing_beside_the_brush(self) -> None:
        raw = rendered(self.image, Edit())
        for way, sign in (("dodge", 1), ("burn", -1)):
            out = self.done(way=way, exposure=40)
            self.assertGreater(sign * (out - raw)[110:130, 150:170].mean(), 0.02)
            np.testing.assert_array_equal(out[:, :128], raw[:, :128])

    def test_it_builds_up(self) -> None:
        raw = rendered(self.image, Edit())
        change = [(self.done(n, exposure=20) - raw)[120, 160].mean() for n in (1, 2, 3)]
        self.assertTrue(0 < change[0] < change[1] < change[2])

    def test_full_exposure_is_a_stop_where_the_range_counts_fully(self) -> None:
        """At middle grey on midtones: twice the light (IEC 61966-2-1 gives 0.5 -> 0.686)."""
        self.image = np.full((240, 320, 3), 0.5, np.float32)
        out = self.done(exposure=100)
        np.testing.assert_allclose(out[120, 160], 0.6858, atol=2e-3)

    def test_ranges(self) -> None:
        light = np.array([0.0, 0.5, 1.0], np.float32)
        np.testing.assert_allclose(weight(light, "shadows"), [1, 0.25, 0])
        np.testing.assert_allclose(weight(light, "midtones"), [0, 1, 0])
        np.testing.assert_allclose(weight(light, "highlights"), [0, 0.25, 1])


class TextureLeft(unittest.TestCase):
    """A face that is all forehead: what a blur takes and a copy keeps, as numbers."""

    def setUp(self) -> None:
        self.image = skin(240, 320, seed=12)
        layer = Layer("forehead", 0, Rect(0, 0, 320, 240), np.full((60, 80), 255, np.uint8))
        face = SimpleNamespace(box=(0, 0, 320, 240), scale=SimpleNamespace(px_per_mm=7.0))
        self.analysis = Analysis(320, 240, (face,), (layer,), ((),))  # type: ignore[arg-type]
        self.renderer = Renderer(Pyramid(Picture(to_integers(self.image, 16))))

    def read(self, what: Edit) -> Any:
        (one,) = readings(self.renderer, what, self.analysis)
        return one

    def test_nothing_done_is_a_hundred_per_cent_and_no_change(self) -> None:
        one = self.read(Edit())
        self.assertEqual((one.zone, one.change), ("forehead", 0))
        self.assertAlmostEqual(one.texture, 100, places=3)

    def test_a_face_too_small_for_pores_says_nothing(self) -> None:
        """Not that its texture is gone."""
        self.analysis.faces[0].scale.px_per_mm = 0.8  # type: ignore[misc]
        self.assertEqual(readings(self.renderer, Edit(), self.analysis), [])

    def test_softened_pores_are_missed_by_their_part(self) -> None:
        soft = edit("skin_bands", fine=-60, middle=0, broad=0, keep_texture=False, px_per_mm=7)
        self.assertAlmostEqual(self.read(soft).texture, 40, delta=15)
        kept = edit("skin_bands", middle=-80, broad=-80, px_per_mm=7)
        self.assertGreater(self.read(kept).texture, 88)

    def test_a_change_of_light_is_a_change_of_colour(self) -> None:
        one = self.read(edit("light", exposure_ev=0.5))
        self.assertGreater(one.change, 4)


class Routines(unittest.TestCase):
    def test_every_step_is_a_kind_with_settings_it_knows(self) -> None:
        for routine in ready_routines():
            for step in routine.steps:
                check_all(registry.kind(step.kind).settings, step.settings, step.kind)
                self.assertTrue(0 < step.strength <= 100)

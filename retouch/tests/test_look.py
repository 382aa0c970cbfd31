"""Light and colour of the whole picture, against published formulas and reference libraries."""

from __future__ import annotations

import unittest
import warnings
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from retouch.colour.depth import to_integers
from retouch.colour.lab import from_srgb
from retouch.colour.linear import decoded, encoded, through
from retouch.colour.transfer import to_encoded, to_linear
from retouch.colour.white import (
    WHITE,
    Light,
    adaptation,
    light_of,
    neutralising,
    own_light,
    warmed,
    xyz_of,
)
from retouch.edit import Edit, Pass
from retouch.errors import EditError
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.look import chroma, curves, tone
from retouch.passes import registry
from retouch.passes.colour import hue_of
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, render_whole
from retouch.tests.scenes import skin
from retouch.work import Bench, Refused
from retouch.work.operations import AddPass, PickNeutral, ProposeLook, ProposeWhite

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

LOOK = ("light", "tone", "white_balance", "colour", "picked_colour", "curves")
# Settings with which each pass of Look does something visible, but nothing drastic.
AT_WORK: dict[str, dict[str, Any]] = {
    "light": {"exposure_ev": 0.4, "contrast": 25.0, "lift": 15.0},
    "tone": {"depths": 30.0, "shade": 25.0, "lit": -20.0, "peaks": -30.0},
    "white_balance": {"temperature_k": 5600.0, "tint": 4.0},
    "colour": {"saturation": 15.0, "gentle": 20.0},
    "picked_colour": {"hue": 45.0, "width": 60.0, "turn": 8.0, "richer": 15.0},
    "curves": {"light": ((0.0, 0.02), (0.3, 0.26), (0.7, 0.75), (1.0, 0.99))},
}


def made(kind: str, values: dict[str, Any] | None = None) -> Pass:
    return completed(Pass(kind, kind, settings=values or {}, fit=completed(Pass("x", kind)).fit))


def rendered(pixels: np.ndarray, *passes: Pass) -> np.ndarray:
    return render_whole(Renderer(Pyramid(Picture(pixels))), Edit(passes)).pixels


def bench(image: np.ndarray) -> Bench:
    return Bench(Renderer(Pyramid(Picture(to_integers(image, 16)))))


class White(unittest.TestCase):
    def test_temperature_and_distance_agree_with_references(self) -> None:
        """Robertson (1968) and Ohno (2014) as colour-science has them: to 0.3 % and 0.0003."""
        for kelvin in (2200, 2856, 3200, 4000, 5000, 6504, 8000, 10000):
            for duv in (-0.008, 0.0, 0.0032, 0.008):
                xyz = xyz_of(Light(kelvin, duv))
                uv = colour.UCS_to_uv(colour.XYZ_to_UCS(xyz))
                for method in ("Robertson 1968", "Ohno 2013"):
                    theirs, off = colour.uv_to_CCT(uv, method=method)
                    self.assertLess(abs(theirs / kelvin - 1), 0.003, (kelvin, duv, method))
                    self.assertLess(abs(off - duv), 3e-4, (kelvin, duv, method))
                own = light_of(xyz)
                self.assertAlmostEqual(own.kelvin, kelvin, 1)
                self.assertAlmostEqual(own.duv, duv, 6)

    def test_daylight_is_a_little_greener_than_a_glowing_body(self) -> None:
        """D65: 6504 K, Duv 0.0032 (CIE 15:2018; the second from memory)."""
        own = own_light()
        self.assertAlmostEqual(own.kelvin, 6504, delta=8)
        self.assertAlmostEqual(own.duv, 0.0032, delta=2e-4)

    def test_the_adaptation_is_cat16s(self) -> None:
        """As colour-science's von Kries adaptation with CAT16, white for white."""
        taken = Light(3200.0, 0.001)
        matrix = adaptation(taken, own_light())
        theirs = colour.adaptation.matrix_chromatic_adaptation_VonKries(
            xyz_of(taken), WHITE, transform="CAT16"
        )
        to_xyz = np.array(
            [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
        )
        mine = to_xyz @ matrix @ np.linalg.inv(to_xyz)
        np.testing.assert_allclose(mine / mine[1, 1], theirs / theirs[1, 1], rtol=2e-3, atol=2e-3)
        # A card in that light comes out neutral.
        card = np.linalg.inv(to_xyz) @ (0.2 * xyz_of(taken))
        r, g, b = matrix @ card
        self.assertAlmostEqual(r / g, 1, 3)
        self.assertAlmostEqual(b / g, 1, 3)
        self.assertAlmostEqual(float((to_xyz @ matrix @ np.ones(3))[1]), 1, 6)

    def test_what_is_neutral_in_a_light_tells_the_light(self) -> None:
        for kelvin in (3000.0, 4500.0, 9000.0):
            light = Light(kelvin, 0.004)
            cast = np.linalg.inv(adaptation(light, own_light())) @ np.full(3, 0.3)
            found = neutralising(cast, own_light())
            self.assertAlmostEqual(found.kelvin / kelvin, 1, 3)
            self.assertAlmostEqual(found.duv, 0.004, 4)

    def test_warmer_is_warmer(self) -> None:
        grey = np.full((32, 32, 3), 120, np.uint8)
        for warmth, sign in ((40.0, 1), (-40.0, -1)):
            out = rendered(grey, made("white_balance", {"warmth": warmth}))[0, 0].astype(int)
            self.assertGreater(sign * (out[0] - out[2]), 5)
        self.assertGreater(warmed(5000, 0.5), 5000)

    def test_a_neutral_place_is_picked_or_refused(self) -> None:
        image = skin(120, 160, seed=4)
        card = np.linalg.inv(adaptation(Light(4200.0, 0.002), own_light())) @ np.full(3, 0.25)
        image[20:60, 20:60] = to_encoded(card.astype(np.float32))
        image[80:100, 80:100] = 1.0
        work = bench(image)
        done = PickNeutral(40.0, 40.0).perform(Edit(), work)
        self.assertAlmostEqual(float(done.edit.passes[0].settings["temperature_k"]), 4200, delta=25)  # type: ignore[arg-type]
        r, g, b = work.renderer.render(done.edit, Rect(30, 30, 50, 50)).mean((0, 1))
        self.assertLess(max(abs(r - g), abs(b - g)), 2e-3)
        with self.assertRaisesRegex(Refused, "clipped"):
            PickNeutral(90.0, 90.0).perform(Edit(), work)
        with self.assertRaisesRegex(Refused, "outside"):
            PickNeutral(900.0, 90.0).perform(Edit(), work)
        with self.assertRaisesRegex(Refused, "No face"):
            ProposeWhite("eyes").perform(Edit(), work)

    def test_greys_tell_a_slight_cast(self) -> None:
        rng = np.random.default_rng(3)
        greys = rng.uniform(0.1, 0.7, (100, 150, 1)) * np.ones(3)
        light = Light(5800.0, 0.0032)
        cast = greys @ np.linalg.inv(adaptation(light, own_light())).T
        done = ProposeWhite("greys").perform(Edit(), bench(to_encoded(cast.astype(np.float32))))
        self.assertAlmostEqual(float(done.edit.passes[0].settings["temperature_k"]), 5800, delta=60)  # type: ignore[arg-type]


class Curves(unittest.TestCase):
    def test_points_are_joined_as_scipys_monotone_interpolation_joins_them(self) -> None:
        points = ((0.0, 0.05), (0.25, 0.2), (0.6, 0.7), (1.0, 0.95))
        ramp = np.linspace(0, 65535, 4096).astype(np.uint16)
        pixels = np.repeat(ramp.reshape(64, 64, 1), 3, 2)
        got = rendered(pixels, made("curves", {"light": points, "blue": ((0.0, 1.0), (1.0, 0.0))}))
        x, y = np.array(points).T
        wanted = PchipInterpolator(x, y)(pixels[..., 0] / 65535)
        np.testing.assert_allclose(got[..., 0] / 65535, wanted, atol=2.5e-5)
        np.testing.assert_allclose(got[..., 2] / 65535, 1 - wanted, atol=5e-5)

    def test_bad_points_are_refused_in_words(self) -> None:
        for points, words in (
            (((0.0, 0.0),), "2 to 32 points"),
            (((0.5, 0.0), (0.5, 1.0)), "further right"),
            (((0.0, 0.0), (1.0, 2.0)), "goes from 0 to 1"),
            ("0,0 1,1", "list of points"),
            (((0.0,), (1.0, 1.0)), "two numbers"),
        ):
            with self.assertRaisesRegex(EditError, words):
                made("curves", {"light": points})

    @settings(max_examples=60, deadline=None)
    @given(st.floats(-1, 1), st.floats(0.1, 0.9))
    def test_contrast_rises_and_keeps_black_white_and_the_pivot(
        self, amount: float, pivot: float
    ) -> None:
        values = np.linspace(-0.5, 2, 501, dtype=np.float32)
        out = curves.contrasted(values, amount, pivot)
        self.assertTrue((np.diff(out) > 0).all())
        fixed = np.array([0, pivot, 1], np.float32)
        np.testing.assert_allclose(curves.contrasted(fixed, amount, pivot), fixed, atol=1e-5)

    def test_a_stop_is_a_doubling_and_matte_lifts_black_alone(self) -> None:
        self.assertAlmostEqual(
            float(to_linear(curves.exposed(np.float32(0.3), 1.0)) / to_linear(np.float32(0.3))),
            2,
            4,
        )  # type: ignore[arg-type]
        out = curves.lifted(np.array([0, 0.5, 1], np.float32), 1.0)
        self.assertGreater(out[0], 0.1)
        self.assertAlmostEqual(float(out[2]), 1)


class Tone(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.tuples(*[st.floats(-1, 1)] * 4))
    def test_lighter_surroundings_stay_lighter(self, amounts: tuple[float, ...]) -> None:
        base = np.linspace(0, 2, 2048)
        light = to_linear(base) * tone.gains(amounts)  # type: ignore[arg-type]
        self.assertTrue((np.diff(light) >= -1e-6).all())

    def test_each_range_moves_its_own_tones(self) -> None:
        steps = np.repeat(np.repeat(np.array([[0.06, 0.34, 0.62, 0.93]]), 120, 1), 160, 0)
        image = np.repeat(steps[..., None], 3, 2).astype(np.float32)
        rect = Rect(0, 0, 480, 160)
        for n in range(4):
            amounts = [0.0] * 4
            amounts[n] = 0.5 if n < 3 else -0.5
            out = tone.toned(image, rect, amounts, 12.0, 0, rect)
            moved = np.abs(out - image)[80, 60::120, 0]
            self.assertEqual(int(moved.argmax()), n)
            self.assertGreater(moved[n], 0.02)
            self.assertLess(np.delete(moved, n).max(), 0.35 * moved[n])

    def test_no_halo_at_a_hard_edge_and_detail_stays(self) -> None:
        """Beside a dark collar the cheek is as far from it: no seam brighter than either side."""
        rng = np.random.default_rng(1)
        grain = 0.02 * rng.standard_normal((200, 400, 1)).astype(np.float32)
        image = np.where(np.arange(400)[None, :, None] < 200, 0.7, 0.12).astype(np.float32) + grain
        image = np.repeat(image, 3, 2)
        rect = Rect(0, 0, 400, 200)
        out = tone.toned(image, rect, (0.6, 0.6, -0.4, -0.4), 20.0, 0, rect)
        rows = out[..., 1].mean(0)
        lit, dark = rows[40:120].mean(), rows[280:360].mean()
        span = lit - dark
        self.assertLess(rows[170:199].max() - lit, 0.06 * span)
        self.assertLess(dark - rows[201:230].min(), 0.06 * span)
        self.assertGreater(dark, 0.145)
        # Grain is multiplied as its surroundings are.
        kept = out[50:150, 260:380, 1].std() / dark / (image[50:150, 260:380, 1].std() / 0.12)
        self.assertAlmostEqual(kept, 1, delta=0.15)

    def test_hue_stays(self) -> None:
        image = skin(120, 160, seed=5)
        rect = Rect(0, 0, 160, 120)
        out = tone.toned(image, rect, (0.4, 0.5, 0.2, 0.0), 10.0, 0, rect)
        was, now = (decoded(a).reshape(-1, 3) for a in (image, out))
        np.testing.assert_allclose(now[:, 0] / now[:, 1], was[:, 0] / was[:, 1], rtol=2e-3)


class Chroma(unittest.TestCase):
    def test_oklab_is_the_published_one(self) -> None:
        for rgb in ([1, 1, 1], [1, 0, 0], [0.2, 0.5, 0.1]):
            theirs = colour.XYZ_to_Oklab(colour.RGB_to_XYZ(rgb, "sRGB"))
            np.testing.assert_allclose(chroma.oklab(np.array(rgb)), theirs, atol=2e-4)

    def test_grey_keeps_its_lightness_and_richer_its_hue(self) -> None:
        image = skin(40, 60, seed=8)
        grey = chroma.saturated(image, -1, 0)
        self.assertLess(float(np.ptp(grey, -1).max()), 2e-3)
        was, rich = (chroma.oklab(decoded(a)) for a in (image, chroma.saturated(image, 0.3, 0)))
        hues = [np.arctan2(a[..., 2], a[..., 1]) for a in (was, rich)]
        np.testing.assert_allclose(*hues, atol=5e-3)
        ratio = np.hypot(*np.moveaxis(rich[..., 1:], -1, 0)) / np.hypot(
            *np.moveaxis(was[..., 1:], -1, 0)
        )
        np.testing.assert_allclose(ratio, 1.3, atol=0.01)

    def test_gently_spares_skin_and_what_is_rich(self) -> None:
        """Skin of six tones (CIELAB from memory), a faded blue and a rich one."""
        skins = [(75, 10, 17), (65, 14, 17), (55, 15, 19), (45, 14, 18), (37, 12, 15), (28, 8, 10)]
        lab = np.array([*skins, (60, -4, -14), (35, 20, -60)], np.float64)
        rgb = colour.XYZ_to_sRGB(colour.Lab_to_XYZ(lab, [0.3127, 0.329]))[None].astype(np.float32)
        was, now = (chroma.oklab(decoded(a))[0] for a in (rgb, chroma.saturated(rgb, 0, 0.6)))
        gain = np.hypot(now[:, 1], now[:, 2]) / np.hypot(was[:, 1], was[:, 2]) - 1
        self.assertLess(gain[:6].max(), 0.15)
        self.assertGreater(gain[6], 0.35)
        self.assertLess(gain[7], 0.15)

    def test_a_picked_colour_alone_is_shifted(self) -> None:
        image = np.zeros((8, 24, 3), np.float32)
        image[:, :8] = (0.7, 0.3, 0.25)
        image[:, 8:16] = (0.2, 0.4, 0.8)
        image[:, 16:] = 0.5
        hue = hue_of((0.7, 0.3, 0.25))
        out = chroma.shifted(image, hue, 30, (0, 1), 0.5, 15, 0.2, -0.3)
        np.testing.assert_allclose(out[:, 8:], image[:, 8:], atol=2e-5)
        was, now = chroma.oklab(decoded(image[0, :1])), chroma.oklab(decoded(out[0, :1]))
        turn = np.degrees(np.arctan2(now[0, 2], now[0, 1])) - hue
        self.assertAlmostEqual(turn, 15, delta=0.5)
        self.assertLess(now[0, 0], was[0, 0])


class AllOfThem(unittest.TestCase):
    def test_zero_changes_nothing(self) -> None:
        pixels = to_integers(skin(90, 120, seed=6), 16)
        for kind in LOOK:
            np.testing.assert_array_equal(rendered(pixels, made(kind)), pixels, kind)

    def test_16_bit_gradients_show_no_steps(self) -> None:
        """Through each pass and all together no step is larger than one part in 4096."""
        codes = np.linspace(2000, 63000, 40_000).astype(np.uint16)
        tinted = codes.reshape(1, -1, 1) * np.array([1, 0.8, 0.7])
        pixels = tinted.astype(np.uint16).repeat(16, 0)
        cases = [[made(k, AT_WORK[k])] for k in LOOK]
        for passes in (*cases, [p for case in cases for p in case]):
            out = rendered(pixels, *passes)[8].astype(np.int64)
            names = [p.kind for p in passes]
            self.assertLessEqual(int(np.abs(np.diff(out, axis=0)).max()), 65535 // 4096, names)
            self.assertGreater(int(np.abs(out - pixels[8]).max()), 300, names)

    def test_linear_light_there_and_back(self) -> None:
        values = np.linspace(-0.3, 1.8, 3000, dtype=np.float32).reshape(1000, 3)
        np.testing.assert_allclose(encoded(decoded(values)), values, atol=3e-6)
        np.testing.assert_allclose(decoded(values), to_linear(values), atol=2e-6)
        # Passes take the nearest of finer entries: as exact as 16-bit values.
        np.testing.assert_allclose(through(values[None], np.eye(3))[0], values, atol=3.5e-5)

    def test_every_kind_is_masked_and_blended_like_others(self) -> None:
        for kind in LOOK:
            self.assertFalse(registry.kind(kind).frame)
            self.assertEqual(registry.kind(kind).stage, "look")


class Proposing(unittest.TestCase):
    def test_a_flat_dull_picture_is_lifted_subtly(self) -> None:
        image = 0.15 + 0.5 * skin(160, 200, seed=2)
        work = bench(image.astype(np.float32))
        done = ProposeLook().perform(Edit(), work)
        light = next(p for p in done.edit.passes if p.kind == "light")
        self.assertGreater(float(light.settings["exposure_ev"]), 0.05)  # type: ignore[arg-type]
        self.assertLessEqual(float(light.settings["exposure_ev"]), 0.5)  # type: ignore[arg-type]
        after = work.renderer.render(done.edit, Rect(0, 0, 200, 160))
        self.assertGreater(from_srgb(after).mean((0, 1))[0], from_srgb(image).mean((0, 1))[0])

    def test_a_new_white_balance_begins_with_the_pictures_own_light(self) -> None:
        done = AddPass("white_balance").perform(Edit(), bench(skin(60, 80)))
        one = done.edit.passes[0]
        self.assertEqual(one.settings["temperature_k"], one.fit.values["own_kelvin"])

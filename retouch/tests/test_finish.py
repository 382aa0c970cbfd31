"""The last look: formulas against published ones, symmetry, halos, grain."""

import unittest

import colour
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.colour.lab import to_lab
from retouch.colour.linear import decoded, encoded
from retouch.edit import Edit, Pass
from retouch.finish import grain, sharpen, soft, tones, vignette
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.passes.ways import FramePlace
from retouch.picture import Picture, Pyramid, read
from retouch.render import Renderer, render_view, render_whole
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, perform

RNG = np.random.default_rng(7)


def lab_by_colour_science(encoded_srgb: np.ndarray) -> np.ndarray:
    """CIELAB for D65 by colour-science, from encoded sRGB (IEC 61966-2-1)."""
    xyz = colour.sRGB_to_XYZ(encoded_srgb.astype(np.float64))
    return np.asarray(colour.XYZ_to_Lab(xyz, colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]))  # fmt: skip


class SplitToning(unittest.TestCase):
    def test_lightness_stays_and_greys_get_the_hues(self) -> None:
        greys = np.linspace(0.1, 0.9, 33, dtype=np.float32)[None, :, None].repeat(3, 2)
        out = tones.split_toned(greys, tones.Tint(75, 0.4), tones.Tint(250, 0.4), 0.0)
        before, after = lab_by_colour_science(greys), lab_by_colour_science(out)
        self.assertLess(float(np.abs(after[..., 0] - before[..., 0]).max()), 0.3)
        hue = np.degrees(np.arctan2(after[0, :, 2], after[0, :, 1])) % 360
        self.assertAlmostEqual(float(hue[-3]), 75, delta=2)
        self.assertAlmostEqual(float(hue[2]), 250, delta=2)

    def test_balance_gives_the_lights_more(self) -> None:
        grey = np.full((1, 1, 3), 0.4, np.float32)
        b = [
            float(to_lab(tones.split_toned(grey, tones.Tint(90, 0.5), tones.Tint(270, 0.5), k))[0, 0, 2])
            for k in (-0.8, 0.0, 0.8)
        ]  # fmt: skip
        self.assertLess(b[0], b[1])
        self.assertLess(b[1], b[2])

    def test_black_and_white_stay(self) -> None:
        ends = np.float32([[[0, 0, 0], [1, 1, 1]]])
        out = tones.split_toned(ends, tones.Tint(75, 1), tones.Tint(250, 1), 0)
        self.assertLess(float(np.abs(out - ends).max()), 2e-3)


class Mono(unittest.TestCase):
    def test_with_the_weights_of_the_w3c_it_is_their_luminosity(self) -> None:
        """Lum(C) = 0.3 R + 0.59 G + 0.11 B: W3C Compositing and Blending Level 1, 10.1."""
        image = RNG.uniform(0, 1, (20, 30, 3)).astype(np.float32)
        out = tones.mono(image, (0.30, 0.59, 0.11), {}, tones.Tint(0, 0))
        wanted = image @ np.float32([0.30, 0.59, 0.11])
        self.assertLess(float(np.abs(out - wanted[..., None]).max()), 1e-6)

    def test_a_colour_is_made_lighter_and_greys_are_not(self) -> None:
        image = np.float32([[[0.7, 0.4, 0.3], [0.3, 0.4, 0.7], [0.5, 0.5, 0.5]]])
        weights, none = (0.45, 0.45, 0.1), tones.Tint(0, 0)
        plain = tones.mono(image, weights, {}, none)
        lit = tones.mono(image, weights, {"oranges": 1.0}, none)
        self.assertGreater(float((lit - plain)[0, 0].min()), 0.05)
        self.assertLess(float(np.abs(lit - plain)[0, 1:].max()), 0.01)

    def test_all_hues_together_are_even(self) -> None:
        hue = np.arange(0, 360, dtype=np.float32)
        total = sum(tones._nearness(hue, n) for n in tones.HUES)
        self.assertLess(float(np.abs(np.asarray(total) - 1).max()), 1e-5)


class SoftLook(unittest.TestCase):
    def test_the_spread_is_a_direct_convolution(self) -> None:
        """A large blur on cells against SciPy's Gaussian at full size."""
        image = RNG.uniform(0, 1, (240, 260, 3)).astype(np.float32)
        image[100:140, 110:160] = 1
        whole = Rect(0, 0, 260, 240)
        for sigma in (2.0, 14.0):
            light = decoded(image)
            direct = np.stack([gaussian_filter(light[..., k], sigma) for k in range(3)], -1)
            got = soft.softened(image, whole, whole, sigma, 0.0, 1.0, 0.5)
            mixed = light * 0.4 + 0.6 * (direct + 0.02)
            wanted = encoded(mixed.astype(np.float32))
            inner = np.s_[60:-60, 60:-60]
            self.assertLess(float(np.abs(got - wanted)[inner].max()), 0.01, sigma)

    def test_a_pixel_is_the_same_whatever_is_asked_for(self) -> None:
        image = RNG.uniform(0, 1, (300, 300, 3)).astype(np.float32)
        sigma, far = 9.0, soft.reach(9.0)
        whole, part = Rect(0, 0, 300, 300), Rect(130, 121, 170, 161)
        one = soft.softened(image, whole, part, sigma, 0.7, 0.4, 0.5)
        wide = part.grow(far)
        other = soft.softened(
            np.ascontiguousarray(image[wide.within(whole)]), wide, part, sigma, 0.7, 0.4, 0.5
        )
        self.assertLess(float(np.abs(one - other).max()), 2e-4)

    def test_eyes_stay_clear_and_hair_half(self) -> None:
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "eli.jpg")), understand("eli").analysis)
        edit = perform(Edit(), AddPass("soft_look"), bench).edit
        (one,) = edit.passes
        shares = {a.zone: a.share for a in one.mask.areas}  # type: ignore[union-attr]
        self.assertEqual((shares["eyes"], shares["hair"]), (100.0, 50.0))
        assert bench.analysis is not None
        eye = bench.analysis.faces[0].right_iris
        rect = Rect(int(eye.x) - 3, int(eye.y) - 3, int(eye.x) + 3, int(eye.y) + 3)
        full = Edit((completed(Pass("p", "soft_look", settings={"mist": 100.0}, mask=one.mask, fit=one.fit)),))  # fmt: skip
        before, after = (bench.renderer.plan(e).view(rect, 0) for e in (Edit(), full))
        self.assertLess(float(np.abs(np.asarray(after) - before).max()), 0.01)


class Sharpening(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.5, 3.0), st.floats(0, 0.4), st.floats(0.1, 1.0))
    def test_an_ideal_edge_goes_beyond_by_no_more_than_its_halo(
        self, radius: float, halo: float, amount: float
    ) -> None:
        image = np.full((40, 60, 3), 0.3, np.float32)
        image[:, 30:] = 0.7
        light = to_lab(sharpen.sharpened(image, amount, radius, 0.0, halo))[..., 0]
        low, high = (float(v) for v in np.quantile(to_lab(image)[..., 0], (0, 1)))
        span = high - low
        self.assertLessEqual(float(light.max()), high + halo * span + 0.1)
        self.assertGreaterEqual(float(light.min()), low - halo * span - 0.1)

    def test_a_soft_edge_becomes_steeper_and_colour_stays(self) -> None:
        x = np.linspace(-6, 6, 80)
        ramp = (0.5 + 0.2 * np.tanh(x / 2))[None].repeat(30, 0)
        image = np.stack([ramp, 0.8 * ramp, 0.7 * ramp], -1).astype(np.float32)
        out = sharpen.sharpened(image, 1.0, 3.0, 0.0, 0.1)
        slope = [np.abs(np.diff(to_lab(i)[15, :, 0])).max() for i in (image, out)]
        self.assertGreater(slope[1], 1.12 * slope[0])
        self.assertLess(float(np.abs(to_lab(out)[..., 1:] - to_lab(image)[..., 1:]).max()), 0.6)

    def test_below_the_threshold_nothing_happens(self) -> None:
        image = (0.5 + RNG.normal(0, 0.002, (40, 40, 3))).astype(np.float32)
        np.testing.assert_array_equal(sharpen.sharpened(image, 1.0, 1.0, 6.0, 0.2), image)


class VignetteForm(unittest.TestCase):
    def made(self, **more: float) -> np.ndarray:
        one = vignette.Vignette(-0.8, 0.3, 0.7, more.pop("form", 0.5), **more)
        xs, ys = np.arange(120, dtype=np.float32) + 0.5, np.arange(90, dtype=np.float32) + 0.5
        share = vignette.weight(one, xs, ys, 120, 90)
        return vignette.laid(np.full((90, 120, 3), 0.5, np.float32), one, share)

    def test_it_is_symmetric_to_the_pixel(self) -> None:
        for form in (0.0, 0.5, 1.0):
            out = self.made(form=form)
            np.testing.assert_array_equal(out, out[::-1])
            np.testing.assert_array_equal(out, out[:, ::-1])

    def test_the_middle_stays_and_corners_are_darker_by_stops(self) -> None:
        out = self.made(form=1.0)
        self.assertEqual(float(out[45, 60, 0]), 0.5)
        stops = np.log2(
            decoded(out)[0, 0, 0] / decoded(np.full((1, 1, 3), 0.5, np.float32))[0, 0, 0]
        )
        self.assertAlmostEqual(float(stops), -2.4, delta=0.4)

    def test_its_middle_can_be_elsewhere(self) -> None:
        out = self.made(form=0.0, x=0.25, y=0.5)
        self.assertGreater(float(out[45, 10, 0]), float(out[45, 110, 0]))


class Grain(unittest.TestCase):
    def test_its_mean_is_nothing_and_its_deviation_one(self) -> None:
        field = grain.noise(0, 0, 1.0, 2.0, (600, 600), 3)
        self.assertLess(abs(float(field.mean())), 0.03)
        self.assertAlmostEqual(float(field.std()), 1.0, delta=0.12)

    def test_larger_grains_have_their_energy_at_lower_frequencies(self) -> None:
        tops = []
        for size in (1.5, 3.0, 6.0):
            field = grain.noise(0, 0, 1.0, size, (512, 512), 3)
            power = np.abs(np.fft.rfft2(field - field.mean())) ** 2
            fy, fx = np.meshgrid(np.fft.fftfreq(512), np.fft.rfftfreq(512), indexing="ij")
            radius = np.hypot(fx, fy).ravel()
            order = np.argsort(radius)
            sums = np.cumsum(power.ravel()[order])
            tops.append(float(radius[order][np.searchsorted(sums, 0.5 * sums[-1])]))
        self.assertAlmostEqual(tops[0] / tops[1], 2.0, delta=0.7)
        self.assertAlmostEqual(tops[1] / tops[2], 2.0, delta=0.5)

    def test_it_is_the_same_in_any_part_and_another_by_another_seed(self) -> None:
        whole = grain.noise(0, 0, 1.0, 1.8, (80, 90), 5)
        np.testing.assert_array_equal(
            grain.noise(30, 20, 1.0, 1.8, (40, 50), 5), whole[20:60, 30:80]
        )
        other = grain.noise(0, 0, 1.0, 1.8, (80, 90), 6)
        self.assertLess(abs(float(np.corrcoef(whole.ravel(), other.ravel())[0, 1])), 0.1)

    def test_black_and_white_have_none(self) -> None:
        ends = np.float32([[[0, 0, 0], [1, 1, 1]]]).repeat(40, 0)
        out = grain.grained(ends, (0, 0), 1.0, 1.0, 1.5, 0.5, 0.0, 1)
        self.assertLess(float(np.abs(out - ends).max()), 2e-3)


class InPictures(unittest.TestCase):
    KINDS = (
        ("split_toning", {"lights_amount": 50.0, "shadows_amount": 40.0}),
        ("mono", {"tone_amount": 20.0}),
        ("soft_look", {"glow": 60.0, "mist": 30.0}),
        ("sharpen", {"amount": 80.0}),
        ("vignette", {"amount": -60.0}),
        ("grain", {"amount": 60.0, "size_px": 3.0}),
        ("grain", {"amount": 60.0, "measured": "print", "size_mm": 0.5, "print_cm": 5.0}),
        ("finish_light", {"lift": 30.0}),
    )

    def test_views_are_as_the_file(self) -> None:
        y, x = np.mgrid[:200, :260]
        waves = 0.5 + 0.3 * np.sin(x / 21) * np.cos(y / 17)
        pixels = np.stack([waves, 0.8 * waves, 0.7 * waves], -1) + RNG.normal(
            0, 0.02, (200, 260, 3)
        )
        picture = Picture((np.clip(pixels, 0, 1) * 255).astype(np.uint8))
        renderer = Renderer(Pyramid(picture))
        for kind, values in self.KINDS:
            one = completed(Pass("p", kind, settings=values))
            edit = Edit((one,))
            made = render_whole(renderer, edit).pixels
            self.assertGreater(float(np.abs(made.astype(int) - picture.pixels).mean()), 0.15, kind)
            view = render_view(renderer.plan(edit), 0, 0, 1, 260, 200)
            self.assertLessEqual(int(np.abs(view.astype(int) - made).max()), 1, kind)
            part = render_view(renderer.plan(edit), 60, 40, 1, 90, 70)
            self.assertLessEqual(
                int(np.abs(part.astype(int) - made[40:110, 60:150]).max()), 1, kind
            )
            nothing = replaced_by_nothing(one)
            np.testing.assert_array_equal(
                render_whole(renderer, nothing).pixels, picture.pixels, kind
            )

    def test_grain_of_a_print_is_as_large_on_it_whatever_the_picture_holds(self) -> None:
        """0.4 mm on a print of 10 cm: 4 pixels of 1000, 2 of 500 (the share of energy below a frequency in 1/mm)."""
        found = []
        for side in (500, 1000):
            renderer = Renderer(Pyramid(Picture(np.full((side // 2, side, 3), 118, np.uint8))))
            settings = {"amount": 100.0, "measured": "print", "size_mm": 0.4, "print_cm": 10.0}
            edit = Edit((completed(Pass("p", "grain", settings=settings)),))
            made = render_whole(renderer, edit).pixels[..., 1].astype(np.float64)
            power = np.abs(np.fft.rfft2(made - made.mean())) ** 2
            per_mm = side / 100
            fy, fx = np.meshgrid(
                np.fft.fftfreq(side // 2), np.fft.rfftfreq(side), indexing="ij"
            )  # fmt: skip
            coarse = np.hypot(fx, fy) * per_mm < 1.25
            found.append(float(power[coarse].sum() / power.sum()))
        self.assertAlmostEqual(found[0], found[1], delta=0.1)
        self.assertGreater(found[1], 0.5)

    def test_a_grain_of_the_frame_is_placed_by_it(self) -> None:
        place = FramePlace(12.0, 8.0, 1.0, 300, 200)
        image = np.full((20, 30, 3), 0.5, np.float32)
        out = grain.grained(image, (place.x, place.y), 1.0, 0.5, 2.0, 0.0, 0.0, 1)
        wide = grain.grained(
            np.full((40, 60, 3), 0.5, np.float32), (0.0, 0.0), 1.0, 0.5, 2.0, 0.0, 0.0, 1
        )
        np.testing.assert_allclose(out, wide[8:28, 12:42], atol=1e-6)


def replaced_by_nothing(one: Pass) -> Edit:
    """The same pass with strength 0: the picture has to be the original, bit for bit."""
    return Edit((completed(Pass(one.id, one.kind, settings=one.settings, strength=0.0)),))

"""Bands of detail: exact recombination, their sizes, and touches that stay in one."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from retouch.bands import BANDS, LIMITS_MM, PARTS, Sizes, band, split
from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, propose_source
from retouch.tests.scenes import skin

SIZES = Sizes(8.0)


class Recombining(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(
        st.integers(5, 90), st.integers(5, 90), st.floats(0.3, 30), st.floats(0.2, 5),
        st.integers(0, 1000),
    )  # fmt: skip
    def test_the_sum_of_the_bands_is_the_picture(
        self, h: int, w: int, px_per_mm: float, divide: float, seed: int
    ) -> None:
        image = np.random.default_rng(seed).random((h, w, 3), np.float32)
        sizes = Sizes(px_per_mm, divide)
        for names in (BANDS, PARTS):
            total = np.sum(split(image, sizes, names), 0)
            np.testing.assert_allclose(total, image, atol=2e-6)

    def test_a_pixel_is_the_same_whatever_rectangle_is_asked(self) -> None:
        image = np.random.default_rng(1).random((200, 260, 3), np.float32)
        bounds = Rect(0, 0, 260, 200)

        def read(r: Rect) -> np.ndarray:
            assert r.clip(bounds) == r
            return image[r.y0 : r.y1, r.x0 : r.x1]

        for name in (*BANDS, *PARTS):
            whole = band(read, bounds, bounds, name, SIZES)
            part = Rect(61, 47, 123, 95)
            got = band(read, part, bounds, name, SIZES)
            np.testing.assert_allclose(got, whole[47:95, 61:123], atol=2e-5, err_msg=name)

    def test_blurs_are_gaussian(self) -> None:
        image = skin(220, 260, grain=0.05, seed=4)
        for mm in (0.5, 1.5, 4.0):
            tone = split(image, Sizes(8.0, mm), ("tone",))[0]
            expected = ndimage.gaussian_filter(
                image, (4 * mm, 4 * mm, 0), mode="reflect", truncate=3
            )
            np.testing.assert_allclose(tone, expected, atol=2e-3)

    def test_a_form_lies_in_the_band_of_its_size(self) -> None:
        """A Gaussian spot's energy is highest in the band whose limits embrace its width."""
        ys, xs = np.mgrid[:400, :400] - 200.0
        for n, mm in enumerate((0.1, 0.3, 0.9, 2.6, 7.5)):
            sigma = 0.25 * mm * 8 * 2
            blob = np.exp(-(xs**2 + ys**2) / (2 * max(sigma, 0.4) ** 2)).astype(np.float32)
            image = np.repeat((0.5 + 0.3 * blob)[..., None], 3, 2)
            energies = [float(np.square(b).sum()) for b in split(image, Sizes(8.0))[:-1]]
            self.assertEqual(int(np.argmax(energies)), n, f"{mm} mm, limits {LIMITS_MM}")


class TouchesInABand(unittest.TestCase):
    def setUp(self) -> None:
        image = skin(460, 700, grain=0.03, seed=11)
        ys, xs = np.mgrid[:460, :700] + 0.5
        blotch = np.exp(-((xs - 200) ** 2 + (ys - 180) ** 2) / (2 * 30.0**2))[..., None]
        self.clean = image.copy()
        self.image = (image - blotch * np.array([0.0, 0.07, 0.05])).astype(np.float32)
        self.picture = Picture(to_integers(self.image, 16))
        self.renderer = Renderer(Pyramid(self.picture))
        self.area = np.hypot(xs - 200, ys - 180) < 45

    def render(self, one: Pass) -> np.ndarray:
        edit = loads(dumps(Edit((one,))))
        return self.renderer.render(edit, self.picture.bounds)

    def test_a_blotch_goes_while_the_pores_stay(self) -> None:
        """Healing in the tone alone keeps at least 97 % of the pore band's energy."""
        values = {"radius_px": 75.0, "softness": 40.0, "opacity": 100.0}
        settings = {"keep_edges": False, "band": "tone", "divide_mm": 1.0, "px_per_mm": 8.0}
        touch = Touch("a", ((200.0, 180.0),), values)
        empty = Pass("p", "heal", settings=settings)
        found = propose_source(self.renderer, Edit((empty,)), "p", touch)
        one = Pass(
            "p", "heal", settings=settings, touches=(Touch("a", touch.path, values, found[0]),)
        )
        out = self.render(one)

        def redness(a: np.ndarray) -> float:
            soft = cv2.GaussianBlur(a, (0, 0), 8)
            return float(np.abs(soft - cv2.GaussianBlur(self.clean, (0, 0), 8))[self.area].mean())

        self.assertLess(redness(out), 0.35 * redness(self.image))

        def pores(a: np.ndarray) -> float:
            return float(np.square(split(a, SIZES, ("pores",))[0][self.area]).mean())

        self.assertGreater(pores(out) / pores(self.image), 0.97)
        self.assertLess(pores(out) / pores(self.image), 1.03)

    def test_a_copy_in_one_band_leaves_the_others(self) -> None:
        values = {"radius_px": 60.0, "softness": 100.0, "opacity": 100.0, "flow": 100.0}
        settings = {"band": "pores", "px_per_mm": 8.0, "divide_mm": 1.0}
        one = Pass(
            "p",
            "clone",
            settings=settings,
            touches=(Touch("a", ((120.0, 180.0),), values, (180, 20)),),
        )
        out = self.render(one)
        raw = self.renderer.render(Edit(), self.picture.bounds)
        middle = np.s_[165:195, 105:135]
        want = split(raw, SIZES, ("pores",))[0][185:215, 285:315]
        have = split(out, SIZES, ("pores",))[0][middle]
        had = split(raw, SIZES, ("pores",))[0][middle]
        # Neighbouring bands overlap, so not all of what is seen as pores was replaced.
        self.assertLess(np.abs(have - want).mean(), 0.65 * np.abs(had - want).mean())
        for name in ("bumps", "blotches", "light"):
            a, b = (split(i, SIZES, (name,))[0][middle] for i in (out, raw))
            self.assertLess(np.abs(a - b).max(), 0.004, name)

    def test_where_nothing_is_done_nothing_changes(self) -> None:
        values = {"radius_px": 20.0, "softness": 20.0, "opacity": 100.0, "flow": 100.0}
        for name in (*BANDS, *PARTS):
            one = Pass(
                "p",
                "clone",
                settings={"band": name},
                touches=(Touch("a", ((90.0, 90.0),), values, (150, 90)),),
            )
            out = self.render(one)
            raw = self.renderer.render(Edit(), self.picture.bounds)
            np.testing.assert_array_equal(out[:, 130:], raw[:, 130:])


class BlendingTone(unittest.TestCase):
    def render(self, image: np.ndarray, **values: float) -> np.ndarray:
        picture = Picture(to_integers(image, 16))
        base = {"radius_px": 30.0, "softness": 50.0, "opacity": 80.0, "flow": 100.0, "guard": 8.0}
        stroke = tuple((x, 100.0) for x in np.linspace(60.0, 140.0, 9))
        touch = Touch("a", stroke, {**base, **values})
        edit = loads(dumps(Edit((Pass("p", "blend", touches=(touch,)),))))
        return Renderer(Pyramid(picture)).render(edit, picture.bounds)

    def patchy(self) -> np.ndarray:
        image = skin(200, 200, grain=0.02, seed=7)
        ys, xs = np.mgrid[:200, :200]
        image += (0.02 * np.sin(xs / 14) * np.sin(ys / 13))[..., None].astype(np.float32)
        return image

    def test_tone_is_evened_and_detail_stays(self) -> None:
        image = self.patchy()
        out = self.render(image)
        inner = np.s_[85:115, 65:135]
        before, after = split(image, SIZES, PARTS), split(out, SIZES, PARTS)
        self.assertLess(after[0][inner].std(0).mean(), before[0][inner].std(0).mean())
        ratio = np.square(after[1][inner]).mean() / np.square(before[1][inner]).mean()
        self.assertAlmostEqual(float(ratio), 1, delta=0.03)

    def test_strength_and_flow_build_up(self) -> None:
        image = self.patchy()
        weak, strong = self.render(image, opacity=20.0), self.render(image, opacity=80.0)
        low = self.render(image, flow=10.0)
        stored = to_integers(image, 16) / np.float32(65535)
        np.testing.assert_allclose(4 * (weak - stored), strong - stored, atol=2e-4)
        self.assertLess(np.abs(low - stored).sum(), np.abs(strong - stored).sum())

    def test_the_guard_keeps_light_and_dark_apart(self) -> None:
        image = skin(200, 200, grain=0.005, seed=8)
        image[:, 100:] *= np.float32(0.6)
        guarded, open_ = self.render(image, guard=4.0), self.render(image, guard=50.0)
        near = np.s_[90:110, 112:118]
        self.assertLess(np.abs(guarded - image)[near].mean(), 0.006)
        self.assertGreater(np.abs(open_ - image)[near].mean(), 0.02)

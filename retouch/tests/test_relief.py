"""Lines, faint blemishes, small light, one colour; and what holds for every pass on skin."""

from __future__ import annotations

import unittest
from typing import Any

import cv2
import numpy as np
from skimage.color import rgb2lab
from skimage.feature import hessian_matrix, hessian_matrix_eigvals

from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Pixels
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.skin.lines import lines
from retouch.tests.scenes import skin
from retouch.tests.test_even import edit, own, rendered

SCALE = 6.0


def with_line(depth: float = 0.06) -> tuple[np.ndarray, np.ndarray]:
    """Skin with a long thin crease, and where it is."""
    image = skin(240, 320, seed=3)
    place = np.zeros((240, 320), np.float32)
    points = np.array([[40, 118], [120, 126], [200, 120], [280, 128]], np.int32)
    cv2.polylines(place, [points], False, 1.0, 3, cv2.LINE_AA)
    return image * (1 - depth * cv2.GaussianBlur(place, (0, 0), 1.2)[..., None]), place > 0.9


class Lines(unittest.TestCase):
    def light(self, image: np.ndarray) -> np.ndarray:
        return rgb2lab(image)[..., 0].astype(np.float32)

    def test_a_crease_is_found_and_a_pore_is_not(self) -> None:
        image, crease = with_line()
        pores = np.zeros((240, 320), np.float32)
        spots = [(60, 50), (150, 60), (240, 40), (90, 190), (200, 200)]
        for x, y in spots:
            cv2.circle(pores, (x, y), 3, 1.0, -1)
        image = image * (1 - 0.06 * cv2.GaussianBlur(pores, (0, 0), 1.2)[..., None])
        found = lines(self.light(image), Rect(0, 0, 320, 240), 1.2 * SCALE, 0.8)
        self.assertGreater(float(found[crease].mean()), 0.5)
        self.assertLess(float(np.mean([found[y, x] for x, y in spots])), 0.3)

    def test_bends_agree_with_a_reference_library(self) -> None:
        """Along a plain valley the answer has its ridge where scikit-image's Hessian has it."""
        ys, xs = np.mgrid[:120, :160].astype(np.float32)
        valley = 60 - 4 * np.exp(-((ys - 60 - 0.1 * xs) ** 2) / (2 * 3.0**2))
        found = lines(valley.astype(np.float32), Rect(0, 0, 160, 120), 6.0, 0.5)
        reference = hessian_matrix_eigvals(
            hessian_matrix(valley, sigma=3.0, use_gaussian_derivatives=False)
        )[0]
        inner = np.s_[30:90, 40:120]
        rows = [np.argmax(a[inner], 0) for a in (reference, found + 1e-3 * reference)]
        self.assertLess(float(np.abs(rows[0] - rows[1]).mean()), 1.5)

    def depth(self, image: np.ndarray, crease: np.ndarray) -> float:
        light = self.light(image)
        beside = cv2.dilate(crease.astype(np.uint8), np.ones((19, 19))).astype(bool)
        ring = beside & ~cv2.dilate(crease.astype(np.uint8), np.ones((9, 9))).astype(bool)
        return float(light[ring].mean() - light[crease].mean())

    def test_the_default_leaves_a_line_and_all_of_it_takes_nearly_all(self) -> None:
        image, crease = with_line()
        before = self.depth(image, crease)
        part = {
            amount: self.depth(
                rendered(image, edit("lines", amount=amount, px_per_mm=SCALE)), crease
            ) / before
            for amount in (40, 100)
        }  # fmt: skip
        self.assertGreater(part[40], 0.5)
        self.assertLess(part[40], 0.85)
        self.assertLess(part[100], 0.45)

    def test_skin_without_lines_keeps_its_texture(self) -> None:
        image = skin(240, 320, seed=3)
        out = rendered(image, edit("lines", amount=100, px_per_mm=SCALE))
        fine = [a[..., 1] - cv2.GaussianBlur(a[..., 1], (0, 0), 2) for a in (image, out)]
        self.assertAlmostEqual(float(fine[1].std() / fine[0].std()), 1, delta=0.05)


class Blemishes(unittest.TestCase):
    def spotted(self, depth: float) -> tuple[np.ndarray, np.ndarray]:
        image = skin(240, 320, seed=4)
        ys, xs = np.mgrid[:240, :320]
        place = np.exp(-((xs - 160) ** 2 + (ys - 120) ** 2) / (2 * 5.0**2))[..., None]
        middle = np.hypot(xs - 160, ys - 120) < 4
        tint = np.array([0.6, 1.0, 1.0]) * depth
        return (image * (1 - place * tint)).astype(np.float32), middle

    def contrast(self, image: np.ndarray, middle: np.ndarray) -> float:
        lab = rgb2lab(image)
        return float(
            np.linalg.norm(lab[middle].mean(0) - lab[90:150, 60:100].reshape(-1, 3).mean(0))
        )

    def test_a_faint_spot_becomes_fainter_by_about_the_amount(self) -> None:
        image, middle = self.spotted(0.16)
        before = self.contrast(image, middle)
        out = rendered(image, edit("blemishes", amount=60, variety=1, px_per_mm=SCALE))
        self.assertLess(self.contrast(out, middle), 0.75 * before)
        self.assertGreater(self.contrast(out, middle), 0.25 * before)

    def test_a_strong_mark_is_no_blemish(self) -> None:
        image, middle = self.spotted(0.6)
        out = rendered(image, edit("blemishes", amount=100, px_per_mm=SCALE))
        before = self.contrast(image, middle)
        self.assertGreater(self.contrast(out, middle), 0.95 * before)


class SmallLight(unittest.TestCase):
    def test_light_is_evened_and_colour_held(self) -> None:
        image = skin(240, 320, seed=6)
        ys, xs = np.mgrid[:240, :320].astype(np.float32)
        waves = 0.05 * np.sin(xs / 7) * np.sin(ys / 7)
        image = (image * (1 + waves[..., None])).astype(np.float32)
        out = rendered(image, edit("even_light", amount=80, size_mm=12, guard=0, px_per_mm=SCALE))
        soft = [cv2.GaussianBlur(rgb2lab(a), (0, 0), 5)[40:200, 40:280] for a in (image, out)]
        self.assertLess(float(soft[1][..., 0].std()), 0.75 * float(soft[0][..., 0].std()))
        np.testing.assert_allclose(soft[1][..., 1:], soft[0][..., 1:], atol=0.6)


class OneColour(unittest.TestCase):
    def setUp(self) -> None:
        self.image = skin(240, 320, seed=2)
        self.own = own(self.image)
        self.patches = [np.s_[60:110, 60:110], np.s_[130:180, 200:250]]
        for p in self.patches:
            self.image[p] = self.image[p] * np.array([1.0, 0.8, 0.75], np.float32)
        self.pressed = rgb2lab(self.image)[75:95, 75:95].reshape(-1, 3).mean(0)

    def changed(self, **values: Any) -> np.ndarray:
        where = {f"from_{c}": float(v) for c, v in zip("lab", self.pressed, strict=True)}
        return rendered(self.image, edit("one_colour", **where, **values, **self.own))

    def test_it_changes_in_all_alike_places_and_nowhere_else(self) -> None:
        out = self.changed(towards=80, tolerance=6)
        hue = lambda a: np.degrees(np.arctan2(a[..., 2].mean(), a[..., 1].mean()))  # noqa: E731
        goal = hue(rgb2lab(self.image)[190:230, 20:120])
        before, after = rgb2lab(self.image), rgb2lab(out)
        for p in self.patches:
            inner = (slice(p[0].start + 12, p[0].stop - 12), slice(p[1].start + 12, p[1].stop - 12))
            self.assertLess(abs(hue(after[inner]) - goal), 0.4 * abs(hue(before[inner]) - goal))
        raw = rendered(self.image, Edit())
        np.testing.assert_array_equal(out[190:230, 20:180], raw[190:230, 20:180])

    def test_light_alone(self) -> None:
        out = rgb2lab(self.changed(light=5, tolerance=6))
        inner = np.s_[75:95, 75:95]
        moved = (out - rgb2lab(self.image))[inner].reshape(-1, 3).mean(0)
        self.assertAlmostEqual(float(moved[0]), 5, delta=1.2)
        np.testing.assert_allclose(moved[1:], 0, atol=0.5)


class EveryPassOnSkin(unittest.TestCase):
    """What a pass on skin may not do, whichever it is."""

    def setUp(self) -> None:
        image, _ = with_line(0.1)
        ys, xs = np.mgrid[:240, :320]
        shine = np.exp(-((xs - 230) ** 2 + (ys - 70) ** 2) / 900)[..., None]
        red = np.exp(-((xs - 90) ** 2 + (ys - 170) ** 2) / 500)[..., None]
        image = image * (1 - red * np.array([0, 0.2, 0.2])) + 0.3 * shine
        self.image = np.clip(image, 0, 1).astype(np.float32)
        self.own = {**own(self.image), "px_per_mm": 2.0}
        self.kinds = [
            k for k in registry.all_kinds() if k.stage == "even" and isinstance(k.way, Pixels)
        ]

    def made(self, kind: registry.PassKind, **values: Any) -> Edit:
        known = {s.name for s in (*kind.settings, *kind.fitted)}
        return edit(kind.name, **{n: v for n, v in {**self.own, **values}.items() if n in known})

    def test_nothing_set_is_the_picture_itself_bit_for_bit(self) -> None:
        raw = rendered(self.image, Edit())
        nothing = ("amount", "fine", "middle", "broad", "fresh", "hue", "saturation", "lightness",
                   "towards", "light", "cast")  # fmt: skip
        for kind in self.kinds:
            out = rendered(self.image, self.made(kind, **dict.fromkeys(nothing, 0)))
            np.testing.assert_array_equal(out, raw, kind.name)

    def test_a_part_is_what_the_whole_has_there(self) -> None:
        """Which is what lets views, strips and exports agree: margins are as large as they say."""
        image = np.tile(self.image, (3, 3, 1))
        renderer = Renderer(Pyramid(Picture(to_integers(image, 16))))
        for kind in self.kinds:
            what = self.made(kind, fresh=30)
            for level in (0, 1):
                whole = renderer.render(what, renderer.bounds, level)
                rect = Rect(337, 251, 562, 446)
                part = renderer.render(what, rect, level)
                at = rect.reduced(level)
                there = whole[at.y0 : at.y1, at.x0 : at.x1]
                self.assertLess(float(np.abs(part - there).max()), 2e-3, (kind.name, level))

    def test_large_pictures_are_computed_in_strips_that_fit(self) -> None:
        image = np.tile(self.image, (5, 5, 1))
        renderer = Renderer(Pyramid(Picture(to_integers(image, 16))))
        for kind in self.kinds:
            what = self.made(kind)
            whole = renderer.render(what, renderer.bounds)
            middle = renderer.bounds.height // 2
            seam = Rect(500, middle - 60, 900, middle + 60)
            part = renderer.render(what, seam)
            there = whole[seam.y0 : seam.y1, seam.x0 : seam.x1]
            self.assertLess(float(np.abs(part - there).max()), 2e-3, kind.name)

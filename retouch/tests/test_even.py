"""Passes on skin: what they change, what they hold, and against the truth of the demo portraits."""

from __future__ import annotations

import unittest
from typing import Any

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000, rgb2lab

from benchmarks import scoring
from retouch.colour.depth import to_integers
from retouch.edit import Edit
from retouch.forms.form import from_data
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer
from retouch.skin.smooth import edge_aware, soft
from retouch.tests.scenes import skin

WHOLE = Rect(0, 0, 320, 240)


def edit(kind: str, zone: str | None = None, **settings: Any) -> Edit:
    areas = [{"kind": "zone", "zone": zone}] if zone else []
    one = {"id": "p", "kind": kind, "settings": settings, "mask": {"areas": areas}}
    return from_data({"version": 1, "passes": [one]})


def own(image: np.ndarray) -> dict[str, float]:
    """The skin's colour by scikit-image, as settings."""
    light, a, b = np.median(rgb2lab(image).reshape(-1, 3), 0)
    return {"skin_l": float(light), "skin_a": float(a), "skin_b": float(b), "px_per_mm": 6.0}


def rendered(image: np.ndarray, what: Edit, rect: Rect | None = None, level: int = 0) -> np.ndarray:
    renderer = Renderer(Pyramid(Picture(to_integers(image, 16))))
    return renderer.render(what, rect or renderer.bounds, level)


class RedBlotch(unittest.TestCase):
    """Skin with a flushed place."""

    def setUp(self) -> None:
        self.image = skin(240, 320, seed=2)
        self.own = own(self.image)
        ys, xs = np.mgrid[:240, :320]
        self.place = np.hypot(xs - 160, ys - 120) < 40
        flush = cv2.GaussianBlur(self.place.astype(np.float32), (0, 0), 6)[..., None]
        self.image = self.image * (1 - flush * np.array([0.0, 0.22, 0.2], np.float32))
        self.before = rgb2lab(self.image)

    def off(self, lab: np.ndarray) -> float:
        return float((lab[self.place, 1] - self.own["skin_a"]).mean())

    def test_the_amount_is_the_part_that_goes_and_lightness_is_held(self) -> None:
        for amount in (30, 60, 100):
            after = rgb2lab(
                rendered(self.image, edit("redness", amount=amount, tolerance=1, **self.own))
            )
            part = 1 - self.off(after) / self.off(self.before)
            self.assertAlmostEqual(part, amount / 100, delta=0.12)
            self.assertLess(np.abs(after[..., 0] - self.before[..., 0]).max(), 0.7)

    def test_calm_skin_is_not_touched_at_all(self) -> None:
        out = rendered(self.image, edit("redness", **self.own))
        raw = rendered(self.image, Edit())
        np.testing.assert_array_equal(out[:40, :60], raw[:40, :60])

    def test_never_to_grey(self) -> None:
        """Where the skin's colour is said to be grey, the floor of its chroma holds."""
        grey = {**self.own, "skin_a": 4.0, "skin_b": 3.0}
        after = rgb2lab(rendered(self.image, edit("redness", amount=100, floor=100, **grey)))
        chroma = np.hypot(after[..., 1], after[..., 2])
        self.assertGreater(float(chroma.min()), 3.0)

    def test_nothing_of_it_is_the_picture_itself(self) -> None:
        raw = rendered(self.image, Edit())
        for kind in ("redness", "shine", "shadows"):
            nothing = {"amount": 0, "cast": 0} if kind == "shadows" else {"amount": 0}
            out = rendered(self.image, edit(kind, **nothing, **self.own))
            np.testing.assert_array_equal(out, raw, kind)


class Bands(unittest.TestCase):
    def setUp(self) -> None:
        self.image = skin(240, 320, seed=5)
        rng = np.random.default_rng(1)
        bumps = cv2.GaussianBlur(rng.standard_normal((240, 320)).astype(np.float32), (0, 0), 6)
        self.image = np.clip(self.image + 0.03 * (bumps / bumps.std())[..., None], 0, 1)
        self.image[:, 250:] *= 0.3  # hair

    def energy(self, image: np.ndarray, low: float, high: float) -> float:
        grey = image[..., 1]
        part = cv2.GaussianBlur(grey, (0, 0), low) - cv2.GaussianBlur(grey, (0, 0), high)
        return float(part[40:200, 40:200].std())

    def test_bumps_go_and_pores_stay(self) -> None:
        out = rendered(self.image, edit("skin_bands", middle=-80, broad=-80, px_per_mm=6))
        self.assertLess(self.energy(out, 4, 12), 0.65 * self.energy(self.image, 4, 12))
        self.assertAlmostEqual(
            self.energy(out, 0.3, 1.2) / self.energy(self.image, 0.3, 1.2), 1, delta=0.05
        )

    def test_stronger_is_more_than_there_was(self) -> None:
        out = rendered(self.image, edit("skin_bands", middle=60, broad=0, px_per_mm=6))
        self.assertGreater(self.energy(out, 4, 12), 1.15 * self.energy(self.image, 4, 12))

    def test_a_strong_edge_keeps_its_place_and_has_no_halo(self) -> None:
        plain = skin(240, 320, seed=5)
        plain[:, 250:] *= 0.3
        what = edit("skin_bands", middle=-100, broad=-100, guard=85, px_per_mm=6)
        out = rendered(plain, what)
        raw, got = (a[60:180, 230:270, 1].mean(0) for a in (plain, out))
        self.assertLess(np.abs(got - raw).max(), 0.035)
        self.assertLess(got[:18].max(), raw[:18].max() + 0.02)

    def test_lost_texture_grows_again_as_strong_as_around(self) -> None:
        flat = self.image.copy()
        flat[80:160, 80:160] = cv2.GaussianBlur(flat, (0, 0), 4)[80:160, 80:160]
        what = edit("skin_bands", middle=0, broad=0, fresh=100, px_per_mm=6)
        out = rendered(flat, what)

        def fine(image: np.ndarray) -> float:
            grey = np.ascontiguousarray(image[..., 1])
            return float((grey - cv2.GaussianBlur(grey, (0, 0), 1.8))[95:145, 95:145].std())

        self.assertLess(fine(flat), 0.4 * fine(self.image))
        self.assertGreater(fine(out), 0.6 * fine(self.image))
        self.assertLess(fine(out), 1.4 * fine(self.image))
        np.testing.assert_array_equal(out, rendered(flat, what))


class PartsAndLevels(unittest.TestCase):
    image = skin(480, 640, seed=9, slope=0.2)
    kinds = (
        ("skin_bands", {"middle": -60, "broad": -40}),
        ("redness", {"amount": 80, "tolerance": 0}),
        ("shine", {"amount": 80, "threshold": 3}),
        ("shadows", {"amount": 80, "least": 0}),
    )

    def test_a_part_is_as_in_the_whole(self) -> None:
        part = Rect(170, 130, 330, 290)
        for kind, settings in self.kinds:
            what = edit(
                kind,
                **{**own(self.image), **settings}
                if kind != "skin_bands"
                else {**settings, "px_per_mm": 3},
            )
            whole = rendered(self.image, what)
            got = rendered(self.image, what, part)
            off = np.abs(got - whole[130:290, 170:330])
            self.assertLess(off.max(), 0.004, kind)

    def test_reduced_views_agree_with_the_full_size(self) -> None:
        for kind, settings in self.kinds:
            what = edit(
                kind,
                **{**own(self.image), **settings}
                if kind != "skin_bands"
                else {**settings, "px_per_mm": 6},
            )
            full = cv2.resize(rendered(self.image, what), (320, 240), interpolation=cv2.INTER_AREA)
            half = rendered(self.image, what, level=1)
            mean = deltaE_ciede2000(rgb2lab(full), rgb2lab(half)).mean()
            self.assertLess(mean, 0.5, kind)


class Smoothing(unittest.TestCase):
    def test_without_edges_it_is_nearly_a_blur_and_edges_stay(self) -> None:
        rng = np.random.default_rng(3)
        flat = (0.5 + 0.01 * rng.standard_normal((120, 160, 3))).astype(np.float32)
        rect = Rect(0, 0, 160, 120)
        out = edge_aware(flat, rect, 5.0, 0.2)
        self.assertLess(out.std(), 0.25 * flat.std())
        self.assertLess(np.abs(out - soft(flat, rect, 5.0)).max(), 0.02)
        flat[:, 80:] -= 0.4
        kept = edge_aware(flat, rect, 5.0, 0.03)
        self.assertGreater(float(kept[60, 76:79, 0].mean() - kept[60, 82:85, 0].mean()), 0.37)


class AgainstTheTruth(unittest.TestCase):
    """Skin by the true labels; *keep* is the portrait without shine, red patches, dark circles."""

    class Skin:
        key = "labels"

        def __init__(self, mask: np.ndarray) -> None:
            self.mask = mask

        def extent(self, zone: str, face: int) -> Rect | None:
            return None

        def cover(self, zone: str, face: int, rect: Rect, shape: tuple[int, int]) -> np.ndarray:
            h, w = self.mask.shape
            both = rect.clip(Rect(0, 0, w, h))
            out = np.zeros(shape, np.float32)
            out[: both.height, : both.width] = self.mask[both.y0 : both.y1, both.x0 : both.x1]
            return out

    def test_shine_comes_nearer_to_it_on_every_skin_tone(self) -> None:
        for name in scoring.PEOPLE:
            person = scoring.load(name)
            labels = cv2.imread(str(scoring.DEMO / "truth" / f"{name}_labels.png"), 0)
            inside = cv2.erode((labels == 1).astype(np.uint8), np.ones((9, 9))) > 0
            cover = self.Skin(cv2.GaussianBlur(inside.astype(np.float32), (0, 0), 3))
            picture = Picture(to_integers(person.raw, 8))
            renderer = Renderer(Pyramid(picture), zones=lambda e, c=cover: c)
            settings = {**own(person.keep[inside][None]), "px_per_mm": 5.0}
            out = renderer.render(edit("shine", "skin", **settings), renderer.bounds)

            def off(image: np.ndarray, person: Any = person, inside: Any = inside) -> float:
                pair = [
                    rgb2lab(cv2.GaussianBlur(a, (0, 0), 1.5))[inside] for a in (image, person.keep)
                ]
                return float(deltaE_ciede2000(*pair).mean())

            with self.subTest(name):
                self.assertLess(off(out), off(person.raw))
                np.testing.assert_array_equal(out[cover.mask == 0], person.raw[cover.mask == 0])

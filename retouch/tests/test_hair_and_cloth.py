"""Hair and cloth: what runs along strands, what stays, what is brought where."""

from __future__ import annotations

import unittest

import numpy as np
from numpy.typing import NDArray
from skimage.color import lab2rgb, rgb2lab
from skimage.feature import structure_tensor

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.features import cloth, hair
from retouch.features.flow import along, flow
from retouch.geometry import Rect
from retouch.picture import Pyramid, read
from retouch.work.bench import Bench, bench_for
from retouch.work.operations import AddPass, ChangePass, perform

Array = NDArray[np.float32]
WHOLE = Rect(0, 0, 160, 120)


def strands(angle: float, light: float = 30.0, contrast: float = 8.0) -> Array:
    """Hair that lies in a direction (degrees), CIELAB of brown hair, encoded 0..1."""
    y, x = np.mgrid[0 : WHOLE.height, 0 : WHOLE.width]
    across = x * np.sin(np.deg2rad(angle)) - y * np.cos(np.deg2rad(angle))
    lab = np.zeros((*x.shape, 3))
    lab[..., 0] = light + contrast * np.sin(across * 2 * np.pi / 7)
    lab[..., 1:] = (7, 12)
    return np.asarray(lab2rgb(lab), np.float32)


class Flow(unittest.TestCase):
    def test_the_direction_is_that_of_the_strands_and_of_the_library(self) -> None:
        for angle in (0, 30, 75, 120, 165):
            image = strands(angle)
            light = image.mean(2)
            way = flow(light, 5)[30:-30, 30:-30]
            found = np.rad2deg(np.arctan2(way[..., 1], way[..., 0])) % 180
            away = np.abs(found - angle)
            self.assertLess(float(np.minimum(away, 180 - away).max()), 2.0, angle)
            # scikit-image's structure tensor: the eigenvector of its smaller eigenvalue.
            rr, rc, cc = (t[60, 80] for t in structure_tensor(light, sigma=5))
            theirs = np.rad2deg(0.5 * np.arctan2(2 * rc, cc - rr)) + 90
            apart = abs(float(found[30, 50]) - theirs) % 180
            self.assertLess(min(apart, 180 - apart), 1.5)

    def test_means_along_strands_keep_them_apart(self) -> None:
        rng = np.random.default_rng(5)
        image = strands(35)
        noisy = image + rng.normal(0, 0.03, image.shape).astype(np.float32)
        mean = along(noisy, flow(image.mean(2), 4), 10)
        inner = np.s_[25:-25, 25:-25]
        before, after = (float(np.abs(i - image)[inner].mean()) for i in (noisy, mean))
        self.assertLess(after, 0.45 * before)
        self.assertGreater(float(mean[inner].std()), 0.9 * float(image[inner].std()))


class Hair(unittest.TestCase):
    def changed(self, image: Array, **look: float) -> NDArray[np.float64]:
        made = hair.changed(image, WHOLE, hair.HairLook(own=(30.0, 7.0, 12.0), **look), 6.0)
        return np.asarray(rgb2lab(np.asarray(made, np.float64)))[20:-20, 20:-20]

    def with_shine(self) -> Array:
        lab = rgb2lab(strands(90))
        y = np.arange(WHOLE.height)[:, None]
        lab[..., 0] += 25 * np.exp(-(((y - 60) / 14) ** 2))
        return np.asarray(lab2rgb(lab), np.float32)

    def test_shine_goes_both_ways_and_strands_stay(self) -> None:
        image = self.with_shine()
        before = self.changed(image)
        more, less = self.changed(image, shine=0.8), self.changed(image, shine=-1.0)
        middle, far = np.s_[38:42], np.s_[:6]
        self.assertGreater(float((more - before)[middle][..., 0].mean()), 2)
        self.assertLess(float((less - before)[middle][..., 0].mean()), -2)
        self.assertGreater(float(less[middle][..., 0].mean()), float(before[far][..., 0].mean()))
        spread = [float(i[middle][..., 0].std(1).mean()) for i in (before, less)]
        self.assertGreater(spread[1], 0.85 * spread[0])

    def test_grey_strands_come_to_the_hairs_own_colour(self) -> None:
        lab = rgb2lab(strands(90, contrast=3))
        lab[:, 60:66] = (62, 0.5, 1)
        before = np.asarray(lab2rgb(lab), np.float32)
        after = self.changed(before, greys=1.0)
        plain = self.changed(before)
        grey = np.s_[:, 41:45]
        self.assertGreater(float(after[grey][..., 2].mean()), 9)
        self.assertLess(float(after[grey][..., 0].mean()), 45)
        # They stay a little lighter than the others, whose own colour stays.
        self.assertGreater(float(after[grey][..., 0].mean()), 33)
        self.assertLess(float(np.abs(after - plain)[:, :30].max()), 1.5)

    def test_another_colour_keeps_light_and_strands(self) -> None:
        image = strands(60)
        before, after = self.changed(image), self.changed(image, recolour=1.0, hue=300, chroma=25)
        hue = np.rad2deg(np.arctan2(after[..., 2], after[..., 1])) % 360
        self.assertLess(float(np.abs(np.median(hue) - 300)), 3)
        self.assertLess(float(np.abs(after[..., 0] - before[..., 0]).mean()), 1.5)

    def test_roots_come_to_the_lengths(self) -> None:
        image = strands(60, light=18)
        before, after = self.changed(image), self.changed(image, roots=1.0)
        self.assertLess(abs(float(after[..., 0].mean()) - 30), 2.5)
        self.assertGreater(float(after[..., 0].std()), 0.85 * float(before[..., 0].std()))

    def test_nothing_is_the_same_bits(self) -> None:
        image = strands(20)
        self.assertTrue((hair.changed(image, WHOLE, hair.HairLook(), 6.0) == image).all())


class Cloth(unittest.TestCase):
    def image(self) -> Array:
        """Cloth with a weave, a crease 4 mm wide and a fold 60 mm wide, at 2 px a mm."""
        y, x = np.mgrid[0 : WHOLE.height, 0 : WHOLE.width]
        lab = np.zeros((*x.shape, 3))
        weave = 1.5 * np.where((x // 1 + y // 1) % 2, 1, -1)
        crease = -9 * np.exp(-(((x - 80) / 3) ** 2))
        fold = 8 * np.sin(x / 120 * np.pi)
        lab[..., 0] = 50 + weave + crease + fold
        lab[..., 1:] = (20, -30)
        return np.asarray(lab2rgb(lab), np.float32)

    def changed(self, **look: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        image = self.image()
        made = cloth.changed(image, WHOLE, cloth.ClothLook(**look), 2.0)
        before, after = (rgb2lab(np.asarray(i, np.float64)) for i in (image, made))
        return before, after

    def test_a_crease_goes_weave_and_fold_stay(self) -> None:
        before, after = self.changed(creases=1.0, size_mm=14.0)
        rows = [i[..., 0].mean(0) for i in (before, after)]

        def deep(row: NDArray[np.float64]) -> float:
            return float((row[64] + row[96]) / 2 - row[80])

        self.assertLess(deep(rows[1]), 0.45 * deep(rows[0]))
        weave = [float((i[:, 20:60:2, 0] - i[:, 21:61:2, 0]).std()) for i in (before, after)]
        self.assertGreater(weave[1], 0.9 * weave[0])
        # Away from the crease the fold is as it was.
        self.assertLess(float(np.abs(rows[1] - rows[0])[112:140].mean()), 1.2)

    def test_hue_turns_and_light_and_chroma_stay(self) -> None:
        before, after = self.changed(hue=40.0)
        turned = np.rad2deg(
            np.arctan2(after[..., 2], after[..., 1]) - np.arctan2(before[..., 2], before[..., 1])
        )
        self.assertLess(float(np.abs((turned + 180) % 360 - 180 - 40).max()), 1.5)
        chroma = [np.hypot(i[..., 1], i[..., 2]) for i in (before, after)]
        self.assertLess(float(np.abs(chroma[1] - chroma[0]).max()), 1.5)
        self.assertLess(float(np.abs(after - before)[..., 0].max()), 0.8)

    def test_light_keeps_black_and_white(self) -> None:
        ramp = np.linspace(0, 1, WHOLE.width, dtype=np.float32)
        image = np.repeat(np.repeat(ramp[None], WHOLE.height, 0)[..., None], 3, 2)
        for light in (-30.0, 30.0):
            made = cloth.changed(image, WHOLE, cloth.ClothLook(light=light), 2.0)
            row = made[60, :, 0]
            self.assertAlmostEqual(float(row[0]), 0, delta=0.01)
            self.assertAlmostEqual(float(row[-1]), 1, delta=0.01)
            self.assertEqual(float(np.sign(row[80] - image[60, 80, 0])), np.sign(light))
            self.assertTrue((np.diff(row) > -2e-3).all())


class OnPeople(unittest.TestCase):
    def pass_of(self, name: str, kind: str, **settings: float) -> tuple[Bench, Edit]:
        picture = read(DEMO / "portraits" / f"{name}.jpg")
        bench = bench_for(Pyramid(picture), understand(name).analysis)
        added = perform(Edit(), AddPass(kind), bench)
        return bench, perform(
            added.edit, ChangePass(added.pass_id or "", settings=settings), bench
        ).edit

    def test_hair_of_lia_is_recoloured_and_nothing_else(self) -> None:
        bench, edit = self.pass_of("lia", "hair", recolour=90, hue=40, chroma=30)
        fit = edit.passes[0].fit.values
        # Light hair, more yellow than red.
        self.assertTrue(25 < fit["hair_l"] < 55 and fit["hair_b"] > fit["hair_a"])
        before = bench.renderer.pyramid.picture.pixels / np.float32(255)
        after = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        changed = (np.abs(after - before) > 2 / 255).any(2)
        face = bench.analysis.faces[0]  # type: ignore[union-attr]
        x, y = face.points[[1, 152], :2].mean(0).astype(int)
        self.assertFalse(changed[y - 20 : y + 20, x - 20 : x + 20].any())
        self.assertTrue(0.1 < float(changed.mean()) < 0.6)

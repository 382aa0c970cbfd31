"""What passes on skin do to its colours, told by formulas that aren't ours.

Reference: colour-science's CIELAB and its cylinder form (CIE 15:2018).
"""

from __future__ import annotations

import unittest

import colour
import cv2
import numpy as np

from retouch.colour.lab import to_lab
from retouch.geometry import Rect
from retouch.skin.light import less_shine, lifted, shine, violet
from retouch.skin.redness import less_red, reach

# CIELAB of skin from very light to very dark (from memory, as common in the trade).
TONES = {
    "pale": (78, 9, 14),
    "light": (70, 12, 18),
    "olive": (62, 11, 22),
    "brown": (48, 15, 22),
    "dark": (34, 12, 15),
}
RECT = Rect(0, 0, 320, 240)
SCALE = 6.0


def lch(image: np.ndarray) -> np.ndarray:
    """Lightness, chroma and hue (degrees) of encoded sRGB, by colour-science."""
    lab = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(image.astype(np.float64)))
    return np.asarray(colour.models.Lab_to_LCHab(lab))


def skin_with(tone: tuple[float, float, float], change: tuple[float, float, float]) -> np.ndarray:
    """Grained skin of a tone, in its middle a soft spot about 9 mm wide of another colour."""
    rng = np.random.default_rng(2)
    lab = np.empty((240, 320, 3), np.float32)
    lab[:] = tone
    lab[..., 0] += rng.normal(0, 1.2, (240, 320))
    ys, xs = np.mgrid[:240, :320]
    spot = np.exp(-((xs - 160) ** 2 + (ys - 120) ** 2) / (2 * 22**2))
    lab += spot[..., None] * np.float32(change)
    return np.clip(cv2.cvtColor(lab, cv2.COLOR_LAB2RGB), 0, 1)


def turned(image: np.ndarray) -> float:
    """Degrees of hue between the mean of the spot's middle and the skin in the corner."""
    spot, around = (
        lch(image[part].reshape(-1, 3).mean(0)[None])[0, 2]
        for part in (np.s_[110:130, 150:170], np.s_[:40, :40])
    )
    return float((spot - around + 180) % 360 - 180)


class Formulas(unittest.TestCase):
    def test_lab_is_that_of_a_reference_library(self) -> None:
        ramp = np.linspace(0, 1, 12, dtype=np.float32)
        cube = np.stack(np.meshgrid(ramp, ramp, ramp), -1).reshape(-1, 12, 3)
        reference = colour.XYZ_to_Lab(colour.sRGB_to_XYZ(cube.astype(np.float64)))
        np.testing.assert_allclose(to_lab(cube), reference, atol=0.3)


class Redness(unittest.TestCase):
    def test_a_corrected_blotch_has_the_hue_of_its_surroundings(self) -> None:
        for name, tone in TONES.items():
            for change in ((-4, 12, 0), (-6, 16, 2)):
                image = skin_with(tone, change)
                out = less_red(image, RECT, SCALE, np.float32(tone), 1.0)
                with self.subTest(name, change=change):
                    self.assertGreater(abs(turned(image)), 12)
                    self.assertLess(abs(turned(out)), 3)

    def test_no_chroma_ends_below_the_guard(self) -> None:
        """Neither of skin nor of anything else; what was greyer before stays as it was."""
        rng = np.random.default_rng(5)
        for name, tone in TONES.items():
            own = float(np.hypot(tone[1], tone[2]))
            image = skin_with(tone, (-5, 25, -8))
            image = np.clip(image + rng.normal(0, 0.03, image.shape), 0, 1).astype(np.float32)
            for floor in (0.5, 0.9):
                out = less_red(image, RECT, SCALE, np.float32(tone), 1.0, 0.0, floor)
                before, after = lch(image), lch(out)
                # The guard falls with lightness as the skin's own chroma does.
                shade = np.clip(
                    cv2.GaussianBlur(before[..., 0], (0, 0), SCALE) / tone[0], 0.35, 1.15
                )
                least = np.minimum(before[..., 1], floor * own * shade)
                inside = out.min(-1) > 0
                with self.subTest(name, floor=floor):
                    self.assertLess(float((least - after[..., 1])[inside].max()), 0.4)

    def test_a_small_blotch_is_corrected_as_in_the_whole_picture(self) -> None:
        """Few red places are looked at one by one; a picture full of them is worked on at once."""
        tone = TONES["light"]
        image = skin_with(tone, (-4, 14, 0))
        full = np.concatenate([image, np.tile(image[60:180, 100:220], (2, 3, 1))[:, :320]])
        few = less_red(full, RECT.union(Rect(0, 0, 320, 480)), SCALE, np.float32(tone), 1.0)
        alone = less_red(image, RECT, SCALE, np.float32(tone), 1.0)
        changed = (alone != image).any(-1)
        self.assertLess(changed.mean(), 0.35)
        self.assertGreater(changed.sum(), 500)
        np.testing.assert_allclose(few[:180], alone[:180], atol=1e-5)
        np.testing.assert_array_equal(alone[~changed], image[~changed])

    def test_where_light_falls_off_skin_may_be_redder(self) -> None:
        """From 70 to 20 L* over 8 mm, redder between: left; as red in even light: taken back."""
        tone = np.float32(TONES["light"])
        across = np.linspace(-24, 24, 320, dtype=np.float32)
        fall = (1 / (1 + np.exp(across / 1.4)))[None].repeat(240, 0)
        between = np.exp(-(across**2) / 8)[None].repeat(240, 0)
        for light, least, most in ((20 + 50 * fall, 0, 1.5), (np.full_like(fall, 60), 4, 10)):
            lab = light[..., None] / tone[0] * tone
            lab[..., 1] += 10 * between
            image = np.clip(cv2.cvtColor(lab.astype(np.float32), cv2.COLOR_LAB2RGB), 0, 1)
            out = less_red(image, RECT, SCALE, tone, 1.0, 4.0)
            change = np.abs(to_lab(out) - to_lab(image))[120, 155:165, 1].mean()
            self.assertTrue(least <= change <= most, change)

    def test_a_part_is_as_in_the_whole_where_light_falls_off(self) -> None:
        rng = np.random.default_rng(3)
        tone = np.float32(TONES["light"])
        light = cv2.GaussianBlur(rng.uniform(-400, 500, (240, 320)).astype(np.float32), (0, 0), 9)
        lab = np.clip(45 + light, 8, 90)[..., None] / tone[0] * tone
        lab[..., 1] += 9
        image = np.clip(cv2.cvtColor(lab.astype(np.float32), cv2.COLOR_LAB2RGB), 0, 1)
        whole = less_red(image, RECT, SCALE, tone, 1.0, 4.0)
        inner = Rect(140, 100, 180, 140)
        near = inner.grow(reach(SCALE, 2.0)).clip(RECT)
        part = less_red(image[near.within(RECT)], near, SCALE, tone, 1.0, 4.0, inner=inner)
        self.assertGreater(float(np.abs(whole - image)[inner.within(RECT)].max()), 0.02)
        np.testing.assert_allclose(part, whole[inner.within(RECT)], atol=1e-4)

    def test_lightness_is_held(self) -> None:
        tone = TONES["light"]
        image = skin_with(tone, (-4, 14, 0))
        out = less_red(image, RECT, SCALE, np.float32(tone), 1.0)
        self.assertLess(float(np.abs(lch(out)[..., 0] - lch(image)[..., 0]).max()), 0.3)


class Shine(unittest.TestCase):
    def test_light_falls_and_hue_stays(self) -> None:
        for name, tone in TONES.items():
            image = skin_with(tone, (min(24, 97 - tone[0]), -0.6 * tone[1], -0.6 * tone[2]))
            out = less_shine(image, RECT, SCALE, np.float32(tone), 0.5, 10.0)
            spot = np.s_[105:135, 145:175]
            before, after = (lch(a[spot].reshape(-1, 3).mean(0)[None])[0] for a in (image, out))
            with self.subTest(name):
                self.assertLess(after[0], before[0] - 3)
                self.assertGreater(after[1], before[1])
                self.assertLess(abs((after[2] - before[2] + 180) % 360 - 180), 3)

    def test_the_same_light_counts_as_shine_on_every_skin_tone(self) -> None:
        """So much more of the light: by CIE 15, L* + 16 goes with the cube root of luminance."""
        for times, counts in ((1.25, False), (2.2, True)):
            for name, (light, a, b) in TONES.items():
                if light > 75:
                    # Twice the light of very light skin is white.
                    continue
                skin = np.float32((light, a, b))
                lit = np.float32([[[(light + 16) * times ** (1 / 3) - 16, 0.7 * a, 0.7 * b]]])
                with self.subTest(name, times=times):
                    found = float(shine(lit, skin, 14.0)[0, 0])
                    self.assertEqual(found > 0.5, counts)

    def test_a_brow_beside_it_does_not_darken_a_highlight(self) -> None:
        for name, tone in TONES.items():
            bright = (min(24, 97 - tone[0]), -0.6 * tone[1], -0.6 * tone[2])
            image = skin_with(tone, bright)
            browed = image.copy()
            # Almost black, half a millimetre from the highlight's middle to the picture's edge.
            browed[150:200] *= 0.03
            outs = [
                less_shine(i, RECT, SCALE, np.float32(tone), 0.5, 10.0)[90:146, 110:210]
                for i in (image, browed)
            ]
            with self.subTest(name):
                changed = np.abs(outs[0] - image[90:146, 110:210]).max()
                self.assertGreater(changed, 0.03)
                self.assertLess(np.abs(outs[0] - outs[1]).max(), 0.25 * changed)


class DarkCircles(unittest.TestCase):
    """What tells a dark circle from the hollow that it lies in is its hue."""

    def shaded(self, tone: tuple[float, float, float]) -> np.ndarray:
        """Skin whose middle lies in shade: its linear light is multiplied, its hue is not touched."""
        image = skin_with(tone, (0, 0, 0))
        ys, xs = np.mgrid[:240, :320]
        spot = np.exp(-((xs - 160) ** 2 + (ys - 120) ** 2) / (2 * 30**2))[..., None]
        linear = colour.models.eotf_sRGB(image.astype(np.float64)) * (1 - 0.25 * spot)
        return np.asarray(colour.models.eotf_inverse_sRGB(linear), np.float32)

    def test_a_violet_place_gets_lighter_and_nearer_to_the_hue_around(self) -> None:
        for name, tone in TONES.items():
            image = skin_with(tone, (-4, 2, -2))
            out = lifted(image, RECT, SCALE, np.float32(tone), 0.0, 2.5, cast=1.0)
            middle = np.s_[110:130, 150:170]
            before, after = lch(image)[middle].mean((0, 1)), lch(out)[middle].mean((0, 1))
            with self.subTest(name):
                self.assertGreater(after[0], before[0] + 0.5)
                self.assertLess(abs(turned(out)), 0.5 * abs(turned(image)))

    def test_half_of_it_leaves_about_half(self) -> None:
        tone = TONES["light"]
        image = skin_with(tone, (-4, 2, -2))
        whole, half = (
            lifted(image, RECT, SCALE, np.float32(tone), 0.0, 2.5, cast=c) - image
            for c in (1.0, 0.5)
        )
        middle = np.s_[110:130, 150:170]
        np.testing.assert_allclose(half[middle].mean(), 0.5 * whole[middle].mean(), rtol=0.05)

    def test_shade_stays_and_so_do_blushes_of_the_warm_kind(self) -> None:
        """A cast of yellow and brown isn't violet, and shade has none."""
        for name, tone in TONES.items():
            for image in (self.shaded(tone), skin_with(tone, (-3, 1, 4))):
                out = lifted(image, RECT, SCALE, np.float32(tone), 0.0, 2.5, cast=1.0)
                rise = (lch(out) - lch(image))[100:140, 140:180, 0].mean()
                self.assertLess(abs(rise), 0.6, name)

    def test_violet_of_the_skin_itself_is_nothing_at_any_light(self) -> None:
        tone = np.float32(TONES["olive"])
        ladder = np.linspace(0.4, 1.1, 8, dtype=np.float32)[:, None, None] * tone
        np.testing.assert_allclose(violet(ladder, tone), 0, atol=1e-4)

    def test_texture_stays(self) -> None:
        """The lift is smooth: what is finer than it is as it was (band below 2 px)."""
        tone = TONES["light"]
        image = skin_with(tone, (-4, 2, -2))
        out = lifted(image, RECT, SCALE, np.float32(tone), 0.0, 2.5, cast=1.0)

        def fine(a: np.ndarray) -> float:
            light = lch(a)[..., 0]
            return float((light - cv2.GaussianBlur(light, (0, 0), 2))[80:160, 120:200].std())

        self.assertAlmostEqual(fine(out) / fine(image), 1.0, delta=0.03)

"""Redness as blood makes it: flushed skin computed from published optics, and what isn't blood.

References: molar extinction of haemoglobin, S. Prahl, *Optical Absorption of Hemoglobin*, Oregon
Medical Laser Center, 1998; scattering and melanin of skin, S. L. Jacques, *Optical properties of
biological tissues: a review*, Physics in Medicine and Biology 58, 2013; diffuse reflectance,
S. T. Flock et al., *Monte Carlo modeling of light propagation in highly scattering tissues I*, IEEE
Transactions on Biomedical Engineering 36, 1989. Their values are from memory. Colours by
colour-science (CIE 15).
"""

from __future__ import annotations

import unittest
import warnings

import colour
import cv2
import numpy as np

from retouch.geometry import Rect
from retouch.skin.redness import less_red

SCALE = 6.0
RECT = Rect(0, 0, 320, 240)
NM = np.arange(400, 701, 10.0)
# 1/(cm * mol/l), every 10 nm from 400 to 700.
OXYGENATED = np.array(
    [266232, 466840, 480360, 246072, 102580, 62816, 44480, 33209, 26629, 23684, 20933, 20035, 24202,
     39957, 53236, 43016, 32613, 44496, 50104, 14401, 3200, 1506, 942, 610, 442, 368, 320, 294, 277,
     276, 290]
)  # fmt: skip
REDUCED = np.array(
    [223296, 303956, 407560, 528600, 413280, 103292, 23389, 16156, 14550, 16684, 20862, 25774,
     31589, 39036, 46592, 53412, 53788, 45072, 37020, 28324, 14677, 9443, 6509, 5149, 4345, 3750,
     3226, 2795, 2407, 2052, 1794]
)  # fmt: skip
SATURATION, HAEMOGLOBIN, EPIDERMIS = 0.8, 150 / 64500, 0.006
# Part of the outer skin that is melanin, from light to dark people.
MELANIN = (0.02, 0.05, 0.1, 0.2, 0.3)


def skin_of(melanin: float, blood: float) -> np.ndarray:
    """CIELAB (D65) of skin with these parts of melanin and blood."""
    extinction = SATURATION * OXYGENATED + (1 - SATURATION) * REDUCED
    plain = 0.244 + 85.3 * np.exp(-(NM - 154) / 66.2)
    absorbed = blood * np.log(10) * extinction * HAEMOGLOBIN + (1 - blood) * plain
    scattered = 46 * (NM / 500) ** -1.421
    albedo = scattered / (absorbed + scattered)
    # For skin's index of refraction of 1.4.
    k = 3.2
    below = albedo / (1 + 2 * k * (1 - albedo) + (1 + 2 * k / 3) * np.sqrt(3 * (1 - albedo)))
    outer = melanin * 6.6e11 * NM**-3.33 + (1 - melanin) * plain
    reflected = below * np.exp(-3 * outer * EPIDERMIS) + 0.02
    spectrum = colour.SpectralDistribution(reflected, NM)
    light = colour.SDS_ILLUMINANTS["D65"]
    with warnings.catch_warnings():
        # It says how it fits the tables' steps to each other.
        warnings.simplefilter("ignore", colour.utilities.ColourRuntimeWarning)
        xyz = colour.sd_to_XYZ(spectrum, illuminant=light) / 100
    return np.asarray(colour.XYZ_to_Lab(xyz))


def blotch(clean: np.ndarray, flushed: np.ndarray) -> np.ndarray:
    """A soft place of one colour in another, about 9 mm wide."""
    ys, xs = np.mgrid[:240, :320]
    spot = np.exp(-((xs - 160) ** 2 + (ys - 120) ** 2) / (2 * 24**2))[..., None]
    lab = np.float32(clean) * (1 - spot) + np.float32(flushed) * spot
    return np.clip(cv2.cvtColor(lab.astype(np.float32), cv2.COLOR_LAB2RGB), 0, 1)


def lab_at_the_middle(image: np.ndarray) -> np.ndarray:
    xyz = colour.sRGB_to_XYZ(image[115:125, 155:165].reshape(-1, 3).mean(0).astype(np.float64))
    return np.asarray(colour.XYZ_to_Lab(xyz))


class Blood(unittest.TestCase):
    def test_lightening_gives_back_the_light_that_blood_took(self) -> None:
        for melanin in MELANIN:
            clean, flushed = skin_of(melanin, 0.002), skin_of(melanin, 0.008)
            image = blotch(clean, flushed)
            held, lifted = (
                lab_at_the_middle(
                    less_red(image, RECT, SCALE, np.float32(clean), 1.0, 0.0, lift=lift)
                )
                for lift in (0.0, 1.0)
            )
            with self.subTest(melanin):
                # The optics say what the pass assumes: blood darkens as it reddens.
                self.assertLess(flushed[0], clean[0] - 1)
                self.assertLess(abs(held[0] - flushed[0]), 0.5)
                self.assertLess(
                    colour.delta_E(lifted, clean, method="CIE 2000"),
                    0.6 * colour.delta_E(held, clean, method="CIE 2000"),
                )
                self.assertLess(lifted[0], clean[0] + 0.5)

    def test_the_same_flush_goes_from_dark_skin_as_from_light_skin(self) -> None:
        left = []
        for melanin in MELANIN:
            clean, flushed = skin_of(melanin, 0.002), skin_of(melanin, 0.02)
            image = blotch(clean, flushed)
            tone = np.float32(clean)
            out = lab_at_the_middle(less_red(image, RECT, SCALE, tone, 1.0, 3.0, lift=1.0))
            left.append((out[1] - clean[1]) / (lab_at_the_middle(image)[1] - clean[1]))
        self.assertLess(max(left), 0.5)
        self.assertGreater(min(left), -0.2)


class NoBlood(unittest.TestCase):
    SKIN = (68, 10, 16)

    def beside(self, colour_of_it: tuple[float, float, float]) -> np.ndarray:
        """Skin whose right half is something else."""
        lab = np.empty((240, 320, 3), np.float32)
        lab[:] = self.SKIN
        lab[:, 160:] = colour_of_it
        return np.clip(cv2.cvtColor(lab, cv2.COLOR_LAB2RGB), 0, 1)

    def test_skin_beside_a_lip_stays(self) -> None:
        image = self.beside((48, 34, 16))
        out = less_red(image, RECT, SCALE, np.float32(self.SKIN), 1.0, 4.0, lift=1.0)
        changed = np.abs(out - image).max(-1)
        # From a millimetre beside it on no pixel changes; a red place does.
        self.assertEqual(float(changed[:, : 160 - round(SCALE)].max()), 0)
        self.assertLess(float(changed[:, : 160 - round(SCALE) // 2].max()), 0.02)
        self.assertGreater(float(changed[:, 180:].min()), 0.02)

    def test_orange_cloth_is_left_alone(self) -> None:
        image = self.beside((60, 32, 52))
        out = less_red(image, RECT, SCALE, np.float32(self.SKIN), 1.0, 4.0, lift=1.0)
        np.testing.assert_array_equal(out[:, :140], image[:, :140])
        np.testing.assert_array_equal(out[:, 180:], image[:, 180:])

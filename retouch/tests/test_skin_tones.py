"""The skin model on published skin tones, in several lights, and on what is no skin."""

from __future__ import annotations

import unittest

import numpy as np

from retouch.colour.lab import from_srgb
from retouch.colour.transfer import to_encoded, to_linear
from retouch.face import skin

# The Monk Skin Tone scale, E. Monk, *The Monk Skin Tone Scale*, SocArXiv (2023); values as
# published with it, written from memory.
MONK = (
    "f6ede4", "f3e7db", "f7ead0", "eadaba", "d7bd96", "a07e56", "825c43", "604134", "3a312a",
    "292420",
)  # fmt: skip
# Classes of the individual typology angle, degrees: A. Chardon, I. Cretois, C. Hourseau, *Skin
# colour typology and suntanning pathways*, Int. J. Cosmet. Sci. 13 (1991); S. Del Bino,
# F. Bernerd, *Variations in skin colour and the biological consequences of ultraviolet
# radiation exposure*, Br. J. Dermatol. 169 (2013).
ITA_CLASSES = (("very light", 62), ("light", 48), ("intermediate", 35), ("tan", 19),
               ("brown", -10), ("dark", -45))  # fmt: skip
# Lights as gains of linear R, G, B: daylight, tungsten-like, open shade (common practice: shifts
# of white balance of about +-1500 K; no source).
LIGHTS = {"neutral": (1.0, 1.0, 1.0), "warm": (1.18, 1.0, 0.78), "cool": (0.88, 1.0, 1.2)}
NOT_SKIN = {
    "grass": (0.25, 0.45, 0.15), "sky": (0.45, 0.65, 0.9), "denim": (0.2, 0.28, 0.45),
    "red lipstick": (0.7, 0.08, 0.15), "violet cloth": (0.45, 0.25, 0.6),
    "turquoise": (0.1, 0.6, 0.6), "yellow": (0.95, 0.9, 0.1),
}  # fmt: skip


def colour(text: str) -> np.ndarray:
    return np.array([int(text[k : k + 2], 16) for k in (0, 2, 4)], np.float32) / 255


def from_ita(angle: float) -> np.ndarray:
    """A skin colour with that angle, atan((L* - 50) / b*), of typical yellow and red."""
    b = 17.0
    lightness = 50 + b * np.tan(np.radians(angle))
    target = np.array([lightness, 11.0, b])
    grid = np.stack(np.meshgrid(*[np.linspace(0.02, 1, 50)] * 3, indexing="ij"), -1).reshape(-1, 3)
    off = np.linalg.norm(from_srgb(grid.astype(np.float32)) - target, axis=1)
    return grid[int(off.argmin())].astype(np.float32)


def lit(rgb: np.ndarray, light: tuple[float, float, float], level: float = 1.0) -> np.ndarray:
    linear = to_linear(np.asarray(rgb, np.float32)) * np.float32(light) * np.float32(level)
    return np.clip(to_encoded(linear.astype(np.float32)), 0, 1).astype(np.float32)


def patch(rgb: np.ndarray, seed: int = 1) -> np.ndarray:
    """Pixels of a patch of skin with shading, grain and slight variation, (n, 3)."""
    rng = np.random.default_rng(seed)
    shade = rng.uniform(0.6, 1.05, (800, 1)).astype(np.float32)
    linear = to_linear(np.broadcast_to(rgb, (800, 3)).astype(np.float32)) * shade
    linear *= rng.normal(1, 0.03, (800, 3)).astype(np.float32)
    return np.clip(to_encoded(linear.astype(np.float32)), 0, 1).astype(np.float32)


def accepted(model: skin.SkinModel, rgb: np.ndarray) -> float:
    """The part of some colours that passes for a skin: within about three of its spreads."""
    return float((model.likelihood(rgb) > 0.01).mean())


class SkinTones(unittest.TestCase):
    def tones(self) -> dict[str, np.ndarray]:
        out = {f"Monk {k + 1}": colour(text) for k, text in enumerate(MONK)}
        return out | {f"ITA {name}": from_ita(angle) for name, angle in ITA_CLASSES}

    def test_each_tone_is_accepted_in_each_light(self) -> None:
        for name, tone in self.tones().items():
            for light, gains in LIGHTS.items():
                with self.subTest(f"{name}, {light}"):
                    seen = lit(tone, gains)
                    model = skin.fit(patch(seen))
                    self.assertGreater(accepted(model, patch(seen, seed=9)), 0.95)
                    # The half of a face that lies in shadow, two stops down.
                    shadow = lit(tone, gains, 0.25)
                    self.assertGreater(accepted(model, patch(shadow, seed=5)), 0.8)

    def test_what_is_no_skin_is_refused(self) -> None:
        for name, tone in self.tones().items():
            model = skin.fit(patch(tone))
            for thing, rgb in NOT_SKIN.items():
                with self.subTest(f"{thing} beside {name}"):
                    self.assertEqual(accepted(model, np.array([rgb], np.float32)), 0)

    def test_a_third_of_wrong_samples_does_no_harm(self) -> None:
        tone = colour(MONK[5])
        wrong = patch(np.array([0.2, 0.3, 0.6], np.float32), seed=3)[:260]
        model = skin.fit(np.concatenate([patch(tone)[:540], wrong]))
        self.assertGreater(accepted(model, patch(tone, seed=7)), 0.95)
        self.assertLess(accepted(model, wrong), 0.1)

"""Colour spaces from profiles: the same picture in any of them gives the same result."""

from __future__ import annotations

import unittest
from dataclasses import replace
from functools import lru_cache

import imagecodecs
import numpy as np

from benchmarks.faces import understand
from retouch.colour.depth import to_float, to_integers
from retouch.colour.difference import ciede2000
from retouch.colour.lab import from_srgb
from retouch.colour.space import space_of
from retouch.edit import Edit, Elsewhere, Fit, Mask, Pass, Touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.picture import Picture, Pyramid, profile
from retouch.render import Renderer
from retouch.render.export import render_whole
from retouch.tests.scenes import skin, spot

H, W = 300, 400
# Primaries and whites as x, y: Display P3 (SMPTE EG 432-1 with D65), Adobe RGB (1998) colour image
# encoding, ROMM RGB (ISO 22028-2:2013), whose gamma is 1.8.
PUBLISHED = {
    "Display P3": ((0.680, 0.320, 0.265, 0.690, 0.150, 0.060), (0.3127, 0.3290), None),
    "Adobe RGB": ((0.64, 0.33, 0.21, 0.71, 0.15, 0.06), (0.3127, 0.3290), 2.19921875),
    "ROMM RGB": ((0.7347, 0.2653, 0.1596, 0.8404, 0.0366, 0.0001), (0.3457, 0.3585), 1.8),
}


@lru_cache(maxsize=8)
def made(name: str) -> bytes:
    """A profile from the published primaries; Display P3 has the transfer curve of sRGB."""
    numbers, white, gamma = PUBLISHED[name]
    primaries = [v for k in range(0, 6, 2) for v in (numbers[k], numbers[k + 1], 1.0)]
    if gamma is None:
        codes = np.linspace(0, 1, 4096)
        gamma = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
        return bytes(
            imagecodecs.cms_profile(
                "rgb", whitepoint=[*white, 1.0], primaries=primaries,
                transferfunction=gamma.astype(np.float32),
            )
        )  # fmt: skip
    return bytes(
        imagecodecs.cms_profile("rgb", whitepoint=[*white, 1.0], primaries=primaries, gamma=gamma)
    )


def portrait() -> np.ndarray:
    """A face's worth of skin, spots, a shadow and cloth, in sRGB."""
    image = skin(H, W, grain=0.015, slope=0.45, seed=3)
    for x, y in ((90, 80), (210, 150), (300, 220)):
        spot(image, x, y, 10, (0.62, 0.30, 0.27))
    image[220:, 330:] = image[220:, 330:] * np.array([0.4, 0.55, 0.8], np.float32)
    return np.clip(image, 0.02, 0.97)


def converted(name: str) -> Picture:
    """The portrait in a profile, through LittleCMS, 16 bit."""
    pixels = to_integers(portrait(), 16)
    if name == "sRGB":
        return Picture(pixels)
    out = imagecodecs.cms_transform(
        pixels, profile.srgb(), made(name), colorspace="rgb", outcolorspace="rgb", intent=1,
        flags=0x0100,
    )  # fmt: skip
    return Picture(np.asarray(out), icc=made(name))


def shown(picture: Picture) -> np.ndarray:
    """CIELAB of what a screen shows of a picture, through LittleCMS."""
    return from_srgb(to_float(profile.to_srgb(picture.pixels, picture.icc)))


def at_work(kind: registry.PassKind) -> Pass:
    """A pass of a kind that does something in the portrait."""
    values = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
    for name, value in {
        "px_per_mm": 5.0, "exposure_ev": -0.5, "middle": -60.0, "broad": -30.0, "amount": 60.0,
        "towards": 60.0, "light": ((0.0, 0.0), (0.5, 0.45), (1.0, 1.0)) if kind.name.endswith("curves") else -6.0, "tolerance": 6.0, "threshold": 4.0,
        "from_l": 66.0, "from_a": 14.0, "from_b": 16.0, "lights_amount": 40.0, "glow": 60.0, "lift": 30.0,
        "skin_l": 48.0 if kind.name == "shine" else 65.0,
        "lit": -50.0, "shade": 30.0, "long_px": 240.0, "temperature_k": 4600.0, "saturation": 40.0,
        "picture": "0" * 64 if kind.name == "other_picture" else "",
        "roots": 60.0, "darker": 60.0, "lighter": 60.0, "richer": 60.0, "iris_right_x": 90.0, "iris_right_y": 80.0,
        "iris_right_r": 30.0, "iris_right_l": 50.0, "hue": 52.0, "width": 80.0, "turn": 20.0, "red": ((0.0, 0.05), (0.5, 0.6), (1.0, 1.0)) if kind.name.endswith("curves") else 60.0,
    }.items():  # fmt: skip
        if name in values:
            values[name] = value
    touches: tuple[Touch, ...] = ()
    if kind.touches is not None and not kind.guide:
        own = {s.name: s.default for s in kind.touches.settings}
        strong = {
            "radius_px": 16.0 if kind.name == "fill" else 26.0,
            "guard": 50.0,
            "flow": 100.0,
            "opacity": 100.0,
            "veil_red": 4.0,
            "veil_green": 4.0,
            "dark": 40.0,
        }
        own |= {n: v for n, v in strong.items() if n in own}
        path = ((90.0, 80.0),)
        if kind.touches.least_points == 3:
            path = ((70.0, 60.0), (115.0, 62.0), (92.0, 105.0))
        if kind.name in ("strands", "lint"):
            path = ((70.0, 60.0), (115.0, 72.0))
            own["radius_px"] = 12.0
        source = (0, 60) if kind.touches.propose else None
        elsewhere = None
        if kind.name == "borrow":
            # From elsewhere in the same picture, as another file would lie.
            own["light"] = False
            elsewhere = Elsewhere("0" * 64, ((0.0, 0.0, 40.0, 50.0), (100.0, 100.0, 140.0, 150.0)))
        touches = (Touch("t", path, own, source, elsewhere=elsewhere),)
    fit = Fit()
    if kind.name == "nudge":
        own = {s.name: s.default for s in kind.touch_settings} | {"radius_px": 40.0}
        touches = (Touch("t", ((90.0, 80.0), (102.0, 86.0)), own),)
    if kind.name == "part":
        own = {s.name: s.default for s in kind.touch_settings} | {"across_px": 9.0, "soft_px": 30.0}
        touches = (Touch("t", ((70.0, 60.0), (115.0, 62.0), (92.0, 105.0)), own),)
    if kind.name in ("volume", "figure"):
        ring = [(90 + 40 * x, 80 + 35 * y) for x, y in ((-1, 1), (-1, -1), (1, -1), (1, 1))]
        inner = tuple((90 + (x - 90) / 4, 60 + (y - 80) / 4) for x, y in ring)
        own = {s.name: s.default for s in kind.touch_settings}
        touches = (Touch("t", tuple(ring), own, spare=(inner,)),)
        strong = {"px_per_mm": 0.9, "volume_top": 12.0, "shoulder_right": 12.0}
        values |= {n: v for n, v in strong.items() if n in values}
    if kind.meshed:
        values["nose_width"] = 8.0
        face = understand("eli").analysis.faces[0].points[:, :2]
        points = (face - face.min(0)) / np.ptp(face, axis=0) * (110.0, 130.0) + (45.0, 40.0)
        fit = Fit(points=tuple((float(x), float(y)) for x, y in points))
        values["px_per_mm"] = 0.9
    return Pass("p", kind.name, settings=values, touches=touches, mask=Mask(), fit=fit)


def lending(picture: Picture) -> Renderer:
    """A renderer of a picture that borrows from itself, and lies over itself."""
    pyramid = Pyramid(picture)
    return Renderer(pyramid, others=lambda content: pyramid)


class SameInAll(unittest.TestCase):
    def test_every_pass_does_the_same_whatever_the_profile(self) -> None:
        pictures = {n: converted(n) for n in ("sRGB", *PUBLISHED)}
        before = shown(pictures["sRGB"])
        for kind in registry.all_kinds():
            if kind.single:
                continue
            edit = Edit((at_work(kind),))
            results = {n: shown(render_whole(lending(p), edit)) for n, p in pictures.items()}
            if not kind.guide:
                self.assertGreater(float(ciede2000(results["sRGB"], before).max()), 0.5, kind.name)
            for name in PUBLISHED:
                with self.subTest(kind=kind.name, profile=name):
                    off = ciede2000(results[name], results["sRGB"])
                    self.assertLess(float(off.mean()), 0.5)
                    # Among patches that fit equally well a fill takes another one at the least
                    # difference of rounding: there a few pixels of grain may differ more.
                    most = np.quantile(off, 0.998) if kind.name == "fill" else off.max()
                    self.assertLess(float(most), 2.0)

    def test_a_stop_of_light_is_a_doubling_of_light(self) -> None:
        """In a profile of gamma 1.8, codes rise by 2 to the power of 1/1.8."""
        pixels = np.full((32, 32, 3), 20000, np.uint16)
        picture = Picture(pixels, icc=made("ROMM RGB"))
        edit = Edit((Pass("l", "light", settings={"exposure_ev": 1.0}),))
        got = render_whole(Renderer(Pyramid(picture)), edit).pixels[5, 5]
        np.testing.assert_allclose(got, 20000 * 2 ** (1 / 1.8), atol=20)

    def test_the_same_pixels_in_two_profiles_are_two_pictures(self) -> None:
        pixels = to_integers(portrait(), 8)
        digests = {Picture(pixels, icc=i).digest for i in (None, *map(made, PUBLISHED))}
        self.assertEqual(len(digests), 4)


class Exact(unittest.TestCase):
    def test_what_no_pass_moves_keeps_its_codes(self) -> None:
        rng = np.random.default_rng(2)
        for name in PUBLISHED:
            for kind, top in ((np.uint8, 256), (np.uint16, 65536)):
                picture = Picture(rng.integers(0, top, (64, 64, 3)).astype(kind), icc=made(name))
                half = Pass(
                    "l", "light", settings={"exposure_ev": 0.5},
                    touches=(),
                )  # fmt: skip
                kept = render_whole(Renderer(Pyramid(picture)), Edit((replace(half, strength=0),)))
                np.testing.assert_array_equal(kept.pixels, picture.pixels)
                still = render_whole(
                    Renderer(Pyramid(picture)),
                    Edit((replace(half, settings={"exposure_ev": 0.0}), )),
                )  # fmt: skip
                np.testing.assert_array_equal(still.pixels, picture.pixels)

    def test_colours_beyond_srgb_are_moved_not_clipped(self) -> None:
        """A saturated green of a wide profile, made darker and lighter again, is itself."""
        pixels = np.zeros((32, 32, 3), np.uint16) + np.array([3000, 52000, 4000], np.uint16)
        picture = Picture(pixels, icc=made("Adobe RGB"))
        passes = [Pass(str(ev), "light", settings={"exposure_ev": ev}) for ev in (-1.0, 1.0)]
        got = render_whole(Renderer(Pyramid(picture)), Edit(tuple(passes))).pixels
        self.assertLess(int(np.abs(got.astype(int) - pixels).max()), 60)

    def test_there_and_back_agrees_with_littlecms(self) -> None:
        rng = np.random.default_rng(4)
        pixels = rng.integers(0, 256, (60, 60, 3)).astype(np.uint8)
        for name in PUBLISHED:
            space = space_of(made(name))
            working = space.to_working(pixels)
            np.testing.assert_array_equal(to_integers(space.to_encoded(working), 8), pixels)
            inside = ((working > 0) & (working < 1)).all(-1)
            theirs = profile.to_srgb(pixels, made(name)).astype(int)
            off = np.abs(to_integers(working, 8).astype(int) - theirs)[inside]
            self.assertLessEqual(int(off.max()), 1, name)

    def test_srgb_by_any_name_is_worked_on_as_it_is(self) -> None:
        for icc in (None, profile.srgb()):
            self.assertFalse(space_of(icc).wide)

    def test_a_grey_profile(self) -> None:
        icc = bytes(imagecodecs.cms_profile("gray", whitepoint=[0.3457, 0.3585, 1.0], gamma=1.8))
        space = space_of(icc, grey=True)
        codes = np.linspace(0, 255, 52).astype(np.uint8)[None, :, None].repeat(3, -1)
        working = space.to_working(codes)
        np.testing.assert_array_equal(to_integers(space.to_encoded(working), 8), codes)
        light = (codes[0, 20, 0] / 255) ** 1.8
        want = 1.055 * light ** (1 / 2.4) - 0.055
        self.assertAlmostEqual(float(working[0, 20, 0]), want, places=3)


class Views(unittest.TestCase):
    def test_reduced_views_agree_whatever_the_profile(self) -> None:
        results = []
        for name in ("sRGB", *PUBLISHED):
            view = Renderer(Pyramid(converted(name))).render(Edit(), Rect(0, 0, W, H), 1)
            results.append(from_srgb(view))
        for other in results[1:]:
            self.assertLess(float(ciede2000(other, results[0]).mean()), 0.5)


if __name__ == "__main__":
    unittest.main()

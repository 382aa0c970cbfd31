"""The geometry: where pixels of a framed picture come from, and how they are resampled."""

from __future__ import annotations

import unittest
from dataclasses import dataclass, replace

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from skimage.transform import warp as reference_warp

from retouch.colour.depth import to_integers
from retouch.colour.difference import ciede2000
from retouch.colour.lab import lab_of_pixels
from retouch.edit import Edit, Pass
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.registry import PassKind
from retouch.passes.ways import Framed, FramePlace, Values
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, render_view, render_whole, resized
from retouch.render.changes import changed_region
from retouch.tests.scenes import skin
from retouch.warp import Warp
from retouch.warp.frame import Wish, framed
from retouch.warp.resample import nodes, resampled
from retouch.warp.steps import Points
from retouch.warp.warp import WholePixels

W, H = 360, 270
BOUNDS = Rect(0, 0, W, H)


def scene() -> np.ndarray:
    """Skin with edges, and no two places alike."""
    image = skin(H, W, grain=0.03, seed=3)
    image[:, 200:] *= np.float32(0.6)
    image[180:, :120] *= np.array([0.5, 0.8, 1.1], np.float32)
    ramp = np.linspace(0, 0.2, W, dtype=np.float32)[None, :, None]
    return np.clip(image + ramp, 0, 1)


def smooth(points: Points) -> np.ndarray:
    """A picture known everywhere: waves of 25 pixels and more."""
    x, y = points[..., 0], points[..., 1]
    waves = [np.sin(x / 4 + y / 9), np.cos(y / 5), np.sin((x - y) / 7)]
    return np.asarray(0.5 + 0.4 * np.stack(waves, -1), np.float32)


def places(width: int, height: int) -> np.ndarray:
    return np.stack(np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5), -1)


def frame(**settings: object) -> Edit:
    return Edit((completed(Pass("f", "frame", settings=settings)),))  # type: ignore[arg-type]


def renderer(bits: int = 8) -> Renderer:
    return Renderer(Pyramid(Picture(to_integers(scene(), bits))))


@dataclass(frozen=True)
class Ripple:
    """A step that no matrix gives: places swing along x, by y."""

    size: float
    key: str = "ripple"
    matrix: None = None

    def back(self, points: Points) -> Points:
        return points + np.stack([self._by(points), np.zeros(len(points))], -1)

    def forth(self, points: Points) -> Points:
        return points - np.stack([self._by(points), np.zeros(len(points))], -1)

    def _by(self, points: Points) -> np.ndarray:
        return np.asarray(self.size * np.sin(points[:, 1] / 40))


class Places(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(-45, 45), st.floats(-60, 60), st.floats(-60, 60), st.integers(0, 3),
        st.booleans(), st.floats(40, W - 40), st.floats(40, H - 40), st.floats(20, 600),
        st.floats(20, 600),
    )  # fmt: skip
    def test_a_frame_keeps_within_the_picture_and_maps_both_ways(
        self, angle: float, upright: float, level: float, turns: int, mirror: bool,
        x: float, y: float, width: float, height: float,
    ) -> None:  # fmt: skip
        wish = Wish(angle, upright, level, (x, y), (width, height), turns, mirror)
        warp = framed(wish, BOUNDS).warp
        w, h = warp.width, warp.height
        corners = np.array([(0, 0), (w, 0), (0, h), (w, h)], np.float64)
        ends = warp.to_original(corners)
        # To a pixel: sizes are whole.
        self.assertGreaterEqual(ends.min(), -1)
        self.assertLessEqual(ends[:, 0].max(), W + 1)
        self.assertLessEqual(ends[:, 1].max(), H + 1)
        np.testing.assert_allclose(warp.to_result(ends), corners, atol=1e-6)
        self.assertLessEqual(sorted((w, h))[1], round(max(width, height)) + 1)

    def test_a_clockwise_turn_of_the_picture(self) -> None:
        """A place right of the middle goes down when the picture is turned clockwise."""
        warp = framed(Wish(angle=10, centre=(180, 135), size=(100, 100)), BOUNDS).warp
        (x, y), = warp.to_result(np.array([[220.0, 135.0]]))  # fmt: skip
        self.assertAlmostEqual(x, 50 + 40 * np.cos(np.radians(10)), 6)
        self.assertAlmostEqual(y, 50 + 40 * np.sin(np.radians(10)), 6)

    def test_upright_sets_converging_lines_parallel(self) -> None:
        """Two lines that meet at a place far above the picture stand upright afterwards.

        The horizon of a plane with the tilt g lies at 1/g from the middle (projective geometry).
        """
        amount = 40.0
        meet = np.array([W / 2, H / 2 - (W / 2) / (0.5 * amount / 100)])
        warp = framed(Wish(upright=-amount, beyond="edge"), BOUNDS).warp
        for x in (60.0, 300.0):
            foot = np.array([x, H - 10.0])
            line = foot + np.linspace(0, 0.3, 5)[:, None] * (meet - foot)
            ends = warp.to_result(line)
            self.assertLess(np.ptp(ends[:, 0]), 1e-6)
            self.assertGreater(np.ptp(line[:, 0]), 10)

    def test_whole_pixels_are_known(self) -> None:
        wish = Wish(centre=(100, 80), size=(60, 40), turns=1, mirror=True)
        self.assertEqual(
            framed(wish, BOUNDS).warp.whole_pixels, WholePixels(Rect(70, 60, 130, 100), 1, True)
        )
        self.assertTrue(framed(Wish(), BOUNDS).warp.identity)
        self.assertIsNone(framed(Wish(angle=0.01), BOUNDS).warp.whole_pixels)
        self.assertIsNone(framed(Wish(level=1), BOUNDS).warp.whole_pixels)

    def test_parts_cover_what_they_read(self) -> None:
        for warp in (
            framed(Wish(angle=7, upright=20), BOUNDS).warp,
            Warp(BOUNDS, W, H, (Ripple(9.0),)),
        ):
            part = Rect(100, 50, 160, 110)
            shown = warp.covers(part)
            inside = warp.to_original(places(W, H).reshape(-1, 2))
            x, y = inside.T
            hits = (x > part.x0) & (x < part.x1) & (y > part.y0) & (y < part.y1)
            own = places(W, H).reshape(-1, 2)[hits]
            self.assertGreater(len(own), 1000)
            self.assertTrue((own >= [shown.x0, shown.y0]).all())
            self.assertTrue((own <= [shown.x1, shown.y1]).all())
            reads = warp.reads(Rect(0, 0, 90, 70))
            seen = warp.to_original(places(90, 70).reshape(-1, 2))
            self.assertTrue((seen >= [reads.x0, reads.y0]).all())
            self.assertTrue((seen <= [reads.x1, reads.y1]).all())


class Resampling(unittest.TestCase):
    def test_agrees_with_a_reference_on_the_same_map(self) -> None:
        """scikit-image's warp (interpolating splines of the fifth order) with the same map."""
        picture = smooth(places(W, H))
        for warp in (
            framed(Wish(angle=7, upright=30, level=-15), BOUNDS).warp,
            Warp(BOUNDS, W, H, (Ripple(6.0),)),
        ):
            at = nodes(warp.to_original, (0, 0), (warp.width, warp.height), 1.0)
            got = resampled(picture, (0, 0), at)
            # Theirs is in pixel indices: centres at whole numbers.
            theirs = reference_warp(
                picture, lambda p, w=warp: w.to_original(p + 0.5) - 0.5,
                output_shape=got.shape, order=5, mode="edge",
            )  # fmt: skip
            inner = np.s_[8:-8, 8:-8]
            off = np.abs(got - theirs)[inner]
            self.assertLess(off.mean(), 2e-3)
            self.assertLess(off.max(), 0.02)
            true = smooth(warp.to_original(places(warp.width, warp.height).reshape(-1, 2)))
            off = np.abs(got - true.reshape(got.shape))[inner]
            self.assertLess(off.max(), 0.015)

    def test_reducing_does_not_alias(self) -> None:
        """Waves too fine for the result turn grey, not into others."""
        fine = np.broadcast_to(
            0.5 + 0.5 * np.cos(np.arange(W) * np.pi * 0.9)[None, :, None], (H, W, 3)
        ).astype(np.float32)
        at = nodes(lambda p: p, (0, 0), (W // 3, H // 3), 3.0)
        got = resampled(fine, (0, 0), at)[8:-8, 8:-8]
        self.assertLess(float(np.ptp(got)), 0.05)

    def test_constant_pictures_stay_constant_in_every_type(self) -> None:
        warp = framed(Wish(angle=13), BOUNDS).warp
        at = nodes(warp.to_original, (0, 0), (warp.width, warp.height), 1.0)
        for value in (np.uint8(201), np.uint16(51234), np.float32(0.37)):
            plain = np.full((H, W, 3), value)
            got = resampled(plain, (0, 0), at)
            self.assertEqual(got.dtype, plain.dtype)
            np.testing.assert_allclose(got, plain[: len(got), : got.shape[1]], rtol=1e-6)


class Rendered(unittest.TestCase):
    def test_crops_turns_and_mirrors_move_whole_pixels(self) -> None:
        for bits in (8, 16):
            own = renderer(bits)
            pixels = own.pyramid.picture.pixels
            crop = {
                "centre_x_px": 150.0,
                "centre_y_px": 120.0,
                "width_px": 201.0,
                "height_px": 99.0,
            }
            part = pixels[71:170, 50:251]
            for framing, wanted in (
                ({}, pixels),
                (crop, part),
                (crop | {"turn": "90"}, np.rot90(part, -1)),
                (crop | {"turn": "270"}, np.rot90(part)),
                ({"turn": "180", "mirror": True}, pixels[::-1]),
                (crop | {"turn": "90", "mirror": True}, np.rot90(part, -1)[:, ::-1]),
            ):
                got = render_whole(own, frame(**framing))
                np.testing.assert_array_equal(got.pixels, wanted, str(framing))

    def test_a_window_wholly_beyond_the_picture(self) -> None:
        """A far turned picture with its border continued: its corners show nothing of the picture itself."""
        own = renderer()
        edit = frame(angle_deg=45.0, beyond="border")
        whole = render_whole(own, edit).pixels
        for corner in ((0, 0), (whole.shape[1] - 30, whole.shape[0] - 20)):
            x, y = corner
            view = render_view(own.plan(edit), x, y, 1, 30, 20)
            own_part = whole[y : y + 20, x : x + 30]
            self.assertLessEqual(int(np.abs(view.astype(int) - own_part).max()), 1, corner)

    def test_the_nearest_of_a_rectangle(self) -> None:
        box = Rect(10, 20, 30, 40)
        for rect, wanted in (
            (Rect(0, 0, 100, 100), box), (Rect(12, 22, 15, 25), Rect(12, 22, 15, 25)),
            (Rect(0, 0, 5, 5), Rect(10, 20, 11, 21)), (Rect(50, 25, 60, 90), Rect(29, 25, 30, 40)),
        ):  # fmt: skip
            self.assertEqual(rect.nearest(box), wanted)

    def test_no_frame_is_the_same_path_and_pixels(self) -> None:
        own = renderer()
        plan = own.plan(frame())
        self.assertTrue(plan.warp.identity)
        np.testing.assert_array_equal(
            render_view(plan, 3, 5, 0.37, 90, 70), render_view(own.plan(Edit()), 3, 5, 0.37, 90, 70)
        )

    def test_a_view_of_moved_pixels_is_the_plain_view_moved(self) -> None:
        own = renderer()
        plain = render_view(own.plan(Edit()), 0, 0, 0.5, W // 2, H // 2)
        plan = own.plan(frame(turn="90"))
        got = render_view(plan, 0, 0, 0.5, H // 2, W // 2)
        np.testing.assert_array_equal(got, np.rot90(plain, -1))
        part = render_view(plan, 40, 60, 0.5, 30, 20)
        np.testing.assert_array_equal(part, got[30:50, 20:50])

    def test_parts_of_a_view_are_as_in_the_whole(self) -> None:
        plan = renderer().plan(frame(angle_deg=5.0, upright=10.0))
        for scale in (1.0, 0.5, 0.3):
            w, h = int(plan.warp.width * scale), int(plan.warp.height * scale)
            whole = render_view(plan, 0, 0, scale, w, h)
            left, top = 24, 16
            part = render_view(plan, left / scale, top / scale, scale, 40, 32)
            np.testing.assert_array_equal(part, whole[top : top + 32, left : left + 40])

    def test_levels_agree_with_the_export(self) -> None:
        image = cv2.GaussianBlur(scene(), (0, 0), 1.0)
        own = Renderer(Pyramid(Picture(to_integers(image, 8))))
        edit = frame(angle_deg=5.0, upright=15.0)
        whole = render_whole(own, edit)
        plan = own.plan(edit)
        for scale in (1.0, 0.5, 0.37):
            long_side = round(max(whole.width, whole.height) * scale)
            small = resized(whole, long_side).pixels
            true = long_side / max(whole.width, whole.height)
            view = render_view(plan, 0, 0, true, small.shape[1], small.shape[0])
            inner = np.s_[3:-3, 3:-3]
            off = ciede2000(*(lab_of_pixels(p[inner]) for p in (view, small)))
            self.assertLess(float(off.mean()), 0.5, scale)

    def test_what_lies_beyond(self) -> None:
        own = renderer()
        shown = render_whole(own, frame(angle_deg=20.0, beyond="white")).pixels
        self.assertEqual(shown[0, 0].tolist(), [255, 255, 255])
        self.assertGreater(shown.shape[1], W)
        inner = render_whole(own, frame(angle_deg=20.0)).pixels
        self.assertLess(inner.shape[1], W)
        plan = own.plan(frame(angle_deg=20.0, beyond="black"))
        view = render_view(plan, 0, 0, 0.5, plan.warp.width // 2, plan.warp.height // 2)
        self.assertEqual(view[0, 0].tolist(), [0, 0, 0])

    def test_what_acts_on_the_framed_picture_comes_last(self) -> None:
        """A made-up border: black within 20 pixels of the frame's edge, in views and files alike."""

        def border(image: np.ndarray, values: Values, place: FramePlace) -> np.ndarray:
            h, w = image.shape[:2]
            x = place.x + (np.arange(w) + 0.5) / place.scale
            y = place.y + (np.arange(h) + 0.5) / place.scale
            near = np.minimum(
                np.minimum(x, place.width - x)[None], np.minimum(y, place.height - y)[:, None]
            )
            return np.where(near[..., None] < 20, 0, image).astype(np.float32)

        kind = PassKind("border", "Border", "A made-up border.", "finish", Framed(border))
        registry.register(kind)
        self.addCleanup(registry._kinds.pop, kind.name)
        own = renderer()
        for more in ({"angle_deg": 8.0}, {"turn": "90"}, {}):
            framing = frame(**more).passes if more else ()
            bare, edit = Edit(framing), Edit((Pass("b", "border"), *framing))
            made, plain = (render_whole(own, e).pixels for e in (edit, bare))
            inner = np.s_[20:-20, 20:-20]
            np.testing.assert_array_equal(made[inner], plain[inner])
            self.assertEqual(int(made[:20].max()), 0)
            self.assertEqual(int(made[:, -20:].max()), 0)
            plan = own.plan(edit)
            view = render_view(plan, 0, 0, 1, made.shape[1], made.shape[0])
            self.assertLess(float(np.abs(view.astype(int) - made).mean()), 0.6)
            part = render_view(plan, 10, 12, 1, 40, 30)
            np.testing.assert_array_equal(part, view[12:42, 10:50])
            self.assertEqual(changed_region(bare, edit, BOUNDS), BOUNDS)
        half = Edit((replace(Pass("b", "border"), strength=50.0),))
        got = int(render_whole(own, half).pixels[3, 3, 0])
        self.assertAlmostEqual(got, own.pyramid.picture.pixels[3, 3, 0] / 2, delta=1)

    def test_a_change_of_the_frame_changes_all_and_touches_stay_where_they_are(self) -> None:
        light = completed(Pass("l", "light", settings={"exposure_ev": 1.0}))
        old, new = Edit((light,)), Edit((light, frame(angle_deg=2.0).passes[0]))
        self.assertEqual(changed_region(old, new, BOUNDS), BOUNDS)
        own = renderer()
        np.testing.assert_array_equal(
            own.render(old, Rect(30, 30, 90, 80)), own.render(new, Rect(30, 30, 90, 80))
        )

    def test_one_resampling_keeps_sharpness(self) -> None:
        """Contrast at half of the Nyquist frequency after a turn by 3 degrees, and back again.

        At most a tenth may be lost in one resampling; here two have to stay within that.
        """
        freq = 0.25
        x = np.arange(W) + 0.5
        wave = np.broadcast_to(
            (0.5 + 0.4 * np.cos(2 * np.pi * freq * x))[None, :, None], (H, W, 3)
        ).astype(np.float32)
        warp = framed(Wish(angle=3), BOUNDS).warp
        at = nodes(warp.to_original, (0, 0), (warp.width, warp.height), 1.0)
        turned = resampled(wave, (0, 0), at)
        back = nodes(lambda p: warp.to_result(p + [60, 60]), (0, 0), (W - 120, H - 120), 1.0)
        again = resampled(turned, (0, 0), back)[..., 0]
        phase = np.exp(-2j * np.pi * freq * (np.arange(W - 120) + 60.5))
        left = 2 * np.abs((again * phase).mean())
        self.assertGreater(left, 0.9 * 0.4)

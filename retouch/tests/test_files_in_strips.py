"""Files are made strip by strip of what passes act on: the same pixels as a view, and all else as it was."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Mask, OutlineArea
from retouch.errors import Cancelled
from retouch.geometry import EMPTY, Rect
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, apart, as_passes_made, export, render_whole
from retouch.tests.scenes import skin, spot
from retouch.tests.test_spaces import made

W, H = 900, 1300
BOX = OutlineArea(((300.0, 400.0), (700.0, 420.0), (650.0, 900.0), (320.0, 880.0)), 30.0)
BOXED = Mask((BOX,))
FITTED = {"px_per_mm": 9.0, "long_px": 4000.0}


def picture(bits: int = 8, icc: bytes | None = None) -> Picture:
    image = spot(skin(H, W, grain=0.02, slope=0.4, seed=6), 470, 610, 24)
    return Picture(to_integers(spot(image, 560, 700, 40, (0.95, 0.93, 0.9)), bits), icc=icc)


def acting(name: str, mask: Mask = BOXED, **values: float) -> Pass:
    kind = registry.kind(name)
    own = {s.name: s.default for s in (*kind.settings, *kind.fitted)}
    own |= {k: v for k, v in FITTED.items() if k in own} | values
    return Pass(name, name, settings=own, mask=mask)


def healed(blend: str = "normal") -> Pass:
    kind = registry.kind("heal")
    assert kind.touches is not None
    own = {s.name: s.default for s in kind.touches.settings} | {"radius_px": 30.0}
    touch = Touch("t", ((470.0, 610.0),), own, (0, -90))
    return Pass("heal", "heal", settings={s.name: s.default for s in kind.settings}, touches=(touch,), blend=blend)  # fmt: skip


def even() -> Edit:
    """Passes that look near and far, all within one outline."""
    return Edit((
        healed(),
        acting("skin_bands", middle=-70.0, broad=-50.0),
        acting("redness", amount=90.0, tolerance=1.0),
        acting("shine", amount=80.0, threshold=2.0),
    ))  # fmt: skip


class Strips(unittest.TestCase):
    def test_a_file_is_what_a_view_shows(self) -> None:
        renderer = Renderer(Pyramid(picture()))
        whole = render_whole(renderer, even())
        seen = renderer.plan(even()).view(renderer.bounds, 0)
        differs = whole.pixels.astype(int) - to_integers(seen, 8).astype(int)
        # Strips are computed with margins, whose rounding may show in the last step.
        self.assertLessEqual(int(np.abs(differs).max()), 1)
        self.assertLess(float((differs != 0).mean()), 1e-3)

    def test_narrow_strips_give_the_same(self) -> None:
        # Those that look near, beside what they see far around: strips are no lower than what is seen.
        edit = Edit(tuple(p for p in even().passes if p.kind != "skin_bands"))
        at_once = render_whole(Renderer(Pyramid(picture(16))), edit)
        told: list[float] = []
        with mock.patch.object(export, "_STRIP", 1), mock.patch.object(export, "_ROWS", 64):
            narrow = render_whole(Renderer(Pyramid(picture(16))), edit, told.append)
        self.assertGreaterEqual(len(told), 2)
        self.assertEqual((told, told[-1]), (sorted(told), 1.0))
        differs = np.abs(at_once.pixels.astype(int) - narrow.pixels.astype(int))
        self.assertLessEqual(int(differs.max()), 8, "more than an eighth of a step of 8 bits")

    def test_a_strip_may_have_nothing_of_a_mask(self) -> None:
        """Two places far apart: between them a pass that looks far around has nothing to do."""
        boxes = tuple(
            OutlineArea(((420.0, y), (700.0, y), (700.0, y + 90.0), (420.0, y + 90.0)))
            for y in (40.0, 1150.0)
        )
        shine = acting("shine", Mask(boxes), amount=90.0, threshold=-8.0)
        edit = Edit((healed(), shine, acting("sharpen", Mask())))
        whole = render_whole(Renderer(Pyramid(picture())), edit)
        with (
            mock.patch.object(export, "_STRIP", 1),
            mock.patch.object(export, "_ROWS", 64),
            mock.patch.object(apart, "_MOST_EXPECTED", 0),
        ):
            narrow = render_whole(Renderer(Pyramid(picture())), edit)
        differs = np.abs(whole.pixels.astype(int) - narrow.pixels.astype(int))
        self.assertLessEqual(int(differs.max()), 1)

    def test_what_no_pass_acts_on_keeps_its_codes(self) -> None:
        for icc in (None, made("Display P3")):
            before = picture(16, icc)
            after = render_whole(Renderer(Pyramid(before)), even())
            changed = (before.pixels != after.pixels).any(-1)
            rows, cols = np.flatnonzero(changed.any(1)), np.flatnonzero(changed.any(0))
            with self.subTest(icc=icc is not None):
                self.assertTrue(changed[500:800, 400:600].mean() > 0.5)
                self.assertGreaterEqual(rows[0], 360)
                self.assertLess(rows[-1], 940)
                self.assertGreaterEqual(cols[0], 260)
                self.assertLess(cols[-1], 740)

    def test_nothing_is_computed_where_nothing_acts(self) -> None:
        before = picture()
        told: list[float] = []
        after = render_whole(Renderer(Pyramid(before)), Edit(), told.append)
        np.testing.assert_array_equal(before.pixels, after.pixels)
        self.assertEqual(told, [1.0])
        self.assertIsNot(after.pixels, before.pixels)

    def test_framed_in_blocks_it_is_the_same(self) -> None:
        """A frame at any angle, with what lies on it: strips of the frame, or blocks where it is turned far."""
        grain = acting("grain", Mask(), amount=50.0, size_px=2.0)
        passes = (healed(), acting("redness", amount=90.0), grain)
        for angle in (0.0, 2.5, 45.0):
            frame = registry.kind("frame")
            settings = {s.name: s.default for s in frame.settings} | {
                "angle_deg": angle,
                "beyond": "border",
            }
            edit = Edit((*passes, Pass("frame", "frame", settings=settings)))
            whole = render_whole(Renderer(Pyramid(picture())), edit).pixels
            with (
                mock.patch.object(export, "_MOST_BLOCK", 200_000),
                mock.patch.object(export, "_MOST", 300_000),
            ):
                warp = Renderer(Pyramid(picture())).plan(edit).warp.flat
                blocks = export._blocks(warp)
                narrow = render_whole(Renderer(Pyramid(picture())), edit).pixels
            with self.subTest(angle):
                self.assertGreater(len(blocks), 2)
                self.assertEqual(sum(b.width * b.height for b in blocks), warp.width * warp.height)
                self.assertEqual(blocks[0].width == warp.width, angle < 45)
                differs = np.abs(whole.astype(int) - narrow.astype(int))
                self.assertLessEqual(int(differs.max()), 1)
                self.assertLess(float((differs > 0).mean()), 2e-3)

    def test_it_is_left_off_between_strips(self) -> None:
        stop = False

        def progress(share: float) -> None:
            nonlocal stop
            stop = True

        renderer = Renderer(Pyramid(picture()))
        with (
            mock.patch.object(export, "_STRIP", 1),
            mock.patch.object(export, "_ROWS", 64),
            self.assertRaises(Cancelled),
        ):
            render_whole(renderer, even(), progress, lambda: stop)


class Acting(unittest.TestCase):
    def acting(self, *passes: Pass) -> Rect:
        return Renderer(Pyramid(picture())).plan(Edit(passes)).chain.acting

    def test_where_passes_act(self) -> None:
        self.assertEqual(self.acting(), EMPTY)
        box = self.acting(acting("shine"))
        self.assertEqual(Rect(300, 400, 700, 900).clip(box), Rect(300, 400, 700, 900))
        self.assertLess(box.width * box.height, 600 * 700)
        spot_ = self.acting(healed())
        self.assertLess(spot_.width, 120)
        self.assertTrue(spot_.x0 <= 440 < 500 <= spot_.x1)
        self.assertEqual(self.acting(acting("shine"), healed()), box.union(spot_))

    def test_a_pass_without_a_mask_acts_everywhere(self) -> None:
        self.assertEqual(self.acting(acting("shine", Mask())), Rect(0, 0, W, H))

    def test_touches_that_are_blended_act_beyond_what_they_write(self) -> None:
        """Laid over what is below as a multiple of itself, all of a picture gets darker."""
        self.assertEqual(self.acting(healed("multiply")), Rect(0, 0, W, H))
        before = picture()
        after = render_whole(Renderer(Pyramid(before)), Edit((healed("multiply"),)))
        self.assertTrue((after.pixels[:50] < before.pixels[:50]).mean() > 0.9)


class AsPassesMade(unittest.TestCase):
    def told(self, *passes: Pass) -> bool:
        renderer = Renderer(Pyramid(picture()))
        edit = Edit(passes)
        return as_passes_made(renderer, edit, render_whole(renderer, edit))

    def test_pixels_of_a_file_are_read_only_where_they_lie_as_passes_made_them(self) -> None:
        self.assertTrue(self.told(*even().passes))
        for name, values in (
            ("frame", {"angle_deg": 2.0}),
            ("frame", {"turn": "90"}),
            ("vignette", {"amount": -40.0}),
        ):
            kind = registry.kind(name)
            own = {s.name: s.default for s in (*kind.settings, *kind.fitted)} | values
            with self.subTest(name, **values):
                self.assertFalse(self.told(Pass(name, name, settings=own)))


if __name__ == "__main__":
    unittest.main()

"""How a heal behaves: light, borders, edges, skin tones, strokes, keeping still."""

from __future__ import annotations

import subprocess
import sys
import unittest
from pathlib import Path

import cv2
import numpy as np

from retouch.geometry import Rect
from retouch.heal import Footprint, examine, heal, propose, write_rect
from retouch.heal.order import outside_in
from retouch.tests.scenes import healed, skin, spot

ROOT = Path(__file__).resolve().parents[2]


def tone(image, x, y, radius):
    ys, xs = np.mgrid[: image.shape[0], : image.shape[1]] + 0.5
    return image[np.hypot(xs - x, ys - y) <= radius].mean(0)


def energy(image, x, y, radius):
    grey = cv2.cvtColor(image, cv2.COLOR_RGB2GRAY)
    fine = grey - cv2.GaussianBlur(grey, (0, 0), 2)
    ys, xs = np.mgrid[: image.shape[0], : image.shape[1]] + 0.5
    return float(fine[np.hypot(xs - x, ys - y) <= radius].std())


class Tone(unittest.TestCase):
    def test_spot_is_gone_and_texture_is_there(self) -> None:
        clean = skin()
        out, _, _ = healed(spot(clean.copy(), 160, 120, 12), [(160, 120)], 20)
        np.testing.assert_allclose(tone(out, 160, 120, 14), tone(clean, 160, 120, 14), atol=0.012)
        ratio = energy(out, 160, 120, 16) / energy(clean, 160, 120, 16)
        self.assertGreater(ratio, 0.8)
        self.assertLess(ratio, 1.25)

    def test_light_that_falls_off_is_carried_through(self) -> None:
        # A cheek that turns from the light: the copied tone of any neighbour would be wrong.
        clean = skin(slope=0.55)
        out, _, _ = healed(spot(clean.copy(), 160, 120, 12), [(160, 120)], 20)
        for x in (150, 160, 170):
            np.testing.assert_allclose(tone(out, x, 120, 5), tone(clean, x, 120, 5), atol=0.03)

    def test_every_skin_tone(self) -> None:
        # From very light to very dark, encoded sRGB; values invented.
        for base in ((0.95, 0.84, 0.78), (0.78, 0.6, 0.5), (0.5, 0.34, 0.26), (0.2, 0.13, 0.1)):
            with self.subTest(base=base):
                clean = skin(base=base, grain=0.012)
                dark = tuple(0.6 * c for c in base)
                out, _, _ = healed(spot(clean.copy(), 160, 120, 10, dark), [(160, 120)], 18)
                np.testing.assert_allclose(
                    tone(out, 160, 120, 12), tone(clean, 160, 120, 12), atol=0.012
                )

    def test_red_halo_outside_of_the_brush_does_not_colour_the_middle(self) -> None:
        clean = skin()
        image = spot(clean.copy(), 160, 120, 18)  # its halo reaches 27 px, the brush 20
        out, _, _ = healed(image, [(160, 120)], 20)
        before = np.abs(tone(image, 160, 120, 6) - tone(clean, 160, 120, 6)).max()
        after = np.abs(tone(out, 160, 120, 6) - tone(clean, 160, 120, 6)).max()
        self.assertLess(after, before / 4)


class Edges(unittest.TestCase):
    def setUp(self) -> None:
        # A dark red lip below skin; the spot sits just above its edge.
        self.clean = skin()
        lip = skin(base=(0.55, 0.22, 0.25), seed=2)
        self.clean[140:] = lip[140:]
        self.image = spot(self.clean.copy(), 160, 124, 7)

    def test_edge_colour_does_not_bleed_into_the_skin(self) -> None:
        out, _, _ = healed(self.image, [(160, 124)], 20)
        np.testing.assert_allclose(tone(out, 160, 122, 8), tone(self.clean, 160, 122, 8), atol=0.02)

    def test_edge_stays_sharp(self) -> None:
        out, _, _ = healed(self.image, [(160, 124)], 20)
        step = out[136:139, 150:170].mean() - out[141:144, 150:170].mean()
        clean = self.clean[136:139, 150:170].mean() - self.clean[141:144, 150:170].mean()
        self.assertGreater(step, 0.85 * clean)

    def test_a_place_narrower_than_its_ring_keeps_its_own_tone(self) -> None:
        # A bright tooth between lip and gap: most of the ring is none of it, and is spared.
        image = skin(base=(0.55, 0.22, 0.25), seed=2)
        image[126:] = skin(base=(0.15, 0.08, 0.08), seed=8)[126:]
        image[114:126] = skin(base=(0.8, 0.76, 0.66), seed=5)[114:126]
        clean = image.copy()
        spot(image, 160, 120, 3, colour=(0.4, 0.42, 0.44))
        above = ((0.0, 0.0), (320.0, 0.0), (320.0, 114.0), (0.0, 114.0))
        below = ((0.0, 126.0), (320.0, 126.0), (320.0, 240.0), (0.0, 240.0))
        lips = (above, below)
        brush, bounds = Footprint(((160.0, 120.0),), 10), Rect(0, 0, 320, 240)

        def read(r: Rect) -> np.ndarray:
            return image[r.y0 : r.y1, r.x0 : r.x1]

        def error(spare: tuple[tuple[tuple[float, float], ...], ...]) -> float:
            view = examine(read, brush, bounds, spare)
            change = heal(read, brush, (60, 0), bounds, keep_edges=False, view=view)
            rect = write_rect(brush, bounds)
            off = read(rect) + change - clean[rect.y0 : rect.y1, rect.x0 : rect.x1]
            return float(np.abs(off[8:12, 8:12].mean((0, 1))).max())

        self.assertLess(error(lips), 0.02)
        self.assertGreater(error(()), 0.2)
        # Nothing would be left to ask: the whole ring counts again.
        everywhere = (((0.0, 0.0), (320.0, 0.0), (320.0, 240.0), (0.0, 240.0)),)
        self.assertEqual(error(everywhere), error(()))

    def test_what_the_hand_points_at_is_not_kept(self) -> None:
        # A dark hair through the middle of the brush is what is to go.
        image = skin()
        image[:, 158:162] = 0.12
        out, _, _ = healed(image, [(160, y) for y in range(60, 181, 10)], 10, softness=0.1)
        self.assertGreater(float(out[80:160, 158:162].mean()), 0.5)


class Places(unittest.TestCase):
    def test_at_every_border_and_corner(self) -> None:
        for x, y in ((2, 120), (318, 120), (160, 1), (160, 239), (0, 0), (320, 240)):
            with self.subTest(x=x, y=y):
                clean = skin()
                image = spot(clean.copy(), x, y, 8)
                out, rect, _ = healed(image, [(x, y)], 16)
                self.assertTrue(np.isfinite(out).all())
                cut = np.s_[rect.y0 : rect.y1, rect.x0 : rect.x1]
                before = np.abs(image[cut] - clean[cut]).mean()
                after = np.abs(out[cut].mean((0, 1)) - clean[cut].mean((0, 1))).max()
                self.assertLess(after, before / 2)

    def test_nothing_outside_of_the_brush_changes(self) -> None:
        image = spot(skin(), 160, 120, 12)
        out, _, _ = healed(image, [(160, 120)], 20, softness=1.0)
        ys, xs = np.mgrid[:240, :320] + 0.5
        outside = np.hypot(xs - 160, ys - 120) > 20.5
        np.testing.assert_array_equal(out[outside], image[outside])

    def test_source_by_hand_may_lie_partly_outside(self) -> None:
        out, _, _ = healed(spot(skin(), 160, 120, 12), [(160, 120)], 20, offset=(-155, 0))
        self.assertTrue(np.isfinite(out).all())

    def test_no_room_for_a_source_is_said(self) -> None:
        image = skin(40, 40)
        found = propose(
            lambda r: image[r.y0 : r.y1, r.x0 : r.x1],
            Footprint(((20, 20),), 30),
            Rect(0, 0, 40, 40),
        )
        self.assertEqual(found, [])

    def test_flat_picture(self) -> None:
        image = np.full((200, 200, 3), 0.5, np.float32)
        out, _, _ = healed(image, [(100, 100)], 15)
        np.testing.assert_allclose(out, image, atol=1e-3)


class Strokes(unittest.TestCase):
    def test_stroke_across_falling_light(self) -> None:
        clean = skin(slope=0.5)
        image = clean.copy()
        path = [(60 + 4 * i, 120 + 20 * np.sin(i / 8)) for i in range(50)]
        for x, y in path:
            spot(image, x, y, 4)
        out, _, _ = healed(image, path, 12)
        for x, y in path[::10]:
            np.testing.assert_allclose(tone(out, x, y, 6), tone(clean, x, y, 6), atol=0.035)

    def test_source_of_a_stroke_does_not_overlap_it(self) -> None:
        image = skin()
        bounds = Rect(0, 0, 320, 240)
        path = [(100 + 5 * i, 120.0) for i in range(20)]
        brush = Footprint(tuple(path), 10)
        for c in propose(lambda r: image[r.y0 : r.y1, r.x0 : r.x1], brush, bounds):
            moved = np.asarray(path) + (c.dx, c.dy)
            gap = np.hypot(*(moved[:, None] - np.asarray(path)[None]).transpose(2, 0, 1)).min()
            self.assertGreater(gap, 1.8 * 10)


class Softness(unittest.TestCase):
    def test_coverage_falls_from_the_inside_to_the_radius(self) -> None:
        brush = Footprint(((0.0, 0.0),), 20)
        d = np.arange(0, 25, 0.5, dtype=np.float32)
        for softness in (0.0, 0.5, 1.0):
            cover = brush.coverage(d, softness)
            self.assertEqual(cover[0], 1)
            self.assertTrue((np.diff(cover) <= 0).all())
            self.assertTrue((cover[d > 20.5] == 0).all())
            full = d <= 20.5 - max(1.0, softness * 20)
            self.assertTrue((cover[full] == 1).all())


class Order(unittest.TestCase):
    def test_crowded_spots_are_healed_last(self) -> None:
        # Five in a cross, one far away: the lonely one first, the middle one after its neighbours.
        cross = [(100, 100, 10), (120, 100, 10), (80, 100, 10), (100, 120, 10), (100, 80, 10)]
        order = outside_in([*cross, (300, 300, 10)])
        self.assertEqual(order[0], 5)
        self.assertGreater(order.index(0), order.index(1))
        self.assertEqual(sorted(order), list(range(6)))


class Determinism(unittest.TestCase):
    def test_same_pixels_in_every_process(self) -> None:
        code = (
            "import hashlib\n"
            "from retouch.tests.scenes import healed, skin, spot\n"
            "out, _, at = healed(spot(skin(slope=0.3), 160, 120, 12), [(160, 120)], 20)\n"
            "print(at, hashlib.sha256(out.tobytes()).hexdigest())\n"
        )
        seen = {
            subprocess.run(
                [sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True
            ).stdout
            for _ in range(2)
        }
        self.assertEqual(len(seen), 1)

"""Braces found on teeth and taken off; teeth continued behind what covers them."""

import unittest

import cv2
import numpy as np
from scipy.sparse import diags, eye, kron
from scipy.sparse.linalg import spsolve

from benchmarks.drawn_braces import braced
from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from benchmarks.taken_away import difference
from retouch.edit import Edit
from retouch.face import analyse
from retouch.face.braces import braces
from retouch.face.cover import FaceZones
from retouch.features.continued import _ACROSS, continued
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import Refused, bench_for
from retouch.work.operations import TakeOffBraces, perform


class Drawn(unittest.TestCase):
    """Eli with braces drawn over the smile; the teeth without them are known."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.clean = read(DEMO / "portraits" / "eli.jpg").pixels
        cls.drawn = braced(cls.clean, understand("eli").analysis)
        picture = Picture(cls.drawn.pixels)
        cls.bench = bench_for(Pyramid(picture), analyse(picture))
        cls.edit = perform(Edit(), TakeOffBraces(), cls.bench).edit
        plan = cls.bench.renderer.plan(cls.edit)
        cls.out = np.asarray(plan.view(cls.bench.renderer.bounds, 0))

    def test_every_bracket_that_is_seen_is_a_piece(self) -> None:
        zones = FaceZones(self.bench.analysis, Edit(), self.bench.renderer.pyramid)
        found = braces(zones, 0)
        assert found is not None
        self.assertGreaterEqual(len(found.brackets), 6)
        mask = np.zeros(self.drawn.braces.shape, np.uint8)
        for line in (*found.brackets, *found.wires):
            cv2.fillPoly(mask, [np.round(np.array(line) - 0.5).astype(np.int32)], 1)
        self.assertGreater(float(mask[self.drawn.braces].mean()), 0.8)
        beyond = (mask > 0) & ~self.drawn.braces
        self.assertLess(float(beyond.sum() / self.drawn.braces.sum()), 0.35)

    def test_the_teeth_come_back(self) -> None:
        drawn, clean = (i.astype(np.float32) / 255 for i in (self.drawn.pixels, self.clean))
        before = difference(drawn, clean, self.drawn.braces)
        after = difference(self.out, clean, self.drawn.braces)
        self.assertGreater(before, 12)
        self.assertLess(after, 3.6)
        # With the true mask given, OpenCV's inpainting (Telea) comes no nearer.
        mask = self.drawn.braces.astype(np.uint8) * 255
        library = cv2.inpaint(self.drawn.pixels, mask, 3, cv2.INPAINT_TELEA)
        self.assertLess(
            after, difference(library.astype(np.float32) / 255, clean, self.drawn.braces)
        )

    def test_lips_stay(self) -> None:
        changed = np.abs(np.round(self.out * 255) - self.drawn.pixels).max(-1) > 1
        # Gaps between teeth belong to no tooth.
        around = cv2.dilate(self.drawn.teeth.astype(np.uint8), np.ones((19, 19), np.uint8)) > 0
        self.assertEqual(int((changed & ~around).sum()), 0)
        bounds = self.bench.renderer.bounds
        lips = understand("eli").analysis.mask(("lips",), bounds, changed.shape, 0)
        self.assertEqual(int((changed & (lips > 0.5)).sum()), 0)

    def test_each_piece_is_a_touch(self) -> None:
        touches = self.edit.passes[-1].touches
        self.assertGreater(len(touches), 8)
        self.assertEqual(len({t.id for t in touches}), len(touches))


class InCoolLight(unittest.TestCase):
    def test_teeth_as_grey_as_metal_are_told_from_it(self) -> None:
        clean = read(DEMO / "portraits" / "kofi.jpg").pixels
        drawn = braced(clean, understand("kofi").analysis)
        picture = Picture(drawn.pixels)
        bench = bench_for(Pyramid(picture), analyse(picture))
        edit = perform(Edit(), TakeOffBraces(), bench).edit
        out = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        before, truth = (i.astype(np.float32) / 255 for i in (drawn.pixels, clean))
        was = difference(before, truth, drawn.braces)
        self.assertLess(difference(out, truth, drawn.braces), 0.55 * was)


class Without(unittest.TestCase):
    def test_teeth_and_closed_mouths_have_none(self) -> None:
        for name in ("chi", "eli", "kofi", "ana", "ivo"):
            with self.subTest(name):
                pyramid = Pyramid(read(DEMO / "portraits" / f"{name}.jpg"))
                bench = bench_for(pyramid, understand(name).analysis)
                with self.assertRaisesRegex(Refused, "No braces are found"):
                    perform(Edit(), TakeOffBraces(), bench)

    def test_no_face(self) -> None:
        bench = bench_for(Pyramid(Picture(np.full((90, 90, 3), 99, np.uint8))), None)
        with self.assertRaisesRegex(Refused, "No face"):
            perform(Edit(), TakeOffBraces(), bench)


class Continued(unittest.TestCase):
    def test_upright_stripes_go_on(self) -> None:
        """Teeth and the gaps between them are upright: what is constant along them comes back."""
        x = np.arange(60, dtype=np.float32)
        row = 0.6 + 0.2 * np.cos(x / 9)
        truth = np.repeat(np.repeat(row[None], 50, 0)[..., None], 3, 2).astype(np.float32)
        hole = np.zeros((50, 60), np.bool_)
        hole[18:32, 20:36] = True
        area = truth.copy()
        area[hole] = 0.2
        out = continued(area, hole, np.zeros_like(hole))
        self.assertLess(float(np.abs(out - truth)[hole].max()), 0.03)

    def test_light_falls_off_as_beside_it(self) -> None:
        """A hole that ends at a lip is told by the teeth to its left and right how dark it gets there."""
        fall = np.linspace(0.4, 0.8, 50, dtype=np.float32)
        truth = np.repeat(np.repeat(fall[:, None], 80, 1)[..., None], 3, 2)
        hole, refused = np.zeros((2, 50, 80), np.bool_)
        hole[8:32, 28:50] = True
        refused[:8] = True
        area = truth.copy()
        area[hole], area[refused] = 0.55, (0.6, 0.2, 0.2)
        out = continued(area, hole, refused)
        self.assertLess(float(np.abs(out - truth)[hole].max()), 0.03)

    def test_refused_places_tell_nothing(self) -> None:
        area = np.full((40, 40, 3), 0.7, np.float32)
        hole, refused = np.zeros((2, 40, 40), np.bool_)
        hole[15:25, 10:30] = True
        refused[:15] = True
        area[:15] = (0.8, 0.1, 0.1)
        area[hole] = 0.3
        out = continued(area, hole, refused)
        self.assertLess(float(np.abs(out[hole] - 0.7).max()), 0.02)

    def test_it_is_the_diffusion_it_says(self) -> None:
        """Against the same system built with SciPy's Kronecker products on a whole rectangle."""
        rng = np.random.default_rng(5)
        area = cv2.GaussianBlur(rng.random((30, 34, 3)).astype(np.float32), (0, 0), 6)
        hole = np.zeros((30, 34), np.bool_)
        hole[10:20, 12:24] = True
        h, w = 10, 12

        def second(n: int) -> object:
            return diags([-np.ones(n - 1), 2 * np.ones(n), -np.ones(n - 1)], [-1, 0, 1])

        system = kron(second(h), eye(w)) + _ACROSS * kron(eye(h), second(w))
        soft = cv2.GaussianBlur(area * ~hole[..., None], (0, 0), 1.2)
        soft = soft / cv2.GaussianBlur((~hole).astype(np.float32), (0, 0), 1.2)[..., None]
        right = np.zeros((h, w, 3))
        right[0] += soft[9, 12:24]
        right[-1] += soft[20, 12:24]
        right[:, 0] += _ACROSS * soft[10:20, 11]
        right[:, -1] += _ACROSS * soft[10:20, 24]
        known = spsolve(system.tocsc(), right.reshape(-1, 3)).reshape(h, w, 3)
        out = continued(area, hole, np.zeros_like(hole))[10:20, 12:24]
        # Grain, which is laid on top, is next to nothing in so smooth a picture.
        self.assertLess(float(np.abs(out - known).max()), 0.01)

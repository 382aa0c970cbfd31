"""Brows: single stray hairs found and healed, one brow mirrored to the other."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.borrowing.pins import laid
from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.edit import Edit
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.pose import Pose
from retouch.face.strays import strays
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import Refused, bench_for
from retouch.work.operations import ClearStrays, MirrorBrow, perform

# Places of hairs beside the right brow of Ana, in mm from its middle, and the way they lie (degrees).
HAIRS = ((-15, -9, 20), (-6, -13, 70), (5, -13, 110), (15, -9, 150), (19, 3, 80))
# A hair is about this wide and long (mm; from memory).
HAIR_MM, LONG_MM = 0.1, 3.0
FINE = 4


def with_hairs(pixels: np.ndarray, middle: np.ndarray, mm: float) -> tuple[np.ndarray, list]:
    """Single dark hairs drawn with soft edges; and where each is."""
    out, places = pixels.copy(), []
    for dx, dy, degrees in HAIRS:
        way = np.array([np.cos(np.radians(degrees)), np.sin(np.radians(degrees))])
        at = (
            middle
            + mm * np.array([dx, dy])
            + LONG_MM * mm * np.linspace(-0.5, 0.5, 7)[:, None] * way
        )
        low = at.min(0).astype(int) - 5
        w, h = at.max(0).astype(int) + 6 - low
        fine = np.zeros((h * FINE, w * FINE), np.uint8)
        thick = max(1, round(max(1.0, HAIR_MM * mm) * FINE))
        cv2.polylines(
            fine, [np.round((at - low) * FINE).astype(np.int32)], False, (255,), thick, cv2.LINE_AA
        )
        cover = cv2.resize(fine, (int(w), int(h)), interpolation=cv2.INTER_AREA) / 255 * 0.8
        box = np.s_[low[1] : low[1] + h, low[0] : low[0] + w]
        out[box] = np.round(
            out[box] * (1 - cover[..., None]) + np.array([45, 32, 26]) * cover[..., None]
        )
        places.append((box, cover > 0.15))
    return out, places  # fmt: skip


class Strays(unittest.TestCase):
    def test_single_hairs_are_healed_and_nothing_else(self) -> None:
        clean = read(DEMO / "portraits" / "ana.jpg").pixels
        analysis = understand("ana").analysis
        face = analysis.faces[0]
        middle = face.points[list(lm.BROW_R), :2].astype(np.float64).mean(0)
        drawn, places = with_hairs(clean, middle, face.scale.px_per_mm)
        bench = bench_for(Pyramid(Picture(drawn)), analysis)
        result = perform(Edit(), ClearStrays(), bench)
        self.assertGreaterEqual(len(result.edit.passes[-1].touches), 4)
        out = np.asarray(bench.renderer.plan(result.edit).view(bench.renderer.bounds, 0))
        truth, before, after = (
            to_lab(np.asarray(i, np.float32)) for i in (clean / 255, drawn / 255, out)
        )
        gone = 0
        beside = np.abs(np.round(out * 255) - drawn).max(-1) > 1
        for box, where in places:
            off = [ciede2000(truth[box], image[box])[where].mean() for image in (before, after)]
            gone += off[1] < 0.35 * off[0]
            beside[box] &= cv2.dilate(where.astype(np.uint8), np.ones((7, 7), np.uint8)) == 0
        self.assertGreaterEqual(gone, 4)
        self.assertEqual(int(beside.sum()), 0)

    def test_brows_as_they_are_have_hardly_any(self) -> None:
        for name in ("ana", "dan", "eli", "kofi", "lia"):
            with self.subTest(name):
                pyramid = Pyramid(read(DEMO / "portraits" / f"{name}.jpg"))
                found = strays(FaceZones(understand(name).analysis, Edit(), pyramid), 0)
                self.assertLessEqual(len(found), 1)

    def test_none(self) -> None:
        bench = bench_for(
            Pyramid(Picture(np.full((2500, 2000, 3), 170, np.uint8))), understand("ana").analysis
        )
        with self.assertRaisesRegex(Refused, "No stray hairs"):
            perform(Edit(), ClearStrays(), bench)
        with self.assertRaisesRegex(Refused, "No face"):
            perform(Edit(), ClearStrays(), bench_for(bench.renderer.pyramid, None))


class Mirrored(unittest.TestCase):
    def test_pins_that_fit_mirrored_lie_mirrored(self) -> None:
        here = np.random.default_rng(2).uniform(0, 300, (9, 2))
        there = here * (-1.2, 1.2) + (900, 40)
        map_ = laid([(*a, *b) for a, b in zip(here, there, strict=True)])
        asked = np.array([[50.0, 60.0], [250.0, 10.0]])
        self.assertLess(
            float(np.abs(map_.there(asked) - (asked * (-1.2, 1.2) + (900, 40))).max()), 1e-3
        )

    def test_a_brow_that_is_missing_comes_from_the_other_side(self) -> None:
        picture = read(DEMO / "portraits" / "eli.jpg")
        analysis = understand("eli").analysis
        points = analysis.faces[0].points[:, :2]
        right = cv2.convexHull(points[list(lm.BROW_R)].astype(np.float32))
        pixels = picture.pixels.copy()
        mask = np.zeros(pixels.shape[:2], np.uint8)
        cv2.fillConvexPoly(mask, right.astype(np.int32), (255,))
        mask = cv2.dilate(mask, np.ones((9, 9), np.uint8))
        pixels = cv2.inpaint(pixels, mask, 5, cv2.INPAINT_TELEA)
        bench = bench_for(Pyramid(Picture(pixels)), analysis)
        edit = perform(Edit(), MirrorBrow("right"), bench).edit
        out = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0)) * 255
        inside = np.zeros(pixels.shape[:2], np.uint8)
        cv2.fillConvexPoly(inside, right.astype(np.int32), (1,))
        dark = [
            float(np.quantile(i[inside > 0].mean(-1), 0.2)) for i in (picture.pixels, pixels, out)
        ]
        self.assertGreater(dark[1] - dark[0], 30)
        self.assertAlmostEqual(dark[2], dark[0], delta=0.3 * (dark[1] - dark[0]))
        # The other brow, which lends, is as it was.
        left = np.zeros(pixels.shape[:2], np.uint8)
        hull = cv2.convexHull(points[list(lm.BROW_L)].astype(np.float32)).astype(np.int32)
        cv2.fillConvexPoly(left, hull, (1,))
        self.assertEqual(int((np.round(out) != pixels)[left > 0].sum()), 0)

    def test_hairs_from_the_shade_get_the_light_and_colour_of_their_new_place(self) -> None:
        """Ana's left side lies in the shade; skin and hairs are those of the right one."""
        picture = read(DEMO / "portraits" / "ana.jpg")
        bench = bench_for(Pyramid(picture), understand("ana").analysis)
        edit = perform(Edit(), MirrorBrow("right"), bench).edit
        outline = np.array(edit.passes[0].touches[0].path, np.float32)
        rect = Rect(*(int(v) for v in (*outline.min(0), *outline.max(0))))
        inside = np.zeros((rect.height, rect.width), np.uint8)
        cv2.fillPoly(inside, [(outline - (rect.x0, rect.y0)).astype(np.int32)], (1,))
        renderer = bench.renderer
        before, after = (
            to_lab(np.asarray(renderer.plan(e).view(rect, 0), np.float32)) for e in (Edit(), edit)
        )
        for share in (0.03, 0.9):
            tones = []
            for lab in (before, after):
                light = lab[inside > 0, 0]
                near = np.abs(light - np.quantile(light, share)) < 2
                tones.append(np.median(lab[inside > 0][near], axis=0))
            off = np.abs(tones[0] - tones[1])
            self.assertLess(float(off[0]), 6)
            self.assertLess(float(off[1:].max()), 3)

    def test_a_head_turned_aside_is_refused_with_the_number(self) -> None:
        analysis = understand("eli").analysis
        turned = replace(analysis.faces[0], pose=Pose(31.0, 0.0, 0.0))
        bench = bench_for(
            Pyramid(read(DEMO / "portraits" / "eli.jpg")), replace(analysis, faces=(turned,))
        )
        with self.assertRaisesRegex(Refused, "31° aside"):
            perform(Edit(), MirrorBrow("left"), bench)

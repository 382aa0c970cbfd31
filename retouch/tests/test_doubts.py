"""What isn't sure of a face is said in words, and passes on skin stay off it."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from benchmarks.face_variants import found_in, reduced
from retouch.edit.model import Edit
from retouch.face import Analysis
from retouch.face.corrected import zone_mask
from retouch.face.doubts import doubts
from retouch.face.models import MODELS
from retouch.face.zones import Layer
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.work import perform
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass


def tearDownModule() -> None:
    MODELS.close()


class Doubts(unittest.TestCase):
    analysis: Analysis
    picture: Picture

    @classmethod
    def setUpClass(cls) -> None:
        pixels, _ = reduced("eli")
        found = found_in(pixels)
        assert found is not None
        cls.picture, cls.analysis = Picture(pixels), found

    def with_layers(self, *more: Layer) -> Analysis:
        kept = tuple(a for a in self.analysis.layers if a.zone != "unsure")
        return replace(self.analysis, layers=kept + more)

    def half(self, zone: str, rect: Rect) -> Layer:
        return Layer(zone, 0, rect, np.full((8, 8), 128, np.uint8))

    def test_nothing_to_say_of_a_clear_portrait(self) -> None:
        self.assertEqual(doubts(self.with_layers(), 0), ())

    def test_cloth_and_skin_alike(self) -> None:
        x, y, w, h = (int(v) for v in self.analysis.faces[0].box)
        chest = Rect(x, y + int(1.3 * h), x + w, y + int(1.6 * h))
        kept = [
            a for a in self.with_layers().layers if a.zone not in ("clothing", "other_skin", "neck")
        ]
        mixed = [self.half(zone, chest) for zone in ("clothing", "other_skin")]
        unsure = Layer("unsure", 0, chest, np.full((8, 8), 255, np.uint8))
        analysis = replace(self.analysis, layers=(*kept, *mixed, unsure))
        self.assertEqual(
            doubts(analysis, 0), ("Clothing may be taken for skin, or skin for clothing.",)
        )

    def test_a_small_face_and_an_unsure_scale(self) -> None:
        face = self.analysis.faces[0]
        scale = replace(face.scale, px_per_mm=1.5, uncertainty=0.2)
        told = doubts(replace(self.with_layers(), faces=(replace(face, scale=scale),)), 0)
        self.assertIn("too small", told[0])
        self.assertIn("20 %", told[1])

    def test_passes_stay_off_what_is_unsure(self) -> None:
        x, y, w, h = (int(v) for v in self.analysis.faces[0].box)
        cheek = Rect(x + w // 8, y + h // 2, x + 3 * w // 8, y + 3 * h // 4)
        unsure = Layer("unsure", 0, cheek, np.full((8, 8), 255, np.uint8))
        analysis = self.with_layers(unsure)
        inner = Rect(cheek.x0 + 20, cheek.y0 + 20, cheek.x1 - 20, cheek.y1 - 20)
        self.assertLess(float(zone_mask(analysis, "skin", inner, (40, 40)).max()), 0.02)
        # What is found there is still told as it is.
        self.assertGreater(float(analysis.mask(("cheek_right",), inner, (40, 40)).max()), 0.9)
        bench = bench_for(Pyramid(self.picture), analysis)
        edit = perform(Edit(), AddPass("skin_bands", settings={"middle": -100.0}), bench).edit
        out = bench.renderer.render(edit, inner)
        cut = self.picture.pixels[inner.y0 : inner.y1, inner.x0 : inner.x1]
        np.testing.assert_array_equal(np.rint(out * 255).astype(np.uint8), cut)

"""Two photographs of real people, looked at and evened: nothing of them may embarrass a retoucher.

`skimage.data.astronaut` (NASA, public domain, as its docstring says) and the portrait among
matplotlib's sample data (a work of the U.S. Navy, public domain). Places are read off by eye.
"""

from __future__ import annotations

import unittest
from typing import ClassVar

import cv2
import matplotlib.cbook
import numpy as np
import skimage.data

from retouch.edit import Edit
from retouch.face import Analysis, analyse
from retouch.face.doubts import doubts
from retouch.face.models import MODELS
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.work import perform
from retouch.work.bench import bench_for
from retouch.work.operations import ApplyRoutine
from retouch.zone_names import members


def tearDownModule() -> None:
    MODELS.close()


def sailor() -> np.ndarray:
    """An elderly woman in uniform with a cap, white collar and glasses, 512 x 600."""
    with matplotlib.cbook.get_sample_data("grace_hopper.jpg") as file:
        pixels = cv2.imdecode(np.frombuffer(file.read(), np.uint8), cv2.IMREAD_COLOR)
    assert pixels is not None
    return np.ascontiguousarray(pixels[..., ::-1])


class Photograph(unittest.TestCase):
    """What both have in common: looked at once, evened once."""

    pixels: ClassVar[np.ndarray]
    analysis: ClassVar[Analysis]
    evened: ClassVar[np.ndarray]

    @classmethod
    def look(cls, pixels: np.ndarray) -> None:
        picture = Picture(pixels)
        cls.pixels = pixels
        cls.analysis = analyse(picture)
        bench = bench_for(Pyramid(picture), cls.analysis)
        edit = perform(Edit(), ApplyRoutine("everyday"), bench).edit
        cls.evened = bench.renderer.render(edit, bench.renderer.bounds)

    def share(self, zone: str, x0: int, y0: int, x1: int, y1: int) -> float:
        rect = Rect(0, 0, self.analysis.width, self.analysis.height)
        mask = self.analysis.mask(members(zone), rect, (rect.height, rect.width))
        return float(mask[y0:y1, x0:x1].mean())

    def changed(self, x0: int, y0: int, x1: int, y1: int) -> float:
        """The part of a place that *Everyday* changes by more than one step of 255."""
        part = np.s_[y0:y1, x0:x1]
        change = np.abs(self.evened[part] * 255 - self.pixels[part]).max(-1)
        return float((change > 1).mean())


class Astronaut(Photograph):
    @classmethod
    def setUpClass(cls) -> None:
        cls.look(skimage.data.astronaut())

    def test_zones(self) -> None:
        self.assertGreater(self.share("skin", 200, 85, 245, 95), 0.85)  # forehead
        self.assertGreater(self.share("hair", 205, 25, 245, 50), 0.85)
        self.assertGreater(self.share("clothing", 170, 330, 290, 450), 0.9)  # the orange suit
        self.assertGreater(self.share("background", 10, 10, 90, 150), 0.95)  # the flag
        self.assertGreater(self.share("background", 400, 20, 500, 200), 0.9)  # the shuttle
        self.assertGreater(self.share("teeth", 213, 143, 231, 147), 0.6)
        self.assertLess(self.share("beard", 0, 0, 512, 512), 0.001)

    def test_no_offer(self) -> None:
        """A face of 92 pixels shows no blemish that could be told from a pore."""
        self.assertEqual([m for of in self.analysis.marks for m in of if m.proposal == "clear"], [])
        self.assertIn("too small", " ".join(doubts(self.analysis, 0)))

    def test_everyday_leaves_suit_and_background(self) -> None:
        for place in ((0, 0, 150, 200), (300, 0, 512, 512), (0, 300, 300, 512)):
            self.assertLess(self.changed(*place), 0.0005)


class Sailor(Photograph):
    @classmethod
    def setUpClass(cls) -> None:
        cls.look(sailor())

    def test_zones(self) -> None:
        self.assertGreater(self.share("skin", 205, 250, 225, 275), 0.9)  # a cheek
        self.assertGreater(self.share("skin", 230, 345, 285, 375), 0.75)  # the neck
        self.assertGreater(self.share("clothing", 60, 420, 180, 470), 0.8)  # the uniform
        for collar in ((212, 380, 226, 410), (302, 365, 316, 395), (250, 455, 272, 490)):
            self.assertLess(self.share("skin", *collar), 0.15)
        # A black cap over white hair: told from skin, not yet from dark hair.
        self.assertLess(self.share("skin", 180, 105, 340, 125), 0.05)
        self.assertGreater(self.share("background", 420, 50, 500, 300), 0.95)
        self.assertLess(self.share("beard", 0, 0, 512, 600), 0.001)

    def test_rims_are_no_brows(self) -> None:
        for rim in ((182, 177, 204, 184), (318, 170, 345, 182)):
            self.assertLess(self.share("brows", *rim), 0.3)

    def test_no_offer(self) -> None:
        self.assertEqual([m for of in self.analysis.marks for m in of if m.proposal == "clear"], [])

    def test_everyday_leaves_uniform_collar_and_cap(self) -> None:
        for place in ((0, 420, 190, 600), (213, 388, 220, 402), (180, 30, 340, 120)):
            self.assertLess(self.changed(*place), 0.0005)


del Photograph

"""Proposals for the frame: which angle levels a picture, and how a face is framed."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from typing import Any, cast

import cv2
import numpy as np

from retouch.edit import Pass
from retouch.face import Analysis
from retouch.face import landmarks as lm
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.passes.frame import wish
from retouch.picture import Picture, Pyramid
from retouch.warp.frame import framed
from retouch.work.cropping import CUTS, proposals
from retouch.work.straightening import from_lines, from_pupils

W, H = 900, 1200
BOUNDS = Rect(0, 0, W, H)


def wall(angle: float, blur: float = 0.0, noise: float = 0.0) -> Picture:
    """A door and a shelf, turned clockwise by an angle about the middle."""
    big = np.full((1800, 1800, 3), 150, np.uint8)
    cv2.rectangle(big, (500, 200), (760, 1500), (90, 80, 70), -1)
    for y in (400, 800, 1200):
        cv2.rectangle(big, (900, y), (1500, y + 30), (60, 60, 80), -1)
    m = cv2.getRotationMatrix2D((900, 900), -angle, 1)
    turned = cv2.warpAffine(big, m, (1800, 1800), flags=cv2.INTER_CUBIC)
    part = turned[900 - H // 2 : 900 + H // 2, 900 - W // 2 : 900 + W // 2]
    if blur:
        part = cv2.GaussianBlur(part, (0, 0), blur)
    grain = noise * np.random.default_rng(1).standard_normal(part.shape)
    return Picture(np.clip(part + grain, 0, 255).astype(np.uint8))


def person(tilt: float = 0.0, sideways: bool = False) -> Analysis:
    """A stand-in of an analysis: pupils 120 px apart, the chin 160 px below."""
    a = np.radians(tilt + (90 if sideways else 0))
    turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    middle = np.array([450.0, 500.0])
    right, left, chin = (middle + turn @ p for p in ([-60.0, 0.0], [60.0, 0.0], [0.0, 160.0]))
    points = np.zeros((478, 3), np.float32)
    points[lm.CHIN, :2] = chin
    face = SimpleNamespace(
        right_iris=SimpleNamespace(x=right[0], y=right[1]),
        left_iris=SimpleNamespace(x=left[0], y=left[1]),
        points=points,
    )
    return cast(Analysis, SimpleNamespace(faces=(face,)))


class Level(unittest.TestCase):
    def test_by_lines_sharp_or_out_of_focus(self) -> None:
        for angle in (-6.3, 0.0, 2.5):
            for blur in (0.0, 12.0):
                found = from_lines(Pyramid(wall(angle, blur, 3.0)), None)
                assert found is not None
                self.assertAlmostEqual(found.angle, -angle, delta=0.15)

    def test_no_lines_no_angle(self) -> None:
        rng = np.random.default_rng(2)
        noise = cv2.GaussianBlur(rng.normal(128, 60, (600, 500, 3)), (0, 0), 4)
        self.assertIsNone(from_lines(Pyramid(Picture(noise.clip(0, 255).astype(np.uint8))), None))

    def test_by_the_pupils(self) -> None:
        for tilt in (-8.0, 0.0, 4.5):
            found = from_pupils(person(tilt))
            assert found is not None
            self.assertAlmostEqual(found.angle, -tilt, 4)
        self.assertIsNone(from_pupils(cast(Analysis, SimpleNamespace(faces=()))))


class Cuts(unittest.TestCase):
    def settings(self, **own: Any) -> dict[str, Any]:
        return dict(completed(Pass("f", "frame", settings=own)).settings)

    def test_the_head_has_the_height_that_the_document_asks_for(self) -> None:
        """70 to 80 % of the height, centred, eyes 50 to 70 % from the lower edge (see `CUTS`)."""
        for tilt, more in ((0.0, {}), (6.0, {"angle_deg": -6.0}), (0.0, {"upright": 12.0})):
            found = {p.cut.name: p for p in proposals(person(tilt), self.settings(**more), BOUNDS)}
            self.assertEqual(set(found), {c.name for c in CUTS})
            one = found["document"]
            self.assertTrue(one.fits)
            warp = framed(wish(one.settings), BOUNDS).warp
            face = person(tilt).faces[0]
            places = [(face.right_iris.x, face.right_iris.y), (face.left_iris.x, face.left_iris.y)]
            right, left, chin = warp.to_result(np.array([*places, face.points[lm.CHIN, :2]]))
            head = 2 * (chin[1] - (right[1] + left[1]) / 2) / warp.height
            self.assertTrue(0.7 <= head <= 0.8, head)
            self.assertAlmostEqual((right[0] + left[0]) / 2 / warp.width, 0.5, 1)
            eyes = 1 - (right[1] + left[1]) / 2 / warp.height
            self.assertTrue(0.5 <= eyes <= 0.7, eyes)
            self.assertAlmostEqual(warp.width / warp.height, 35 / 45, 2)

    def test_a_head_that_lies_on_its_side(self) -> None:
        found = {p.cut.name: p for p in proposals(person(sideways=True), self.settings(), BOUNDS)}
        warp = framed(wish({**found["document"].settings, "turn": "270"}), BOUNDS).warp
        face = person(sideways=True).faces[0]
        chin = warp.to_result(face.points[lm.CHIN, :2][None].astype(float))[0]
        eye = warp.to_result(np.array([(face.right_iris.x, face.right_iris.y)]))[0]
        self.assertGreater(chin[1], eye[1])
        self.assertLess(warp.width, warp.height)

    def test_what_does_not_fit_is_told(self) -> None:
        found = {p.cut.name: p for p in proposals(person(), self.settings(), BOUNDS)}
        self.assertFalse(found["half_length"].fits)

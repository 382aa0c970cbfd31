"""Turned, resized and mirrored sources; the mirrored side of a face."""

from __future__ import annotations

import unittest
from types import SimpleNamespace

import numpy as np
from scipy import ndimage

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Pass, Touch
from retouch.face import landmarks as lm
from retouch.face.mirror import mirrored_place
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.heal.turned import Turn, turned
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer

WHOLE = Rect(0, 0, 200, 160)
SEEN = Rect(80, 60, 120, 100)


def smooth(seed: int = 2) -> np.ndarray:
    rng = np.random.default_rng(seed)
    noise = ndimage.gaussian_filter(rng.random((160, 200, 3)), (3, 3, 0))
    return ((noise - noise.min()) / np.ptp(noise)).astype(np.float32)


class Turning(unittest.TestCase):
    def setUp(self) -> None:
        self.image = smooth()

    def read(self, r: Rect) -> np.ndarray:
        assert r.clip(WHOLE) == r
        return self.image[r.y0 : r.y1, r.x0 : r.x1]

    def seen(self, turn: Turn, rect: Rect = SEEN) -> np.ndarray:
        return turned(self.read, (100.0, 80.0), turn, WHOLE)(rect)

    def test_a_quarter_turn_is_numpys(self) -> None:
        square = self.image[60:100, 80:120]
        # Clockwise as seen: what was above is to the right.
        np.testing.assert_allclose(self.seen(Turn(90)), np.rot90(square, -1), atol=2e-5)
        np.testing.assert_allclose(self.seen(Turn(180)), np.rot90(square, 2), atol=2e-5)

    def test_mirrored_is_numpys(self) -> None:
        square = self.image[60:100, 80:120]
        np.testing.assert_allclose(self.seen(Turn(mirror=True)), square[:, ::-1], atol=2e-5)

    def test_enlarged_as_scipy_does(self) -> None:
        ys, xs = np.mgrid[60:100, 80:120] + 0.5
        places = [(ys - 80) / 1.5 + 80 - 0.5, (xs - 100) / 1.5 + 100 - 0.5]
        for k in range(3):
            expected = ndimage.map_coordinates(self.image[..., k], places, order=3)
            np.testing.assert_allclose(
                self.seen(Turn(size=1.5))[..., k], expected, atol=8e-3
            )  # steps of 1/32 px

    def test_nothing_is_the_reader_itself(self) -> None:
        self.assertEqual(turned(self.read, (1.0, 2.0), Turn(360), WHOLE), self.read)

    def test_beyond_the_picture_is_no_error(self) -> None:
        out = self.seen(Turn(45), Rect(170, 130, 230, 190))
        self.assertEqual(out.shape, (60, 60, 3))
        self.assertTrue(np.isfinite(out).all())

    def test_a_clone_of_a_turned_source(self) -> None:
        picture = Picture(to_integers(self.image, 16))
        values = {"radius_px": 15.0, "softness": 0.0, "source_turn": 90.0}
        touch = Touch("a", ((50.5, 80.5),), values, (80, 10))
        edit = loads(dumps(Edit((Pass("p", "clone", touches=(touch,)),))))
        out = Renderer(Pyramid(picture)).render(edit, picture.bounds)
        source = self.image[83:98, 123:138]
        np.testing.assert_allclose(out[73:88, 43:58], np.rot90(source, -1), atol=2e-4)


class OtherSide(unittest.TestCase):
    """A face drawn by hand: only the points that are looked at matter."""

    def face(self, lean: float = 0.0, far: float = 1.0) -> SimpleNamespace:
        points = np.zeros((478, 3), np.float32)
        places = {10: (0, -100), 152: (0, 100), 133: (-15, -20), 362: (15, -20), 33: (-45, -20)}
        places[263] = (45 * far, -20)
        turn = np.radians(lean)
        for n, (x, y) in places.items():
            points[n, 0] = 300 + x * np.cos(turn) - y * np.sin(turn)
            points[n, 1] = 200 + x * np.sin(turn) + y * np.cos(turn)
        return SimpleNamespace(points=points, height=200.0)

    def test_upright(self) -> None:
        found = mirrored_place(self.face(), 260.0, 230.0)  # type: ignore[arg-type]
        np.testing.assert_allclose(found, (340, 230, 0, 1), atol=1e-6)

    def test_a_leaning_face_turns_the_source_twice_as_far(self) -> None:
        x, y, degrees, _ = mirrored_place(self.face(lean=20), 300 - 40, 200.0)  # type: ignore[arg-type, misc]
        self.assertAlmostEqual(float(np.hypot(x - 300, y - 200)), 40, places=3)
        turn = Turn(degrees, mirror=True).matrix()
        axis = np.array([-np.sin(np.radians(20)), np.cos(np.radians(20))])
        # What runs along the face's axis still does, what runs across is turned over.
        np.testing.assert_allclose(turn @ axis, axis, atol=1e-6)
        across = np.array([axis[1], -axis[0]])
        np.testing.assert_allclose(turn @ across, -across, atol=1e-6)

    def test_the_far_side_of_a_face_that_looks_aside_is_narrower(self) -> None:
        x, *_ = mirrored_place(self.face(far=0.5), 260.0, 230.0)  # type: ignore[arg-type, misc]
        self.assertAlmostEqual(x, 320, places=3)

    def test_in_the_middle_there_is_no_other_side(self) -> None:
        self.assertIsNone(mirrored_place(self.face(), 301.0, 230.0))  # type: ignore[arg-type]

    def test_near_the_eyes_their_points_decide(self) -> None:
        """The left eye and brow are the right ones mirrored, elsewhere and 0.8 as large."""
        face = self.face()
        rng = np.random.default_rng(2)
        own = np.array([-40, -25]) + rng.uniform(-14, 14, (26, 2))
        other = 0.8 * (own - (-40, -25)) * (-1, 1) + (46, -31)
        face.points[[*lm.EYE_R, *lm.BROW_R], :2] = own + (300, 200)
        face.points[[*lm.EYE_L, *lm.BROW_L], :2] = other + (300, 200)
        x, y, degrees, size = mirrored_place(face, 260.0, 175.0)  # type: ignore[arg-type, misc]
        np.testing.assert_allclose((x, y), (346, 169), atol=0.01)
        # What is taken there looks, enlarged, as what lies here.
        there = Turn(degrees, size, True).matrix() @ (10.0, 3.0)
        np.testing.assert_allclose(there, (-8.0, 2.4), atol=0.01)

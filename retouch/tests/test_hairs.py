"""Hairs laid beside others, and catchlights from the other eye."""

import unittest

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.face.catchlights import catchlight
from retouch.features import hairs
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import Refused, bench_for
from retouch.work.operations import AddCatchlight, AddTouch, NewTouch, perform


def field(angle: float) -> np.ndarray:
    """Skin with dark hairs two pixels wide, all in one direction (degrees)."""
    rng = np.random.default_rng(3)
    image = np.full((160, 200, 3), (190, 150, 130), np.uint8)
    along = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    for _ in range(70):
        root = rng.uniform((20, 20), (180, 140))
        tip = root + 24 * along
        ends = [np.round(p * 16).astype(int).tolist() for p in (root, tip)]
        cv2.line(image, *ends, (50, 35, 30), 2, cv2.LINE_AA, 4)
    return image


class LikeThoseBeside(unittest.TestCase):
    def test_direction_colour_and_width_are_those_around(self) -> None:
        for angle in (-40.0, 15.0, 70.0):
            area = field(angle).astype(np.float32) / 255
            colour, width, ways = hairs.beside(area, np.ones(area.shape[:2], np.float32))
            c, s = ways[80, 100]
            found = np.degrees(0.5 * np.arctan2(s, c))
            self.assertLess(abs((found - angle + 90) % 180 - 90), 8)
            self.assertLess(float(np.abs(colour * 255 - (50, 35, 30)).max()), 30)
            self.assertTrue(0.9 <= width <= 3)

    def test_they_grow_the_way_of_the_stroke(self) -> None:
        ways = np.zeros((50, 50, 2), np.float32)
        ways[..., 0] = 1
        for end, sign in ((40.0, 1), (10.0, -1)):
            path = np.array([[25.0, 25.0], [end, 25.0]])
            lines = hairs.planted(path, 4, 30, 12, ways, (0, 0), 1)
            grown = np.array([line[-1, 0] - line[0, 0] for line in lines])
            self.assertTrue((np.sign(grown) == sign).all())

    def test_a_seed_is_the_same_hairs_again(self) -> None:
        bench = bench_for(Pyramid(Picture(field(30))), None)

        def laid(seed: float) -> np.ndarray:
            new = NewTouch(((60.0, 80.0), (120.0, 80.0)), "t", {"radius_px": 12.0, "seed": seed})
            edit = perform(Edit(), AddTouch("hairs", new), bench).edit
            return np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))

        np.testing.assert_array_equal(laid(1.0), laid(1.0))
        self.assertFalse(np.array_equal(laid(1.0), laid(2.0)))

    def test_one_stroke_is_one_hair(self) -> None:
        plain = np.full((100, 140, 3), 180, np.uint8)
        bench = bench_for(Pyramid(Picture(plain)), None)
        new = NewTouch(((30.0, 50.0), (70.0, 45.0), (100.0, 50.0)), "t", {"way": "one"})
        edit = perform(Edit(), AddTouch("hairs", new), bench).edit
        out = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        changed = np.abs(out - 180 / 255).max(-1) > 0.02
        self.assertGreater(changed[40:55, 35:95].any(0).mean(), 0.95)
        self.assertLessEqual(int(changed.sum(0).max()), 4)
        self.assertFalse(changed[:, 110:].any() or changed[:, :20].any())


class Catchlights(unittest.TestCase):
    def test_the_other_eyes_light_is_laid_in(self) -> None:
        picture = read(DEMO / "portraits" / "eli.jpg")
        face = understand("eli").analysis.faces[0]
        pixels = picture.pixels.copy()
        # One eye's light painted out, in the colour of its iris beside it.
        for iris, keep in ((face.right_iris, False), (face.left_iris, True)):
            x, y = round(iris.x - 0.3 * iris.radius), round(iris.y - 0.25 * iris.radius)
            colour = (245, 245, 240) if keep else (60, 45, 35)
            cv2.circle(pixels, (x, y), round(0.16 * iris.radius), colour, -1)
        bench = bench_for(Pyramid(Picture(pixels)), understand("eli").analysis)
        edit = perform(Edit(), AddCatchlight("right"), bench).edit
        out = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        iris = face.right_iris
        x, y = round(iris.x - 0.3 * iris.radius), round(iris.y - 0.25 * iris.radius)
        self.assertGreater(float(out[y - 2 : y + 3, x - 2 : x + 3].mean()), 0.8)
        away = np.ones(out.shape[:2], np.bool_)
        r = int(iris.radius)
        away[y - r : y + r, x - r : x + r] = False
        self.assertEqual(int((np.round(out * 255) != pixels)[away].sum()), 0)

    def test_lights_are_found_where_they_are_and_nothing_else_is_one(self) -> None:
        """Skin of a lid, lashes, the whites and what they mirror are none; known from looking."""
        lit = {"chi": 2, "dan": 2, "eli": 2, "hana": 1}
        for name in ("ana", "bela", "chi", "dan", "eli", "hana", "ivo", "kofi", "lia"):
            analysis, pyramid = (
                understand(name).analysis,
                Pyramid(read(DEMO / "portraits" / f"{name}.jpg")),
            )
            face = analysis.faces[0]
            found = 0
            for iris in (face.right_iris, face.left_iris):
                one = catchlight(analysis, pyramid, 0, iris)
                if one is None:
                    continue
                found += 1
                for x, y in one.path:
                    self.assertLess(np.hypot(x - iris.x, y - iris.y), iris.radius)
                    place = Rect(int(x) - 1, int(y) - 1, int(x) + 2, int(y) + 2)
                    around = Rect(int(iris.x) - 6, int(iris.y), int(iris.x) + 6, int(iris.y) + 6)
                    lights = [float(np.median(pyramid.crop(r, 0))) for r in (place, around)]
                    self.assertGreater(lights[0], lights[1] + 0.15)
            self.assertEqual(found, lit.get(name, 0), name)

    def test_it_lies_on_the_eye_and_not_on_a_lid(self) -> None:
        """Hana's right eye alone has one; her other eye is half closed."""
        analysis = understand("hana").analysis
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "hana.jpg")), analysis)
        before = np.asarray(bench.renderer.plan(Edit()).view(bench.renderer.bounds, 0))
        edit = perform(Edit(), AddCatchlight("left"), bench).edit
        after = np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))
        changed = np.abs(after - before).max(-1) > 1 / 255
        eye = analysis.mask(
            ("irises", "pupils", "eye_whites"), bench.renderer.bounds, changed.shape
        )
        self.assertGreater(int(changed.sum()), 5)
        self.assertEqual(int((changed & (eye == 0)).sum()), 0)
        self.assertGreater(float((after - before).max()), 0.2)

    def test_none_to_take(self) -> None:
        grey = Picture(np.full((2000, 1600, 3), 120, np.uint8))
        bench = bench_for(Pyramid(grey), understand("eli").analysis)
        with self.assertRaisesRegex(Refused, "no catchlight"):
            perform(Edit(), AddCatchlight("left"), bench)

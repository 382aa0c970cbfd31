"""Hair volume, shoulders and waist, and gaps in hair: what goes by an outline that was found."""

import unittest

import cv2
import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.colour.lab import to_lab
from retouch.edit import Edit
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.gaps import gaps
from retouch.geometry import Rect
from retouch.natural.moves import everything_moved
from retouch.picture import Picture, Pyramid, read
from retouch.render.shaping import shape_of
from retouch.shape.composed import Composed, areas
from retouch.shape.figure import Moves, figure_field, figure_of
from retouch.shape.volume import Volume, volume_field
from retouch.work.bench import Bench, Refused, bench_for
from retouch.work.operations import ChangePass, FillGaps, MoveByOutline, OutlineHair, perform


def work(name: str) -> Bench:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    return bench_for(Pyramid(picture), understand(name).analysis)


def moved_by(bench: Bench, kind: str, **numbers: float) -> Edit:
    added = perform(Edit(), MoveByOutline(kind), bench)  # type: ignore[arg-type]
    change = ChangePass(added.pass_id or "", settings=numbers)
    return perform(added.edit, change, bench).edit


def circle(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    return [(x + radius * np.cos(t), y + radius * np.sin(t)) for t in turn]


class HairVolume(unittest.TestCase):
    # A head of hair around a face, 2 pixels per mm.
    HAIR, FACE, MM = circle(300, 280, 160), circle(300, 320, 90), 2.0

    def shifts(self, volume: Volume, places: list[tuple[float, float]]) -> np.ndarray:
        field = volume_field(self.HAIR, self.FACE, self.MM, volume, Composed())
        assert field is not None
        at = np.array(places, np.float64)
        return field.forth(at) - at

    def test_the_outline_goes_as_far_as_asked_and_the_face_stays(self) -> None:
        up = self.shifts(Volume(6.0, 0, 0), [(300, 125), (300, 320), (260, 300)])
        self.assertAlmostEqual(float(up[0, 1]), -12.0, delta=2.5)
        self.assertEqual(float(np.abs(up[1:]).max()), 0.0)

    def test_each_side_is_its_own_and_down_there_nothing_moves(self) -> None:
        # The person's right is on the left of the picture.
        out = self.shifts(Volume(0, 5.0, 0), [(148, 290), (452, 290), (300, 460)])
        self.assertLess(float(out[0, 0]), -5)
        self.assertLess(float(np.abs(out[1:]).max()), 0.5)

    def test_it_never_folds_at_its_ends(self) -> None:
        for amount in (-10.0, 10.0):
            field = volume_field(
                self.HAIR, self.FACE, self.MM, Volume(amount, amount, amount), Composed()
            )
            assert field is not None
            self.assertGreater(float(areas(Composed(), field).min()), 0.2)

    def test_on_a_portrait_the_head_grows_above_and_is_told(self) -> None:
        bench = work("ana")
        edit = moved_by(bench, "volume", volume_top=6.0)
        assert bench.analysis is not None
        face = bench.analysis.faces[0]
        shape = shape_of(edit)
        mesh = face.points[[*lm.LIPS_OUT, *lm.EYE_R, *lm.EYE_L, 1, lm.CHIN], :2].astype(np.float64)
        self.assertEqual(float(np.abs(shape.forth(mesh) - mesh).max()), 0.0)
        (told,) = everything_moved(
            bench.renderer, edit, FaceZones(bench.analysis, edit, bench.renderer.pyramid)
        )
        self.assertEqual((told.where, told.what), ("hair", ("On top +6 mm",)))
        assert told.most_mm is not None
        self.assertGreater(told.most_mm, 3.5)
        self.assertLess(told.most_mm, 6.5)

    def test_an_outline_that_was_drawn_is_the_one(self) -> None:
        bench = work("ana")
        edit = perform(Edit(), OutlineHair(), bench).edit
        done = perform(edit, MoveByOutline("volume"), bench).edit
        self.assertEqual(done.passes[-1].touches[0].path, edit.passes[0].touches[0].path)
        with self.assertRaisesRegex(Refused, "is there already"):
            perform(done, MoveByOutline("volume"), bench)

    def test_without_hair_it_says_so(self) -> None:
        with self.assertRaisesRegex(Refused, "No hair is found"):
            perform(Edit(), MoveByOutline("volume"), work("kofi"))
        bare = bench_for(Pyramid(Picture(np.zeros((60, 80, 3), np.uint8))), None)
        with self.assertRaisesRegex(Refused, "No face is known"):
            perform(Edit(), MoveByOutline("figure"), bare)


class ShouldersAndWaist(unittest.TestCase):
    # Neck, shoulders, a waist at 700, hips; 1 pixel per mm; cut off below.
    BODY = [
        (280.0, 200.0), (280.0, 240.0), (120.0, 290.0), (110.0, 340.0), (170.0, 700.0),
        (120.0, 1000.0), (480.0, 1000.0), (430.0, 700.0), (490.0, 340.0), (480.0, 290.0),
        (320.0, 240.0), (320.0, 200.0),
    ]  # fmt: skip
    FACE = circle(300, 110, 75)

    def shifts(self, moves: Moves, places: list[tuple[float, float]]) -> np.ndarray:
        field = figure_field(self.BODY, self.FACE, 1.0, moves, Composed())
        assert field is not None
        self.assertGreater(float(areas(Composed(), field).min()), 0.2)
        at = np.array(places, np.float64)
        return field.forth(at) - at

    def test_shoulders_and_waist_are_found_where_they_are(self) -> None:
        found = figure_of(self.BODY, self.FACE, 1.0)
        self.assertEqual((found.right, found.left), ((120.0, 290.0), (480.0, 290.0)))
        assert found.waist is not None
        height, left, right = found.waist
        self.assertAlmostEqual(height, 700, delta=5)
        self.assertAlmostEqual(right - left, 260, delta=3)

    def test_one_shoulder_goes_up_and_the_other_and_the_face_stay(self) -> None:
        out = self.shifts(Moves(12.0, 0, 0, 0), [(122, 292), (478, 292), (300, 110), (300, 600)])
        self.assertAlmostEqual(float(out[0, 1]), -12.0, delta=2.0)
        self.assertLess(float(np.abs(out[1:]).max()), 0.5)

    def test_narrower_shoulders_come_in_by_half_on_each_side(self) -> None:
        out = self.shifts(Moves(0, 0, -20.0, 0), [(122, 292), (478, 292)])
        self.assertAlmostEqual(float(out[0, 0]), 10.0, delta=2.0)
        self.assertAlmostEqual(float(out[1, 0]), -10.0, delta=2.0)

    def test_the_waist_is_taken_in_and_nothing_comes_from_below_the_picture(self) -> None:
        out = self.shifts(Moves(0, 0, 0, -40.0), [(172, 700), (428, 700), (300, 999)])
        self.assertAlmostEqual(float(out[0, 0]), 20.0, delta=3.0)
        self.assertAlmostEqual(float(out[1, 0]), -20.0, delta=3.0)
        up = self.shifts(Moves(30.0, 30.0, 0, 0), [(300, 999), (200, 999)])
        self.assertLess(float(np.abs(up).max()), 0.2)

    def test_without_a_waist_there_is_none(self) -> None:
        box = [(100.0, 200.0), (100.0, 900.0), (500.0, 900.0), (500.0, 200.0)]
        self.assertIsNone(figure_of(box, self.FACE, 1.0).waist)
        field = figure_field(box, self.FACE, 1.0, Moves(0, 0, 0, -40.0), Composed())
        self.assertTrue(field is None or field.most == 0)

    def test_on_portraits_shoulders_move_and_the_face_does_not(self) -> None:
        for name in ("ana", "kofi"):
            bench = work(name)
            edit = moved_by(bench, "figure", shoulder_right=15.0)
            shape = shape_of(edit)
            assert bench.analysis is not None
            mesh = bench.analysis.faces[0].points[:, :2].astype(np.float64)
            self.assertEqual(float(np.abs(shape.forth(mesh) - mesh).max()), 0.0, name)
            self.assertGreater(shape.made[0].most, 20, name)


class Gaps(unittest.TestCase):
    def test_partings_are_found_and_hairlines_are_none(self) -> None:
        """Lia and Hana have a parting; Ana's hair is combed back, the others have none that is seen."""
        for name, count in (("lia", 1), ("hana", 1), ("ana", 0), ("eli", 0), ("bela", 0)):
            bench = work(name)
            zones = FaceZones(bench.analysis, Edit(), bench.renderer.pyramid)
            self.assertEqual(len(gaps(zones, 0)), count, name)

    def test_hair_lies_over_a_parting(self) -> None:
        bench = work("hana")
        edit = perform(Edit(), FillGaps(), bench).edit
        (touch,) = edit.passes[0].touches
        x, y = np.mean(touch.path, axis=0).astype(int)
        rect = Rect(x - 4, y - 4, x + 5, y + 5)
        before, after = (
            to_lab(np.asarray(bench.renderer.plan(e).view(rect, 0), np.float32))[..., 0].mean()
            for e in (Edit(), edit)
        )
        # Hana's hair is far darker than her skin.
        self.assertLess(after, before - 20)

    def test_a_parting_is_covered_down_to_the_hairline_beside_it(self) -> None:
        """No bay of bare skin stays where it opened onto the forehead."""
        for name in ("hana", "lia"):
            bench = work(name)
            assert bench.analysis is not None
            zones = FaceZones(bench.analysis, Edit(), bench.renderer.pyramid)
            face = bench.analysis.faces[0]
            (gap,) = gaps(zones, 0)
            line, mm = np.asarray(gap.outline), face.scale.px_per_mm
            low, bottom = line.min(0), int(line[:, 1].max() + 6 * mm)
            rect = Rect(int(low[0]), int(bottom - 24 * mm), int(line[:, 0].max()), bottom)
            shape = (rect.height, rect.width)
            hair = (zones.cover("hair", face.anchor, rect, shape) > 0.5).astype(np.uint8)
            disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (int(36 * mm), int(36 * mm)))
            bay = (cv2.morphologyEx(hair, cv2.MORPH_CLOSE, disc) > 0) & (hair == 0)
            edit = perform(Edit(), FillGaps(), bench).edit
            before, after = (
                to_lab(np.asarray(bench.renderer.plan(e).view(rect, 0), np.float32))[..., 0]
                for e in (Edit(), edit)
            )
            # Between the parting's own sides, not out on the forehead.
            lowest = line[line[:, 1] > line[:, 1].max() - 10 * mm]
            aside = np.abs(np.arange(rect.x0, rect.x1) - lowest[:, 0].mean())
            bay &= aside < 5 * mm
            covered = (before - after)[bay] > 8
            self.assertGreater(float(covered.mean()), 0.5, name)

    def test_without_one_it_says_so(self) -> None:
        with self.assertRaisesRegex(Refused, "No gap or parting"):
            perform(Edit(), FillGaps(), work("ana"))

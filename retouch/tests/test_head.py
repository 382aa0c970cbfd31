"""The head turned, the gaze, the neck; what is told of all that was moved."""

from __future__ import annotations

import unittest

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.forms.form import dumps, loads
from retouch.natural.moves import everything_moved
from retouch.natural.passes import pass_readings, stopped
from retouch.picture import Pyramid, read
from retouch.shape.composed import Composed, areas, composed
from retouch.shape.gaze import gaze_field
from retouch.shape.head import _AXIS_MM, turned
from retouch.shape.measures import MEASURES
from retouch.shape.mesh import Mesh
from retouch.work.bench import Bench, bench_for
from retouch.work.operations import AddPass, AddTouch, ChangePass, NewTouch, perform

Points = NDArray[np.float64]


def face_of(name: str) -> tuple[Points, float, NDArray[np.float64]]:
    face = understand(name).analysis.faces[0]
    points = face.points.astype(np.float64)
    return points[:, :2], face.scale.px_per_mm, points[:, 2]


def work(name: str) -> Bench:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    return bench_for(Pyramid(picture), understand(name).analysis)


def with_numbers(bench: Bench, **numbers: float) -> Edit:
    added = perform(Edit(), AddPass("proportions"), bench)
    return perform(added.edit, ChangePass(added.pass_id or "", settings=numbers), bench).edit


class Turn(unittest.TestCase):
    def test_the_mesh_goes_where_a_rotation_takes_it(self) -> None:
        """SciPy's rotations about the joint of head and neck, one axis at a time."""
        points, mm, depths = face_of("dan")
        mesh = Mesh(points, mm)
        deep = depths / mm
        axis = float(deep[[lm.CORNER_R, lm.CORNER_L]].mean()) + _AXIS_MM
        sides, chin = mesh.own[[lm.SIDE_R, lm.SIDE_L]].mean(0), mesh.own[lm.CHIN]
        for turn, about, euler in (
            ((8.0, 0.0, 0.0), sides, (0, -8, 0)),
            ((0.0, 5.0, 0.0), sides, (5, 0, 0)),
            ((0.0, 0.0, 6.0), chin, (0, 0, 6)),
        ):
            own = mesh.own[: len(points)]
            solid = np.concatenate([own - about, (deep - axis)[:, None]], 1)
            # x to the person's left, y down, z away: with that, positive nods go up as here.
            there = Rotation.from_euler("xyz", [-euler[0], euler[1], euler[2]], degrees=True)
            wanted = there.apply(solid)[:, :2] + about
            made = own + turned(mesh, depths, *turn)[: len(points)]
            off = np.abs(made - wanted).max(1)
            edge = np.linalg.norm(own[:, None] - own[list(lm.OVAL)][None], axis=-1).min(1)
            self.assertLess(float(off[edge > 22].max()), 0.05, turn)
            # Depth is evened at the face's edge.
            self.assertLess(float(off[mesh.outward[: len(points)] < 1.0].max()), 3.0, turn)

    def test_hair_comes_along_and_far_away_all_stands_still(self) -> None:
        points, mm, depths = face_of("ana")
        mesh = Mesh(points, mm)
        shift = np.hypot(*turned(mesh, depths, 6.0, 0.0, 0.0).T)
        self.assertEqual(float(shift[mesh.outward > 2.05].max()), 0)
        near = (mesh.outward > 1.05) & (mesh.outward < 1.2)
        self.assertGreater(float(shift[near].mean()), 0.5)

    def test_the_edge_of_the_face_stays_as_smooth_as_it_was(self) -> None:
        """Neighbours at the edge move alike, though the mesh's depth jumps from one to the next."""
        points, mm, depths = face_of("ivo")
        mesh = Mesh(points, mm)
        own = mesh.own[: len(points)]
        away = np.linalg.norm(own[:, None] - own[None], axis=-1)
        near = (away[:, list(lm.OVAL)].min(1) < 8)[:, None] & (away > 0) & (away < 8)
        evened = turned(mesh, depths, 3.0, 0.0, 0.0)[: len(points), 0]
        solid = -np.sin(np.radians(3.0)) * depths / mm
        steepest = [
            float((np.abs(one[:, None] - one[None]) / np.maximum(away, 1e-9))[near].max())
            for one in (evened, solid)
        ]
        self.assertLess(steepest[0], 0.4 * steepest[1])

    def test_more_than_can_be_turned_is_stopped_and_told(self) -> None:
        bench = work("ana")
        little = with_numbers(bench, head_turn=2.0)
        self.assertIsNone(stopped(bench.renderer.plan(little).shape, little.passes[0]))
        most = with_numbers(bench, head_turn=8.0)
        self.assertIsNone(stopped(bench.renderer.plan(most).shape, most.passes[0]))
        much = with_numbers(bench, head_turn=8.0, head_nod=8.0, head_tilt=8.0)
        shape = bench.renderer.plan(much).shape
        self.assertIn("Stopped at", stopped(shape, much.passes[0]) or "")
        (field,) = shape.fields
        self.assertGreater(float(areas(Composed(), field).min()), 0.2 - 1e-6)

    def test_the_edit_alone_says_how_far(self) -> None:
        bench = work("dan")
        edit = with_numbers(bench, head_turn=3.0, head_tilt=-2.0)
        alone = bench_for(bench.renderer.pyramid, None)
        keys = [b.renderer.plan(loads(dumps(edit))).warp.key for b in (bench, alone)]
        self.assertEqual(keys[0], keys[1])


class Gaze(unittest.TestCase):
    def test_irises_go_as_one_and_lids_stay(self) -> None:
        for name, (side, up) in (("eli", (1.0, 0.0)), ("ana", (-1.0, 0.0)), ("dan", (0.0, -0.4))):
            with self.subTest(name):
                points, mm, _ = face_of(name)
                field = gaze_field(points, mm, side, up, Composed())
                assert field is not None
                mesh = Mesh(points, mm)
                moved = Mesh(field.forth(points), mm)
                for iris in (468, 473):
                    shift = (moved.points[iris] - points[iris]) @ mesh.axes.T / mm
                    self.assertLess(float(np.abs(shift - (side, -up)).max()), 0.15)
                lids = [*lm.EYE_R, *lm.EYE_L]
                self.assertLess(float(np.abs(moved.points[lids] - points[lids]).max()) / mm, 0.2)
                brows = [*lm.BROW_R, *lm.BROW_L]
                self.assertEqual(float(np.abs(moved.points[brows] - points[brows]).max()), 0)

    def test_none_is_no_move(self) -> None:
        points, mm, _ = face_of("eli")
        self.assertIsNone(gaze_field(points, mm, 0.0, 0.0, Composed()))

    def test_both_eyes_go_equally_far_where_one_is_stopped(self) -> None:
        bench = work("eli")
        shape = bench.renderer.plan(with_numbers(bench, gaze_side=1.5)).shape
        points, mm, _ = face_of("eli")
        went = [
            (shape.forth(points)[i] - points[i]) @ Mesh(points, mm).axes.T / mm for i in (468, 473)
        ]
        self.assertLess(float(np.abs(went[0] - went[1]).max()), 0.15)
        self.assertGreater(float(went[0][0]), 0.6)


class Neck(unittest.TestCase):
    def test_the_head_goes_up_as_a_whole(self) -> None:
        bench = work("ana")
        shape = bench.renderer.plan(with_numbers(bench, neck_length=5.0)).shape
        points, mm, _ = face_of("ana")
        shift = (shape.forth(points) - points) @ Mesh(points, mm).axes.T / mm
        self.assertLess(float(np.abs(shift[:, 1] + 5.0).max()), 0.6)
        # Sixty millimetres below the chin nothing moves.
        low = points[lm.CHIN] + 70 * mm * Mesh(points, mm).axes[1]
        self.assertLess(float(np.abs(shape.forth(low[None]) - low).max()) / mm, 0.6)


class Told(unittest.TestCase):
    def test_a_measure_stands_beside_its_usual_range(self) -> None:
        bench = work("eli")
        edit = with_numbers(bench, mouth_width=8.0)
        found = {r.title: r for r in pass_readings(bench.renderer, edit, edit.passes[0].id)}
        mouth = found["Mouth's width"]
        self.assertGreater(mouth.after - mouth.before, 5)
        self.assertEqual(mouth.limit, 60.5)
        self.assertEqual(mouth.beyond, mouth.after > 60.8)
        narrow = with_numbers(bench, nose_wings=-4.0)
        nose = {r.title: r for r in pass_readings(bench.renderer, narrow, narrow.passes[0].id)}
        self.assertTrue(nose["Nose across its wings"].least)
        # A measure that nothing changes is told, too: it stands beside its number.
        still = nose["Mouth's width"]
        self.assertAlmostEqual(still.before, still.after, delta=0.01)
        self.assertEqual((still.usual, still.of), ((43.0, 60.5), ("mouth_width",)))

    def test_people_lie_within_the_ranges_as_a_rule(self) -> None:
        """So that amber means something; the demo people are drawn, not measured."""
        inside = total = 0
        for name in ("ana", "chi", "dan", "eli", "hana", "kofi"):
            points, mm, _ = face_of(name)
            mesh = Mesh(points, mm)
            for measure in MEASURES:
                total += 1
                inside += 0.9 * measure.low <= measure.of(mesh) <= 1.1 * measure.high
        self.assertGreater(inside / total, 0.6)

    def test_everything_moved_is_listed_with_where_and_how_far(self) -> None:
        bench = work("eli")
        edit = with_numbers(bench, nose_wings=-3.0, face_chin=2.0)
        points, mm, _ = face_of("eli")
        x, y = points[lm.TOP]
        stroke = NewTouch(
            path=((x, y - 20 * mm), (x + 3 * mm, y - 20 * mm)), values={"radius_px": 40.0}
        )
        edit = perform(edit, AddTouch("nudge", stroke), bench).edit
        zones = FaceZones(bench.analysis, edit, bench.renderer.pyramid)
        numbers, by_hand = everything_moved(bench.renderer, edit, zones)
        self.assertEqual(numbers.what, ("Nose: wings -3 mm", "Face: chin length +2 mm"))
        self.assertEqual(numbers.where, "face")
        assert numbers.most_mm is not None
        assert numbers.of_head is not None
        self.assertTrue(1.2 < numbers.most_mm < 2.6, numbers.most_mm)
        self.assertTrue(0.5 < numbers.of_head < 2.5)
        self.assertEqual((by_hand.where, by_hand.what), ("hair", ("1 stroke",)))
        # Without a face it is told in pixels.
        plain = everything_moved(bench.renderer, edit, None)
        self.assertEqual([m.where for m in plain], ["face", "picture"])
        self.assertTrue(all(m.most_mm is None and m.most_px > 1 for m in plain))
        self.assertEqual(everything_moved(bench.renderer, Edit(), zones), ())
        self.assertEqual(composed([]).made, ())

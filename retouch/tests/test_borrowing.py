"""Parts borrowed from another picture: laid over, matched, joined; sources elsewhere."""

import hashlib
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
from scipy.interpolate import RBFInterpolator
from skimage.transform import SimilarityTransform

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO
from retouch.borrowing.joined import joined
from retouch.borrowing.pins import laid, similarity, taken
from retouch.cli.render import EXIT_BAD_INPUT, EXIT_OK, main
from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.edit import Edit, Elsewhere
from retouch.errors import EditError
from retouch.face import analyse
from retouch.forms.form import dumps, loads
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid, read
from retouch.work.bench import Bench, Other, Refused, bench_for
from retouch.work.borrowing import Side, propose
from retouch.work.operations import AddTouch, Borrow, NewTouch, perform

CONTENT = hashlib.sha256(b"another").hexdigest()
PAIR = ((0.0, 0.0, 0.0, 0.0), (100.0, 100.0, 100.0, 100.0))


class Laying(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(3)
        self.here = rng.uniform(0, 500, (12, 2))

    def test_a_similarity_is_the_libraries_own(self) -> None:
        """Against scikit-image's estimate of the same transform."""
        there = SimilarityTransform(scale=1.3, rotation=0.2, translation=(40, -9))(self.here)
        there = there + np.random.default_rng(1).normal(0, 2, there.shape)
        known = SimilarityTransform.from_estimate(self.here, there)
        ours = similarity(self.here, there)
        self.assertLess(float(np.abs(ours - known.params[:2]).max()), 1e-6)

    def test_the_bend_is_a_thin_plate_spline(self) -> None:
        """Against SciPy's thin-plate spline through the same pins."""
        there = self.here + np.random.default_rng(2).normal(0, 6, self.here.shape)
        pins = [(*a, *b) for a, b in zip(self.here, there, strict=True)]
        asked = np.random.default_rng(4).uniform(100, 400, (20, 2))
        known = RBFInterpolator(self.here, there, kernel="thin_plate_spline")(asked)
        self.assertLess(float(np.abs(laid(pins).there(asked) - known).max()), 1.5)

    def test_what_lies_as_it_is_is_taken_as_it_is(self) -> None:
        image = np.random.default_rng(5).integers(0, 255, (90, 120, 3), dtype=np.uint8)
        pyramid = Pyramid(Picture(image))
        rect = Rect(17, 9, 101, 77)
        known = pyramid.crop(rect, 0)
        self.assertLess(float(np.abs(taken(pyramid, laid(PAIR), rect) - known).max()), 1e-4)

    def test_a_larger_picture_is_made_smaller_without_aliasing(self) -> None:
        fine = np.zeros((400, 400, 3), np.uint8)
        fine[::2] = 255
        pins = ((0.0, 0.0, 0.0, 0.0), (100.0, 100.0, 400.0, 400.0))
        out = taken(Pyramid(Picture(fine)), laid(pins), Rect(10, 10, 80, 80))
        self.assertLess(float(out.std()), 0.02)


class Joining(unittest.TestCase):
    def test_other_light_is_matched(self) -> None:
        y, x = np.mgrid[:120, :160].astype(np.float32)
        area = np.stack([0.4 + x / 500, 0.35 + y / 600, 0.3 + 0 * x], -1).astype(np.float32)
        there = area * np.array([0.7, 0.8, 0.9], np.float32)
        inside = (x - 80) ** 2 + (y - 60) ** 2 < 40**2
        out = joined(area, there, inside)
        self.assertLess(float(np.abs(out - area)[inside].max()), 0.03)

    def test_light_of_quite_another_colour_is_matched_too(self) -> None:
        area = np.full((120, 160, 3), (0.7, 0.65, 0.6), np.float32)
        there = np.full((120, 160, 3), (0.75, 0.4, 0.15), np.float32)
        inside = np.zeros((120, 160), np.bool_)
        inside[30:90, 40:120] = True
        self.assertLess(float(np.abs(joined(area, there, inside) - area)[inside].max()), 0.02)

    def test_detail_of_the_other_stays(self) -> None:
        rng = np.random.default_rng(6)
        area = np.full((120, 160, 3), 0.5, np.float32)
        there = 0.6 + rng.normal(0, 0.03, area.shape).astype(np.float32)
        inside = np.zeros((120, 160), np.bool_)
        inside[30:90, 40:120] = True
        out = joined(area, there, inside)
        self.assertAlmostEqual(float(out[inside].mean()), 0.5, delta=0.01)
        ratio = float(out[inside].std() / (there[inside].std() * 0.5 / 0.6))
        self.assertAlmostEqual(ratio, 1, delta=0.1)


def soft_difference(a: np.ndarray, b: np.ndarray, where: np.ndarray) -> float:
    soft = [to_lab(cv2.GaussianBlur(i, (0, 0), 3)) for i in (a, b)]
    return float(ciede2000(*soft)[where].mean())


class OpenedEyes(unittest.TestCase):
    """Dan with closed eyes, and another frame of him with open ones: invented, the truth is known."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.closed, cls.open = (read(DEMO / "portraits" / f"{n}.jpg") for n in ("dan-blink", "dan"))
        cls.analysis, cls.theirs = (understand(n).analysis for n in ("dan-blink", "dan"))
        cls.other = Pyramid(cls.open)

    def bench(self, other: Pyramid, analysis: object) -> Bench:
        """A bench of Dan with closed eyes, beside another picture."""
        bench = bench_for(Pyramid(self.closed), self.analysis, others=lambda content: other)
        there = Other(Edit(), analysis, "Dan", CONTENT, lambda: other)  # type: ignore[arg-type]
        return replace(bench, elsewhere=lambda name: there)

    def borrowed(
        self, other: Pyramid, analysis: object, part: str = "eyes"
    ) -> tuple[Edit, np.ndarray]:
        bench = self.bench(other, analysis)
        edit = perform(Edit(), Borrow("dan", part), bench).edit  # type: ignore[arg-type]
        return edit, np.asarray(bench.renderer.plan(edit).view(bench.renderer.bounds, 0))

    def places(self, edit: Edit) -> np.ndarray:
        canvas = np.zeros((self.closed.height, self.closed.width), np.uint8)
        for touch in edit.passes[0].touches:
            cv2.fillPoly(canvas, [np.round(np.array(touch.path)).astype(np.int32)], 1)
        return canvas

    def test_eyes_are_opened_without_a_seam(self) -> None:
        edit, after = self.borrowed(self.other, self.theirs)
        self.assertEqual(len(edit.passes[0].touches), 2)
        truth = self.open.pixels.astype(np.float32) / 255
        before = self.closed.pixels.astype(np.float32) / 255
        place = self.places(edit)
        eyes = np.isin(labels("dan"), (4, 5, 9))
        self.assertGreater(soft_difference(before, truth, eyes), 10)
        self.assertLess(soft_difference(after, truth, eyes), 2.0)
        self.assertLess(soft_difference(after, truth, place > 0), 1.2)
        seam = cv2.dilate(place, np.ones((21, 21))) - cv2.erode(place, np.ones((21, 21))) > 0
        self.assertLess(soft_difference(after, truth, seam), 1.0)
        energies = []
        for low, high in ((0, 1), (1, 2), (2, 4)):
            each = []
            for image in (after, truth):
                grey = image.mean(-1)
                soft = [cv2.GaussianBlur(grey, (0, 0), s) if s else grey for s in (low, high)]
                each.append(float(np.sqrt(((soft[0] - soft[1])[place > 0] ** 2).mean())))
            energies.append(abs(np.log(each[0] / each[1])))
        self.assertLess(float(np.mean(energies)), 0.25)
        away = cv2.dilate(place, np.ones((5, 5))) == 0
        self.assertEqual(int((np.round(after * 255) != self.closed.pixels)[away].sum()), 0)

    def test_another_frame_nearer_turned_and_darker(self) -> None:
        h, w = self.open.height, self.open.width
        turn = cv2.getRotationMatrix2D((w / 2, h / 2), 6, 1.12)
        pixels = cv2.warpAffine(
            self.open.pixels, turn, (w, h), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
        )
        pixels = (255 * (pixels / 255.0) ** 1.25 * (0.98, 0.95, 0.9)).astype(np.uint8)
        picture = Picture(pixels)
        edit, after = self.borrowed(Pyramid(picture), analyse(picture))
        truth = self.open.pixels.astype(np.float32) / 255
        self.assertLess(soft_difference(after, truth, self.places(edit) > 0), 2.5)

    def test_heads_turned_apart_are_refused_with_the_number(self) -> None:
        here = Side(self.analysis.faces[0], Pyramid(self.closed))
        face = self.theirs.faces[0]
        turned = replace(face, pose=replace(face.pose, yaw=face.pose.yaw + 25))
        with self.assertRaisesRegex(EditError, r"turned 2\d° apart sideways; up to 12°"):
            propose(here, Side(turned, self.other), "mouth")

    def test_a_whole_face_comes_from_the_same_person(self) -> None:
        edit, _ = self.borrowed(self.other, self.theirs, "face")
        self.assertEqual(len(edit.passes[0].touches), 1)
        another = Pyramid(read(DEMO / "portraits" / "ivo.jpg"))
        known = understand("ivo").analysis
        with self.assertRaisesRegex(Refused, r"two people: .* differs by \d\.\d mm"):
            self.borrowed(another, known, "face")
        # A mouth may be anybody's.
        edit, _ = self.borrowed(another, known, "mouth")
        self.assertEqual(len(edit.passes[0].touches), 1)

    def test_no_face_there(self) -> None:
        none = analyse(Picture(np.full((300, 300, 3), 120, np.uint8)))
        with self.assertRaisesRegex(Refused, "No face is known in Dan"):
            perform(Edit(), Borrow("dan", "mouth"), self.bench(self.other, none))

    def test_an_outline_needs_to_be_drawn(self) -> None:
        with self.assertRaisesRegex(Refused, "Draw an outline"):
            perform(Edit(), Borrow("dan", "outline"), self.bench(self.other, self.theirs))

    def test_it_can_be_dimmed_moved_and_left_unmatched(self) -> None:
        bench = self.bench(self.other, self.theirs)
        edit = perform(Edit(), Borrow("dan", "right_eye"), bench).edit
        one = edit.passes[0]

        def with_values(**values: object) -> np.ndarray:
            touch = replace(one.touches[0], values={**one.touches[0].values, **values})
            changed = Edit((replace(one, touches=(touch,)),))
            return np.asarray(bench.renderer.plan(changed).view(bench.renderer.bounds, 0))

        plain = with_values()
        before = self.closed.pixels.astype(np.float32) / 255
        half = with_values(opacity=50.0)
        self.assertLess(float(np.abs(half - (plain + before) / 2).max()), 0.01)
        place = self.places(edit) > 0
        moved = with_values(across_px=8.0)
        shifted = np.roll(plain, 8, axis=1)
        inner = cv2.erode(place.astype(np.uint8), np.ones((41, 41))) > 0
        self.assertLess(
            float(np.abs(moved - shifted)[inner].mean()),
            0.3 * float(np.abs(moved - plain)[inner].mean()),
        )


class Elsewheres(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(8)
        self.own = rng.integers(90, 110, (200, 240, 3), dtype=np.uint8)
        self.there = rng.integers(140, 160, (200, 240, 3), dtype=np.uint8)
        self.bench = bench_for(Pyramid(Picture(self.own)), None, others=self.other)

    def other(self, content: str) -> Pyramid:
        if content != CONTENT:
            raise EditError("It was deleted.")
        return Pyramid(Picture(self.there))

    def edit(self, content: str = CONTENT, kind: str = "clone") -> Edit:
        touch = NewTouch(
            ((100.0, 100.0),), "t", {"radius_px": 20.0, "softness": 0.0}, (30, 0),
            elsewhere=Elsewhere(content, PAIR),
        )  # fmt: skip
        return perform(Edit(), AddTouch(kind, touch), self.bench).edit

    def test_a_clone_takes_from_the_other_picture(self) -> None:
        out = np.asarray(self.bench.renderer.plan(self.edit()).view(self.bench.renderer.bounds, 0))
        taken_from = self.there[95:105, 125:135].astype(np.float32) / 255
        self.assertLess(float(np.abs(out[95:105, 95:105] - taken_from).max()), 1e-3)

    def test_a_heal_takes_its_texture_and_keeps_its_tone(self) -> None:
        edit = self.edit(kind="heal")
        out = np.asarray(self.bench.renderer.plan(edit).view(self.bench.renderer.bounds, 0))
        healed = out[92:108, 92:108]
        self.assertAlmostEqual(float(healed.mean()) * 255, 100, delta=3)
        like = np.corrcoef(healed.ravel(), self.there[92:108, 122:138].ravel())[0, 1]
        self.assertGreater(like, 0.9)

    def test_one_that_is_gone_is_told(self) -> None:
        edit = self.edit(hashlib.sha256(b"gone").hexdigest())
        with self.assertRaisesRegex(EditError, "deleted"):
            self.bench.renderer.plan(edit).view(self.bench.renderer.bounds, 0)

    def test_it_is_kept_in_the_file(self) -> None:
        edit = self.edit()
        self.assertEqual(loads(dumps(edit)), edit)
        data = json.loads(dumps(edit))
        data["passes"][0]["touches"][0]["elsewhere"]["picture"] = "Dan"
        with self.assertRaises(EditError):
            loads(json.dumps(data))

    def test_the_command_takes_the_other_picture(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            base = Path(folder)
            for name, image in (("own", self.own), ("there", self.there)):
                cv2.imwrite(str(base / f"{name}.png"), image[..., ::-1])
            content = hashlib.sha256((base / "there.png").read_bytes()).hexdigest()
            one = self.edit()
            touch = replace(one.passes[0].touches[0], elsewhere=Elsewhere(content, PAIR))
            edit = Edit((replace(one.passes[0], touches=(touch,)),))
            (base / "edit.json").write_text(dumps(edit))
            call = [
                str(base / "own.png"),
                "--edit",
                str(base / "edit.json"),
                "--out",
                str(base / "o.png"),
            ]
            self.assertEqual(main(call), EXIT_BAD_INPUT)
            self.assertEqual(main([*call, "--with", str(base / "there.png")]), EXIT_OK)
            out = cv2.imread(str(base / "o.png"))[..., ::-1]
            away = np.abs(out[95:105, 95:105].astype(int) - self.there[95:105, 125:135])
            self.assertLessEqual(int(away.max()), 1)

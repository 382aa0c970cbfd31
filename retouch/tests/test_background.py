"""What lies behind the person: the matte against known alpha, the lens's disc, replaced and recoloured."""

import unittest
from dataclasses import replace

import cv2
import numpy as np
import pymatting
import scipy
from scipy.ndimage import convolve

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.colour.lab import to_lab
from retouch.colour.linear import decoded, encoded
from retouch.edit import Edit, Fit, Pass
from retouch.edit.mask import Mask, MaskStroke, OutlineArea
from retouch.errors import EditError
from retouch.finish import behind, closed_form, matte
from retouch.forms.form import completed
from retouch.geometry import Rect
from retouch.passes.elsewhere import pictures_of
from retouch.picture import Output, Picture, Pyramid, read
from retouch.picture.write import encode
from retouch.render import Renderer, render_view, render_whole
from retouch.render.changes import changed_region
from retouch.work import Bench
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, perform

RNG = np.random.default_rng(3)
SIZE = 240


def head() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A dark head with fine hairs before a light wall: the picture, its true alpha, its own colour."""
    fine = 4
    big = np.zeros((SIZE * fine, SIZE * fine), np.uint8)
    cv2.circle(big, (SIZE * 2, SIZE * 2), 60 * fine, 255, -1, cv2.LINE_AA)
    for turn in RNG.uniform(0, 2 * np.pi, 160):
        far = RNG.uniform(62, 76) * fine
        bend = turn + RNG.uniform(-0.12, 0.12)
        start = (int(SIZE * 2 + 55 * fine * np.cos(turn)), int(SIZE * 2 + 55 * fine * np.sin(turn)))
        end = (int(SIZE * 2 + far * np.cos(bend)), int(SIZE * 2 + far * np.sin(bend)))
        cv2.line(big, start, end, 255, 4, cv2.LINE_AA)
    alpha = cv2.resize(big, (SIZE, SIZE), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    own = np.float32([0.2, 0.14, 0.1]) + RNG.normal(0, 0.008, (SIZE, SIZE, 3)).astype(np.float32)
    wall = np.float32([0.66, 0.7, 0.74]) + RNG.normal(0, 0.008, (SIZE, SIZE, 3)).astype(np.float32)
    image = alpha[..., None] * own + (1 - alpha[..., None]) * wall
    return np.clip(image, 0, 1).astype(np.float32), alpha, own


def matted(
    image: np.ndarray, person: np.ndarray, band: float, hairy: np.ndarray | None = None
) -> tuple[np.ndarray, np.ndarray]:
    """Alpha and the person's own colours, worked out on the level that is meant for the band."""
    h, w = person.shape
    level = matte.level_of(band, (w, h))
    small = (-(-w // (1 << level)), -(-h // (1 << level)))

    def less(a: np.ndarray) -> np.ndarray:
        return cv2.resize(a.astype(np.float32), small, interpolation=cv2.INTER_AREA)

    found = matte.matte(
        less(image),
        less(person),
        band / (1 << level),
        level,
        None if hairy is None else less(hairy),
    )
    whole = Rect(0, 0, w, h)
    alpha = found.alpha(image, whole, 0)
    return alpha, found.own(image, alpha, whole, 0)


class Mattes(unittest.TestCase):
    def test_hairs_are_told_far_better_than_by_the_rough_outline(self) -> None:
        image, alpha, own = head()
        y, x = np.mgrid[:SIZE, :SIZE]
        rough = np.clip((66 - np.hypot(x - 120, y - 120)) / 4 + 0.5, 0, 1).astype(np.float32)
        told, colours = matted(image, rough, 18.0)
        mse = [float(np.mean((a - alpha) ** 2)) for a in (rough, told)]
        self.assertLess(mse[1], 0.12 * mse[0])
        sad = float(np.abs(told - alpha).sum()) / float(((alpha > 0) & (alpha < 1)).sum())
        self.assertLess(sad, 0.16)
        # On another wall nothing of the old one shines through.
        goal = np.float32([0.1, 0.35, 0.15])
        laid = told[..., None] * colours + (1 - told[..., None]) * goal
        wanted = alpha[..., None] * own + (1 - alpha[..., None]) * goal
        self.assertLess(float(np.abs(laid - wanted).mean()), 0.012)

    def test_what_is_sure_stays_and_alike_colours_leave_it_as_it_was(self) -> None:
        image = np.full((80, 80, 3), 0.5, np.float32)
        person = np.zeros((80, 80), np.float32)
        person[:, 40:] = 1
        told, _ = matted(image, person, 8.0)
        self.assertEqual(float(told[:, 60:].min()), 1.0)
        self.assertEqual(float(told[:, :20].max()), 0.0)
        self.assertLess(float(np.abs(told - person).mean()), 0.03)

    def test_hair_is_looked_for_only_where_it_is_and_islands_are_none_of_the_person(self) -> None:
        # A grey shoulder, shaded towards its edge, before a wall as dark as the shade.
        image = np.full((160, 200, 3), 0.25, np.float32)
        image[60:, :] = np.linspace(0.27, 0.9, 100, dtype=np.float32)[:, None, None]
        person = np.zeros((160, 200), np.float32)
        person[60:] = 1
        person[20:26, 30:40] = 0.9
        hairy = np.zeros((160, 200), np.float32)
        by_hair, told = (matted(image, person, 24.0, h)[0] for h in (hairy + 1, hairy))
        cloth = np.s_[66:90, 40:160]
        self.assertLess(float(by_hair[cloth].min()), 0.95)
        self.assertEqual(float(told[cloth].min()), 1.0)
        self.assertEqual(float(told[:50].max()), 0.0)

    def test_the_system_is_that_of_a_library(self) -> None:
        # PyMatting builds the same Laplacian (Levin et al. 2008, equation 12) for all pixels, and SciPy solves it.
        image, _, _ = head()
        image = image[40:120, 60:150]
        y, x = np.mgrid[:80, :90]
        rough = np.clip(0.5 + (np.hypot(x - 60, y - 80) - 62) / -6, 0, 1).astype(np.float32)
        kinds = np.where(rough <= 0, 0, np.where(rough >= 1, 2, 1)).astype(np.uint8)
        trust = np.full(rough.shape, 0.01, np.float32)
        ours = closed_form.solved(image, kinds, rough, trust)
        laplacian = pymatting.cf_laplacian(image.astype(np.float64), epsilon=1e-6, radius=1)
        free = kinds.ravel() == 1
        known = (kinds.ravel() == 2).astype(np.float64)
        left = laplacian.tocsr()[free][:, free] + scipy.sparse.diags(trust.ravel()[free])
        right = 0.01 * rough.ravel()[free] - laplacian.tocsr()[free][:, ~free] @ known[~free]
        theirs = np.clip(scipy.sparse.linalg.spsolve(left.tocsc(), right), 0, 1)
        self.assertLess(float(np.abs(ours.ravel()[free] - theirs).max()), 2e-3)
        self.assertGreater(float(np.abs(theirs - rough.ravel()[free]).mean()), 0.05)


class Lens(unittest.TestCase):
    def test_a_small_disc_is_a_direct_convolution(self) -> None:
        image = RNG.uniform(0.05, 0.5, (60, 70, 3)).astype(np.float32)
        whole = Rect(0, 0, 70, 60)
        got = behind.blurred(image, np.ones((60, 70), np.float32), whole, 5.0).over(image, whole)
        light, kernel = decoded(image), behind.disc(5.0)
        direct = np.stack([convolve(light[..., k], kernel, mode="nearest") for k in range(3)], -1)
        inner = np.s_[10:-10, 10:-10]
        self.assertLess(float(np.abs(got - encoded(direct.astype(np.float32)))[inner].max()), 0.004)

    def test_a_light_becomes_a_disc_of_the_radius(self) -> None:
        for radius in (8.0, 30.0):
            image = np.full((200, 200, 3), 0.02, np.float32)
            image[99:102, 99:102] = 1
            whole = Rect(0, 0, 200, 200)
            lens = behind.blurred(image, np.ones((200, 200), np.float32), whole, radius)
            out = lens.over(image, whole)
            lit = out[..., 0] > 0.5 * (out[100, 100, 0] + 0.02)
            self.assertAlmostEqual(
                float(np.sqrt(lit.sum() / np.pi)), radius, delta=0.12 * radius + 1
            )

    def test_nothing_of_the_person_runs_into_it(self) -> None:
        image = np.full((120, 120, 3), 0.5, np.float32)
        image[:, 60:] = (0.9, 0.1, 0.1)
        weight = np.ones((120, 120), np.float32)
        weight[:, 60:] = 0
        whole = Rect(0, 0, 120, 120)
        out = behind.blurred(image, weight, whole, 14.0).over(image, whole)
        self.assertLess(float(np.abs(out[:, :60] - 0.5).max()), 0.003)


class InPictures(unittest.TestCase):
    OUTLINE = OutlineArea(
        ((50.0, 40.0), (160.0, 40.0), (160.0, 170.0), (50.0, 170.0)), 4.0, invert=True
    )

    def photograph(self) -> Picture:
        y, x = np.mgrid[:200, :220]
        waves = 0.5 + 0.3 * np.sin(x / 7) * np.cos(y / 9)
        pixels = np.stack([waves, 0.8 * waves, 0.7 * waves], -1)
        pixels[40:170, 50:160] = (0.8, 0.55, 0.45)
        return Picture(np.round(255 * pixels).astype(np.uint8))

    def edit(self, *strokes: MaskStroke, **values: object) -> Edit:
        own = {"hair_mm": 1.0, **values}
        mask = Mask((self.OUTLINE,), strokes=strokes)
        fit = Fit(values={"tall_px": 200.0, "long_px": 220.0})
        one = Pass("b", "background", settings=own, mask=mask, fit=fit)  # type: ignore[arg-type]
        return Edit((completed(one),))

    def test_every_way_leaves_the_person_bit_for_bit(self) -> None:
        picture = self.photograph()
        renderer = Renderer(Pyramid(picture))
        for way in ("blur", "darken", "recolour", "colour", "gradient", "transparent"):
            made = render_whole(renderer, self.edit(way=way)).pixels
            inner = np.s_[70:140, 80:130]
            np.testing.assert_array_equal(made[inner], picture.pixels[inner], way)
            outer = np.abs(made[:20].astype(int) - picture.pixels[:20])
            self.assertGreater(float(outer.mean()), 0.3 if way == "blur" else 4, way)

    def test_views_are_as_the_file_and_a_gradient_runs_down(self) -> None:
        renderer = Renderer(Pyramid(self.photograph()))
        for values in ({"way": "blur", "radius": 2.0}, {"way": "gradient"}):
            edit = self.edit(**values)
            made = render_whole(renderer, edit).pixels
            view = render_view(renderer.plan(edit), 0, 0, 1, 220, 200)
            self.assertLessEqual(int(np.abs(view.astype(int) - made).max()), 1)
            part = render_view(renderer.plan(edit), 100, 90, 1, 100, 80)
            self.assertLessEqual(int(np.abs(part.astype(int) - made[90:170, 100:200]).max()), 1)
        self.assertGreater(float(made[2, :20].mean()), float(made[-3, :20].mean()) + 20)

    def test_transparent_is_opacity_in_files_that_hold_it(self) -> None:
        picture = self.photograph()
        renderer = Renderer(Pyramid(picture))
        edit = self.edit(way="transparent")
        made = render_whole(renderer, edit)
        assert made.alpha is not None
        self.assertEqual((int(made.alpha[100, 100]), int(made.alpha[5, 5])), (255, 0))
        png = cv2.imdecode(
            np.frombuffer(encode(made, Output("png")), np.uint8), cv2.IMREAD_UNCHANGED
        )
        np.testing.assert_array_equal(png[..., 3], made.alpha)
        # A file without opacity has it on white, as views do.
        jpeg = cv2.imdecode(np.frombuffer(encode(made, Output("jpeg")), np.uint8), cv2.IMREAD_COLOR)
        view = render_view(renderer.plan(edit), 0, 0, 1, 220, 200)
        self.assertLess(float(np.abs(jpeg[..., ::-1].astype(int) - view).mean()), 1.0)
        self.assertGreater(int(jpeg[5, 5].min()), 250)
        half = Edit((replace(edit.passes[0], strength=50.0),))
        seen = render_whole(renderer, half).alpha
        assert seen is not None
        self.assertAlmostEqual(int(seen[5, 5]), 128, delta=1)

    def test_another_picture_lies_behind_and_covers_all(self) -> None:
        # Columns of one colour each, as wide again as the picture: its middle part is seen.
        stripes = (
            np.repeat(np.arange(0, 240, 6, dtype=np.uint8), 20)[None, :, None]
            .repeat(200, 0)
            .repeat(3, -1)
        )
        other = Pyramid(Picture(stripes))
        renderer = Renderer(Pyramid(self.photograph()), others={"ab" * 32: other}.__getitem__)
        edit = self.edit(way="picture", picture="ab" * 32)
        edit = Edit(
            (
                replace(
                    edit.passes[0],
                    fit=Fit(values={"tall_px": 200.0, "wide_px": 220.0, "long_px": 220.0}),
                ),
            )
        )
        self.assertEqual(pictures_of(edit), {"ab" * 32})
        made = render_whole(renderer, edit).pixels
        np.testing.assert_array_equal(made[100, 100], self.photograph().pixels[100, 100])
        top = made[5, ::4, 0].astype(int)
        want = stripes[0, 290:510:4, 0].astype(int)
        self.assertLessEqual(int(np.abs(top - want).max()), 2)
        view = render_view(renderer.plan(edit), 0, 0, 0.5, 110, 100)
        self.assertLess(float(np.abs(view[2, :, 0].astype(int) - made[4, ::2, 0]).mean()), 3)
        none = self.edit(way="picture")
        np.testing.assert_array_equal(render_whole(renderer, none).pixels, self.photograph().pixels)
        with self.assertRaises(EditError):
            render_whole(Renderer(Pyramid(self.photograph())), edit)
        # What isn't asked for isn't needed.
        self.assertEqual(pictures_of(self.edit(way="blur", picture="ab" * 32)), frozenset())

    def test_another_picture_lies_over_pixel_on_pixel(self) -> None:
        for depth in (np.uint8, np.uint16):
            own, other = (
                Picture(
                    np.random.default_rng(n)
                    .integers(0, np.iinfo(depth).max, (200, 220, 3))
                    .astype(depth)
                )
                for n in (6, 7)
            )
            renderer = Renderer(Pyramid(own), others={"cd" * 32: Pyramid(other)}.__getitem__)
            added = perform(
                Edit(),
                AddPass("other_picture", settings={"picture": "cd" * 32}),
                Bench(renderer, None),
            ).edit
            self.assertEqual(pictures_of(added), {"cd" * 32})
            np.testing.assert_array_equal(render_whole(renderer, added).pixels, other.pixels)
            half = Edit((replace(added.passes[0], strength=50.0),))
            mixed = render_whole(renderer, half).pixels.astype(float)
            mean = (own.pixels.astype(float) + other.pixels) / 2
            self.assertLessEqual(float(np.abs(mixed - mean).max()), 1.0)
            none = perform(Edit(), AddPass("other_picture"), Bench(renderer, None)).edit
            np.testing.assert_array_equal(render_whole(renderer, none).pixels, own.pixels)
            with self.assertRaises(EditError):
                render_whole(Renderer(Pyramid(own)), added)

    def test_nearer_below_is_blurred_less_there(self) -> None:
        noise = np.random.default_rng(5).integers(60, 190, (200, 220, 3), dtype=np.uint8)
        renderer = Renderer(Pyramid(Picture(noise)))
        alike, nearer = (render_whole(renderer, self.edit(way="blur", radius=1.5, nearer=v)).pixels for v in (0.0, 100.0))  # fmt: skip
        np.testing.assert_array_equal(alike[:50], nearer[:50])
        rough = [float(p[180:].std()) for p in (alike, nearer, noise)]
        self.assertGreater(rough[1], 1.5 * rough[0])
        self.assertLess(rough[1], rough[2])

    def test_a_stroke_gives_a_place_to_the_person(self) -> None:
        picture = self.photograph()
        renderer = Renderer(Pyramid(picture))
        stroke = MaskStroke(((190.0, 20.0), (210.0, 20.0)), 14.0, 0.0)
        before, after = self.edit(way="colour"), self.edit(stroke, way="colour")
        kept = render_whole(renderer, after).pixels
        np.testing.assert_array_equal(kept[18:22, 195:205], picture.pixels[18:22, 195:205])
        changed = changed_region(before, after, Rect(0, 0, 220, 200))
        other = render_whole(renderer, before).pixels
        rows, columns = np.nonzero((kept != other).any(-1))
        self.assertTrue(
            changed.x0 <= columns.min() and columns.max() < changed.x1
            and changed.y0 <= rows.min() and rows.max() < changed.y1
        )  # fmt: skip

    def test_what_is_painted_holds_whatever_the_colours_tell(self) -> None:
        # A hole well within the hair's band, in colours of the person; and a place behind, given to the person.
        picture = self.photograph()
        renderer = Renderer(Pyramid(picture))
        hole = MaskStroke(((62.0, 100.0), (62.0, 112.0)), 5.0, 0.0, reveal=True)
        kept = MaskStroke(((40.0, 100.0), (40.0, 112.0)), 5.0, 0.0)
        bare, painted = (
            render_whole(renderer, self.edit(*s, way="colour", hair_mm=4.0, light=5.0)).pixels
            for s in ((), (hole, kept))
        )
        inner, outer = np.s_[102:110, 60:64], np.s_[102:110, 38:42]
        np.testing.assert_array_equal(bare[inner], picture.pixels[inner])
        self.assertLess(int(painted[inner].max()), 60)
        np.testing.assert_array_equal(painted[outer], picture.pixels[outer])

    def test_a_wall_takes_the_colour_asked_for(self) -> None:
        bench = bench_for(Pyramid(read(DEMO / "portraits" / "ana.jpg")), understand("ana").analysis)
        wish = {"way": "recolour", "light": 40.0, "hue": 150.0, "chroma": 20.0}
        edit = perform(Edit(), AddPass("background", settings=wish), bench).edit
        rect = Rect(40, 40, 400, 600)
        lab = to_lab(np.asarray(bench.renderer.plan(edit).view(rect, 0), np.float32))
        hue = np.degrees(np.arctan2(lab[..., 2].mean(), lab[..., 1].mean())) % 360
        self.assertAlmostEqual(float(hue), 150, delta=12)
        assert bench.analysis is not None
        x, y = bench.analysis.faces[0].anchor
        place = Rect(int(x) - 40, int(y) - 40, int(x) + 40, int(y) + 40)
        both = [np.asarray(bench.renderer.plan(e).view(place, 0)) for e in (Edit(), edit)]
        np.testing.assert_array_equal(both[0], both[1])

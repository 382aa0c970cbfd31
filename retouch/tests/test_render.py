"""The renderer: exactness, levels, order, dependence, cache."""

from __future__ import annotations

import sys
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial

import cv2
import numpy as np

from benchmarks import scoring
from retouch.colour import lab
from retouch.colour.depth import to_float, to_integers
from retouch.colour.difference import ciede2000
from retouch.colour.transfer import to_encoded, to_linear
from retouch.edit import Edit, Pass, Touch
from retouch.errors import Cancelled
from retouch.forms.form import from_data, to_data
from retouch.geometry import Rect
from retouch.picture import Picture, Pyramid
from retouch.render import Renderer, changed_region, propose_source, render_view
from retouch.render.export import in_srgb, render_whole, resized
from retouch.tests.scenes import skin, spot
from retouch.tests.test_pictures import wide_profile

SPOTS = [(60.0, 60.0), (150.0, 90.0), (250.0, 180.0)]


def portrait(bits: int = 8) -> Picture:
    image = skin(240, 320, slope=0.2)
    for x, y in SPOTS:
        spot(image, x, y, 9)
    return Picture(to_integers(image, bits))


def heal_pass(ident: str, places, radius: float = 15, source=(40, 25), **more) -> Pass:
    touches = [
        {"id": f"{ident}{n}", "path": [list(p)], "values": {"radius_px": radius},
         "source": list(source)}
        for n, p in enumerate(places)
    ]  # fmt: skip
    data = {"id": ident, "kind": "heal", "touches": touches, **more}
    return from_data({"version": 1, "passes": [data]}).passes[0]


def light_pass(ident: str, ev: float, **more) -> Pass:
    data = {"id": ident, "kind": "light", "settings": {"exposure_ev": ev}, **more}
    return from_data({"version": 1, "passes": [data]}).passes[0]


class Untouched(unittest.TestCase):
    def test_pixels_that_nothing_touches_are_identical(self) -> None:
        for bits in (8, 16):
            picture = portrait(bits)
            out = render_whole(Renderer(Pyramid(picture)), Edit((heal_pass("a", SPOTS),)))
            far = np.ones((240, 320), bool)
            for x, y in SPOTS:
                cv2.circle(mask := np.ones((240, 320), np.uint8), (int(x), int(y)), 18, 0, -1)
                far &= mask > 0
            np.testing.assert_array_equal(out.pixels[far], picture.pixels[far])
            self.assertTrue((out.pixels[~far] != picture.pixels[~far]).any())
            self.assertEqual(out.bits, bits)

    def test_everything_off_is_the_original(self) -> None:
        picture = portrait(16)
        renderer = Renderer(Pyramid(picture))
        for change in ({"enabled": False}, {"strength": 0}):
            edit = Edit((heal_pass("a", SPOTS, **change), light_pass("b", 1, **change)))
            out = render_whole(renderer, edit)
            np.testing.assert_array_equal(out.pixels, picture.pixels)

    def test_every_value_survives_the_way_through_floats(self) -> None:
        for bits, top in ((8, 256), (16, 65536)):
            ramp = np.arange(top).astype(np.uint8 if bits == 8 else np.uint16)
            np.testing.assert_array_equal(to_integers(to_float(ramp), bits), ramp)


class Levels(unittest.TestCase):
    def test_reduced_views_agree_with_the_full_size_scaled_down(self) -> None:
        # Mean CIEDE2000 below 0.5 in the touched area, for passes above and below each other.
        person = scoring.load("dan")
        renderer = Renderer(Pyramid(Picture(to_integers(person.raw, 8))))
        edit = Edit((light_pass("l", 0.4), heal_pass("a", []), light_pass("m", -0.3)))
        for n, s in enumerate(person.spots[:12]):
            touch = Touch(f"t{n}", ((s.x, s.y),), {"radius_px": 1.3 * s.r, "softness": 20.0,
                                                   "opacity": 100.0})  # fmt: skip
            found = propose_source(renderer, edit, "a", touch, 1)[0]
            healed = replace(edit.passes[1], touches=(*edit.passes[1].touches,
                                                      replace(touch, source=found)))  # fmt: skip
            edit = Edit((edit.passes[0], healed, edit.passes[2]))
        full = renderer.render(edit, renderer.bounds, 0)
        for level in (1, 2, 3):
            view = renderer.render(edit, renderer.bounds, level)
            want = full
            for _ in range(level):
                h, w = want.shape[:2]
                want = cv2.copyMakeBorder(want, 0, h % 2, 0, w % 2, cv2.BORDER_REPLICATE)
                want = cv2.resize(want, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
            error = ciede2000(lab.from_srgb(view), lab.from_srgb(want))
            size = 1 << level
            touched = np.zeros(error.shape, np.uint8)
            for s in person.spots[:12]:
                centre = (int(s.x / size), int(s.y / size))
                cv2.circle(touched, centre, int(1.3 * s.r / size) + 1, 1, -1)
            self.assertLess(float(error[touched > 0].mean()), 0.5)
            self.assertLess(float(error.mean()), 0.5)

    def test_a_part_is_the_same_as_the_whole(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        edit = Edit((heal_pass("a", SPOTS), light_pass("b", 0.5, strength=60)))
        whole = renderer.render(edit, renderer.bounds, 0)
        for rect in (Rect(30, 30, 90, 100), Rect(0, 0, 17, 13), Rect(140, 80, 320, 240)):
            part = Renderer(Pyramid(portrait())).render(edit, rect, 0)
            np.testing.assert_array_equal(part, whole[rect.y0 : rect.y1, rect.x0 : rect.x1])


class Order(unittest.TestCase):
    def test_touches_read_what_lies_below_them(self) -> None:
        # The second touch takes from where the first one healed: from the healed skin.
        picture = portrait()
        x, y = SPOTS[0]
        first = heal_pass("a", [SPOTS[0]])
        second = heal_pass("b", [(x + 60, y)], source=(-60, 0))
        renderer = Renderer(Pyramid(picture))
        both = renderer.render(Edit((first, second)), renderer.bounds)
        alone = renderer.render(Edit((second,)), renderer.bounds)
        place = np.s_[int(y) - 4 : int(y) + 4, int(x) + 56 : int(x) + 64]
        self.assertGreater(float(np.abs(both[place] - alone[place]).max()), 0.05)

    def test_order_of_passes_counts(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        a = light_pass("a", 1.5, blend="multiply")
        b = light_pass("b", -1.0, blend="screen")
        one = renderer.render(Edit((a, b)), Rect(0, 0, 50, 50))
        other = renderer.render(Edit((b, a)), Rect(0, 0, 50, 50))
        self.assertGreater(float(np.abs(one - other).max()), 0.05)

    def test_strength_mixes_in_proportion(self) -> None:
        renderer = Renderer(Pyramid(portrait(16)))
        full = renderer.render(Edit((heal_pass("a", SPOTS),)), renderer.bounds)
        half = renderer.render(Edit((heal_pass("a", SPOTS, strength=50),)), renderer.bounds)
        raw = to_float(renderer.pyramid.picture.pixels)
        np.testing.assert_allclose(half, (full + raw) / 2, atol=1e-5)

    def test_exposure_is_a_factor_in_linear_light(self) -> None:
        renderer = Renderer(Pyramid(portrait(16)))
        raw = to_float(renderer.pyramid.picture.pixels)
        got = renderer.render(Edit((light_pass("a", -1.0),)), renderer.bounds)
        np.testing.assert_allclose(got, to_encoded(to_linear(raw) / 2), atol=3e-5)


class Changes(unittest.TestCase):
    """What is painted again after a change is all that changed."""

    def _check(self, old: Edit, new: Edit) -> Rect:
        renderer = Renderer(Pyramid(portrait()))
        a, b = (renderer.render(e, renderer.bounds) for e in (old, new))
        dirty = changed_region(old, new, renderer.bounds)
        differs = np.abs(a - b).max(-1) > 0
        differs[dirty.y0 : dirty.y1, dirty.x0 : dirty.x1] = False
        self.assertFalse(differs.any(), "something changed outside of the dirty rectangle")
        return dirty

    def test_added_moved_and_removed_touches(self) -> None:
        one, two = (Edit((heal_pass("a", SPOTS[:n]),)) for n in (1, 2))
        dirty = self._check(one, two)
        self.assertLess(dirty.width * dirty.height, 40 * 40)
        self._check(two, one)
        moved = Edit((heal_pass("a", [SPOTS[0], (SPOTS[1][0] + 9, SPOTS[1][1])]),))
        self._check(two, moved)

    def test_a_touch_that_reads_a_changed_place_changes_too(self) -> None:
        x, y = SPOTS[0]
        reader = heal_pass("b", [(x + 60, y)], source=(-60, 0))
        dirty = self._check(Edit((reader,)), Edit((heal_pass("a", [SPOTS[0]]), reader)))
        self.assertTrue(dirty.meets(Rect(int(x) + 55, int(y) - 5, int(x) + 65, int(y) + 5)))

    def test_settings_order_and_switches(self) -> None:
        a, b, c = heal_pass("a", SPOTS), light_pass("b", 0.5), heal_pass("c", [(200.0, 60.0)])
        full = Edit((a, b, c))
        for new in (
            Edit((a, b, replace(c, strength=40))),
            Edit((replace(a, enabled=False), b, c)),
            Edit((a, light_pass("b", 0.6), c)),
            Edit((b, a, c)),
            Edit((a, c)),
        ):
            self._check(full, new)

    def test_renaming_changes_nothing(self) -> None:
        a = heal_pass("a", SPOTS)
        self.assertTrue(
            changed_region(Edit((a,)), Edit((replace(a, name="Other"),)), Rect(0, 0, 9, 9)).empty
        )


class Incremental(unittest.TestCase):
    def test_only_what_depends_on_a_change_is_made_again(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        cache = renderer.changes
        far = [(40.0, 40.0), (280.0, 200.0)]
        edit = Edit((heal_pass("a", far, radius=8, source=(20, 0)),))
        renderer.render(edit, renderer.bounds)
        made: list[object] = []
        original = cache.get
        cache.get = lambda key, make: original(key, lambda: (made.append(key), make())[1])  # type: ignore[method-assign]
        changed = replace(edit.passes[0].touches[0], source=(0, 22))
        again = replace(edit.passes[0], touches=(changed, edit.passes[0].touches[1]))
        renderer.render(Edit((again,)), renderer.bounds)
        self.assertEqual(len(made), 1, "the far touch came from the cache")
        made.clear()
        renderer.render(Edit((replace(again, strength=30.0, name="x"),)), renderer.bounds)
        self.assertEqual(made, [], "strength and name need no new pixels")

    def test_a_moving_slider_shows_what_a_fresh_renderer_would(self) -> None:
        """What lies below the changing pass is kept; changes below it must still be seen."""
        renderer = Renderer(Pyramid(portrait()))
        low, heal = light_pass("low", -0.4), heal_pass("h", SPOTS)
        middle = [light_pass("m", ev) for ev in (0.1, 0.2, 0.5, 0.2)]
        top = light_pass("top", 0.3, strength=50)
        edits = [Edit((low, heal, m, top)) for m in middle]
        edits.append(Edit((low, heal_pass("h", SPOTS[:2]), middle[0], top)))
        edits.append(Edit((light_pass("low", 0.4), heal, middle[0], top)))
        edits.append(Edit((light_pass("low", 0.4), heal, middle[1], top)))
        for edit in edits:
            got = renderer.render(edit, renderer.bounds)
            want = Renderer(Pyramid(portrait())).render(edit, renderer.bounds)
            np.testing.assert_array_equal(got, want)

    def test_many_threads_that_ask_for_different_parts_get_them_right(self) -> None:
        """Each part needs other touches to be made; threads take turns as often as they can."""
        edit = Edit((heal_pass("a", SPOTS), light_pass("b", 0.3), heal_pass("c", SPOTS, 10)))
        want = Renderer(Pyramid(portrait())).render(edit, Rect(0, 0, 320, 240))
        parts = [Rect(0, 0, 320, 240), Rect(20, 20, 180, 130), Rect(130, 60, 300, 220)]
        usual = sys.getswitchinterval()
        sys.setswitchinterval(1e-6)
        self.addCleanup(sys.setswitchinterval, usual)
        for _ in range(12):
            plan = Renderer(Pyramid(portrait())).plan(edit)
            with ThreadPoolExecutor(6) as threads:
                for rect, got in zip(
                    2 * parts, threads.map(partial(plan.view, level=0), 2 * parts), strict=True
                ):
                    np.testing.assert_array_equal(got, want[rect.y0 : rect.y1, rect.x0 : rect.x1])

    def test_showing_the_original_leaves_what_is_known_of_the_edit(self) -> None:
        """The plan that begins alike for longest is taken over from, whatever came between."""
        renderer = Renderer(Pyramid(portrait()))
        low, heal = light_pass("low", -0.4), heal_pass("h", SPOTS)
        edit = Edit((low, heal, light_pass("m", 0.1)))
        plan = renderer.plan(edit)
        for other in (Edit(), Edit((light_pass("z", 1),))):
            renderer.plan(other)
        self.assertIs(renderer.plan(from_data(to_data(edit))), plan, "found by its content")
        changed = renderer.plan(Edit((low, heal, light_pass("m", 0.2))))
        self.assertEqual(changed._same.upto, 2)

    def test_a_long_chain_of_touches_that_read_each_other(self) -> None:
        # Each touch takes from where the one before has healed: 700 deep.
        places = [(20.0 + 0.4 * n, 120.0 + 40 * (n % 2)) for n in range(700)]
        one = heal_pass("a", places, radius=3, source=(0, 0))
        touches = tuple(
            replace(t, source=(0, -40 if n % 2 else 40)) for n, t in enumerate(one.touches)
        )
        renderer = Renderer(Pyramid(portrait()))
        edit = Edit((replace(one, touches=touches),))
        whole = renderer.render(edit, Rect(295, 100, 305, 180), 0)
        self.assertTrue(np.isfinite(whole).all())

    def test_cancelling(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        with self.assertRaises(Cancelled):
            renderer.plan(Edit((light_pass("a", 1),))).view(Rect(0, 0, 9, 9), 0, lambda: True)
        with self.assertRaises(Cancelled):
            render_whole(renderer, Edit(), cancelled=lambda: True)


class View(unittest.TestCase):
    def setUp(self) -> None:
        self.renderer = Renderer(Pyramid(portrait()))
        self.plan = self.renderer.plan(Edit((heal_pass("a", SPOTS),)))

    def test_one_to_one_shows_the_pictures_own_values(self) -> None:
        got = render_view(self.plan, 30, 20, 1.0, 100, 80)
        want = to_integers(self.plan.view(Rect(30, 20, 130, 100), 0), 8)
        np.testing.assert_array_equal(got, want)

    def test_a_part_of_a_view_fits_into_it_without_a_seam(self) -> None:
        scale = 0.61
        whole = render_view(self.plan, 10, 10, scale, 150, 120)
        part = render_view(self.plan, 10 + 40 / scale, 10 + 30 / scale, scale, 50, 40)
        gap = np.abs(part[4:-4, 4:-4].astype(int) - whole[34:66, 44:86])
        self.assertLessEqual(int(gap.max()), 2)

    def test_reduced_views_lie_where_they_should(self) -> None:
        # A single bright column must appear at the same relative place at every scale.
        pixels = np.zeros((400, 600, 3), np.uint8)
        pixels[:, 296:304] = 255
        plan = Renderer(Pyramid(Picture(pixels))).plan(Edit())
        for scale in (1.0, 0.77, 0.5, 0.31, 0.13):
            view = render_view(plan, 0, 0, scale, int(600 * scale), int(400 * scale))
            row = view[view.shape[0] // 2, :, 0].astype(float)
            centre = (row * (np.arange(len(row)) + 0.5)).sum() / row.sum() / scale
            self.assertAlmostEqual(centre, 300, delta=0.7, msg=f"scale {scale}")

    def test_other_profiles_are_converted_for_the_screen(self) -> None:
        picture = replace(portrait(), icc=wide_profile())
        plan = Renderer(Pyramid(picture)).plan(Edit())
        got = render_view(plan, 0, 0, 1.0, 320, 240)
        want = in_srgb(picture).pixels
        self.assertLessEqual(int(np.abs(got.astype(int) - want).max()), 1)
        self.assertGreater(int(np.abs(got.astype(int) - picture.pixels).max()), 8)


class Export(unittest.TestCase):
    def test_reduced_to_a_long_side(self) -> None:
        small = resized(portrait(16), 160)
        self.assertEqual(small.pixels.shape, (120, 160, 3))
        self.assertEqual(resized(portrait(), 4000).pixels.shape, (240, 320, 3))

    def test_grey_pictures_stay_grey(self) -> None:
        grey = np.repeat(portrait().pixels[..., :1], 3, 2)
        out = render_whole(
            Renderer(Pyramid(Picture(grey, grey=True))), Edit((heal_pass("a", SPOTS),))
        )
        np.testing.assert_array_equal(out.pixels[..., 0], out.pixels[..., 1])

    def test_the_same_edit_after_a_trip_through_json(self) -> None:
        renderer = Renderer(Pyramid(portrait()))
        edit = Edit((heal_pass("a", SPOTS), light_pass("b", 0.2, blend="soft-light")))
        again = from_data(to_data(edit))
        one, two = (render_whole(renderer, e).pixels for e in (edit, again))
        np.testing.assert_array_equal(one, two)

"""Ceilings: what holds lips, irises, brows and make-up within what looks natural, and lets go when told to."""

from __future__ import annotations

import unittest
from functools import cache

import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.colour.lab import to_lab
from retouch.edit import Edit
from retouch.features import brows, lips, make_up
from retouch.features.toning import beside, calmed, tint_of, within
from retouch.geometry import Rect
from retouch.natural.passes import pass_readings
from retouch.passes.readings import Reading
from retouch.picture import Pyramid, read
from retouch.tests.colours import flat, median
from retouch.work.bench import Bench, bench_for
from retouch.work.operations import AddPass, ApplyRoutine

# Candle light, as a white is photographed in it.
CANDLE = (60.0, 8.0, 30.0)
# Each kind with all of what it does at full, the reading that its ceiling holds, and whether that is a floor.
FULL: dict[str, tuple[dict[str, object], str]] = {
    "lips": ({"richer": 100.0, "even": 100.0, "recolour": 60.0, "chroma": 80.0}, "chroma"),
    "irises": ({"richer": 100.0, "lighter": 100.0}, "chroma"),
    "brows": ({"darker": 100.0, "defined": 100.0}, "light"),
    "eye_make_up": ({"amount": 100.0, "darker": 100.0, "stronger": 100.0}, "laid"),
    "lash_line": ({"darker": 100.0, "stronger": 100.0}, "laid"),
    "blush": ({"amount": 100.0, "chroma": 90.0, "stronger": 100.0}, "laid"),
    "contour": ({"darker": 100.0, "amount": 100.0}, "laid"),
    "highlight": ({"lighter": 100.0, "amount": 100.0}, "laid"),
}


@cache
def bench(name: str) -> Bench:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    return bench_for(Pyramid(picture), understand(name).analysis)


def reading(name: str, kind: str, settings: dict[str, object], times: int = 1) -> Reading:
    """What the last of so many equal passes of a kind tells of what its ceiling holds."""
    edit = Edit()
    for _ in range(times):
        added = AddPass(kind, settings=settings).perform(edit, bench(name))
        edit = added.edit
    told = pass_readings(bench(name).renderer, edit, added.pass_id or "")
    return next(r for r in told if r.name == FULL[kind][1])


class Held(unittest.TestCase):
    def test_small_gains_stay_whole_and_large_ones_never_arrive(self) -> None:
        gains = np.linspace(0, 100, 1001, dtype=np.float32)
        held = within(gains, np.float32(10.0))
        np.testing.assert_allclose(held[:51], gains[:51], atol=1e-5)
        self.assertTrue((np.diff(held) >= 0).all())
        self.assertLessEqual(float(held.max()), 10.0)
        self.assertGreater(float(held[200]), 9.0)
        # No edge where the free part ends: the slope goes on from one.
        slope = np.diff(held) / np.diff(gains)
        self.assertLess(float(np.abs(np.diff(slope)).max()), 0.05)
        self.assertEqual(float(within(gains, np.float32(0.0)).max()), 0.0)

    def test_what_lost_colour_or_lay_beyond_stays(self) -> None:
        was = np.array([10.0, 50.0, 20.0], np.float32)
        a, b = np.array([5.0, 50.0, 60.0], np.float32), np.zeros(3, np.float32)
        calm, _ = calmed(a, b, was, 40.0)
        np.testing.assert_allclose(calm[:2], (5.0, 50.0))
        self.assertTrue(20.0 < calm[2] < 40.0)


class InAnyLight(unittest.TestCase):
    def test_a_light_tints_in_proportion(self) -> None:
        a, b = tint_of(np.array([60.0, 30.0, 0.0], np.float32), CANDLE)
        np.testing.assert_allclose(a, (8.0, 4.0, 0.0), atol=1e-5)
        np.testing.assert_allclose(b, (30.0, 15.0, 0.0), atol=1e-5)
        self.assertAlmostEqual(beside((30.0, 4.0, 15.0), CANDLE), 0.0, places=4)

    def test_lips_in_candle_light_get_redder_and_not_more_orange(self) -> None:
        """The same lips in white light and in candle light gain the same colour."""
        gained = []
        for neutral in ((60.0, 0.0, 0.0), CANDLE):
            a, b = tint_of(np.array([42.0], np.float32), neutral)
            own = (42.0, 22.0 + float(a[0]), 11.0 + float(b[0]))
            look = lips.LipsLook(
                richer=0.5, even=0.0, edge=0.0, dryness=0.0, gloss=0.0, recolour=0.0, hue=0.0,
                chroma=0.0, own=own, most=1.4, neutral=neutral,
            )  # fmt: skip
            gained.append(median(lips.changed(flat(own), look, 6.0)) - np.array(own))
        np.testing.assert_allclose(gained[0], gained[1], atol=0.4)
        self.assertGreater(float(gained[1][1]), 2 * float(gained[1][2]) - 1)

    def test_teeth_between_lips_in_candle_light_are_no_lips(self) -> None:
        tooth = (55.0, 8.0, 32.0)
        look = lips.LipsLook(
            richer=1.0, even=1.0, edge=0.0, dryness=0.0, gloss=0.0, recolour=1.0, hue=0.0,
            chroma=40.0, own=(42.0, 28.0, 32.0), neutral=CANDLE,
        )  # fmt: skip
        np.testing.assert_allclose(median(lips.changed(flat(tooth), look, 6.0)), tooth, atol=0.6)

    def test_a_colour_laid_on_looks_as_it_does_in_that_light(self) -> None:
        skin = (50.0, 20.0, 34.0)
        look = make_up.MakeUp(1.0, 310.0, 15.0, 0.0, 0.0, skin, neutral=CANDLE)
        light, a, b = median(make_up.laid(flat(skin, size=128), look, 5.0))
        grey = tint_of(np.array([light], np.float32), CANDLE)
        over = (float(a - grey[0][0]), float(b - grey[1][0]))
        self.assertAlmostEqual(float(np.hypot(*over)), 15.0, delta=1.5)
        self.assertAlmostEqual(
            float(np.degrees(np.arctan2(over[1], over[0])) % 360), 310.0, delta=6.0
        )


class OnPeople(unittest.TestCase):
    def test_every_kind_at_full_stays_within_its_ceiling(self) -> None:
        """On light skin in window light, and in candle light."""
        for name in ("eli", "hana"):
            for kind, (settings, _) in FULL.items():
                with self.subTest(kind, portrait=name):
                    told = reading(name, kind, settings)
                    self.assertIsNotNone(told.limit)
                    self.assertFalse(told.beyond, told)
                    self.assertGreater(abs(told.after - told.before), 1.0)

    def test_beyond_lets_go_and_is_told(self) -> None:
        for kind in ("lips", "blush", "contour", "eye_make_up"):
            far = {**FULL[kind][0], "beyond": True}
            with self.subTest(kind):
                self.assertTrue(reading("eli", kind, far).beyond)

    def test_lips_stay_within_however_many_passes_lie_one_over_the_other(self) -> None:
        told = reading("hana", "lips", {"richer": 100.0}, times=3)
        self.assertFalse(told.beyond, told)
        edit = ApplyRoutine("bright").perform(Edit(), bench("hana")).edit
        added = AddPass("lips", settings={"richer": 40.0}).perform(edit, bench("hana"))
        over = pass_readings(bench("hana").renderer, added.edit, added.pass_id or "")
        self.assertFalse(any(r.beyond for r in over))

    def test_hairs_of_a_brow_stay_above_the_darkest(self) -> None:
        renderer = bench("eli").renderer
        image = renderer.plan(Edit()).view(renderer.bounds, 0)
        face = bench("eli").analysis.faces[0]
        x, y = (int(v) for v in face.points[105, :2])
        part = np.ascontiguousarray(image[y - 60 : y + 60, x - 90 : x + 90])
        look = brows.BrowLook(darker=1.0, defined=1.0, richer=0.0, warmer=0.0, least=brows.DARKEST)
        rect = Rect(0, 0, part.shape[1], part.shape[0])
        before, after = to_lab(part), to_lab(brows.changed(part, rect, look, 6.0, rect))
        self.assertGreater(float((before - after)[..., 0].max()), 8.0)
        darkened = before[..., 0] - after[..., 0] > 0.2
        self.assertGreaterEqual(float(after[..., 0][darkened].min()), brows.DARKEST - 0.3)


if __name__ == "__main__":
    unittest.main()

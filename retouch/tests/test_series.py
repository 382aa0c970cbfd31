"""One look over a session: a person's skin is brought to its colour on another picture."""

import unittest
from dataclasses import replace

import numpy as np

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.edit import Edit
from retouch.picture import Pyramid, read
from retouch.work import Bench, Other, Refused, perform
from retouch.work.bench import bench_for
from retouch.work.operations import AddPass, MatchSeries
from retouch.work.series import apart, skin_colour


def pyramid(name: str) -> Pyramid:
    return Pyramid(read(DEMO / "portraits" / f"{name}.jpg"))


class Series(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture = pyramid("dan")
        cls.bench = bench_for(cls.picture, understand("dan").analysis)

    def beside(self, name: str, edit: Edit) -> Bench:
        analysis, there = understand(name).analysis, pyramid(name)
        other = Other(edit, analysis, name, "0" * 64, lambda: there)
        return replace(self.bench, elsewhere=lambda _: other)

    def test_another_light_is_matched_by_ordinary_passes(self) -> None:
        for ev, kelvin, tint in ((0.8, 5200.0, 0.0), (-0.7, 8200.0, 8.0)):
            lit = perform(Edit(), AddPass("light", settings={"exposure_ev": ev}), self.bench).edit
            lit = perform(lit, AddPass("white_balance", settings={"temperature_k": kelvin, "tint": tint}), self.bench).edit  # fmt: skip
            analysis = self.bench.analysis
            assert analysis is not None
            wanted = skin_colour(self.bench.renderer, lit, analysis, 0)
            plain = skin_colour(self.bench.renderer, Edit(), analysis, 0)
            assert wanted is not None
            assert plain is not None
            done = perform(Edit(), MatchSeries("x"), self.beside("dan-blink", lit))
            own = skin_colour(self.bench.renderer, done.edit, analysis, 0)
            assert own is not None
            self.assertGreater(apart(plain, wanted), 4)
            self.assertLess(apart(own, wanted), 1.5)
            self.assertEqual({p.kind for p in done.edit.passes}, {"white_balance", "light"})
            self.assertRegex(done.label, r"CIEDE2000 \d+\.\d to [01]\.\d")
            # The light is found again, not only the colour.
            light = next(p for p in done.edit.passes if p.kind == "light")
            self.assertAlmostEqual(float(light.settings["exposure_ev"]), ev, delta=0.25)  # type: ignore[arg-type]

    def test_a_difference_is_ciede2000(self) -> None:
        grey = np.full(3, 0.5, np.float32)
        self.assertLess(apart(grey, grey), 1e-3)
        self.assertGreater(apart(grey, grey + np.float32(0.1)), 5)

    def test_strangers_and_what_is_alike_already_are_refused_in_words(self) -> None:
        with self.assertRaisesRegex(Refused, "Nobody on this picture"):
            perform(Edit(), MatchSeries("x"), self.beside("eli", Edit()))
        with self.assertRaisesRegex(Refused, "already"):
            perform(Edit(), MatchSeries("x"), self.beside("dan", Edit()))
        with self.assertRaisesRegex(Refused, "has to be known"):
            perform(Edit(), MatchSeries("x"), replace(self.beside("dan", Edit()), analysis=None))

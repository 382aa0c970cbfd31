"""One memory for all that is kept, and one place that works on all processors."""

from __future__ import annotations

import contextvars
import gc
import subprocess
import sys
import threading
import unittest
import weakref
from dataclasses import replace

import numpy as np

from retouch.edit import Edit, Pass, Touch
from retouch.forms.form import completed, completed_touch
from retouch.memory import Memory
from retouch.passes import registry
from retouch.picture import Picture, Pyramid
from retouch.processors import CORES, at_once, begin
from retouch.render import Renderer


class Parts(unittest.TestCase):
    def test_keeps_to_its_budget_and_drops_the_oldest(self) -> None:
        cache = Memory(1000).part("some")
        for n in range(6):
            cache.get(n, lambda: np.zeros(300, np.uint8))
        self.assertLessEqual(cache.used, 1000)
        calls: list[int] = []
        cache.get(5, lambda: calls.append(1) or np.zeros(1))  # type: ignore[func-returns-value]
        self.assertEqual(calls, [])
        cache.get(0, lambda: calls.append(1) or np.zeros(1))  # type: ignore[func-returns-value]
        self.assertEqual(calls, [1])

    def test_a_failure_is_raised_and_can_be_tried_again(self) -> None:
        cache = Memory(1000).part("some")

        def fail() -> np.ndarray:
            raise ValueError("no")

        with self.assertRaises(ValueError):
            cache.get("k", fail)
        self.assertEqual(cache.get("k", lambda: np.ones(3)).sum(), 3)

    def test_two_threads_make_a_thing_once(self) -> None:
        cache = Memory(1000).part("some")
        started, release, calls = threading.Event(), threading.Event(), []

        def slow() -> np.ndarray:
            calls.append(1)
            started.set()
            release.wait(10)
            return np.ones(3)

        first = threading.Thread(target=lambda: cache.get("k", slow))
        first.start()
        started.wait(10)
        second = threading.Thread(target=lambda: cache.get("k", slow))
        second.start()
        release.set()
        first.join()
        second.join()
        self.assertEqual(calls, [1])

    def test_parts_share_one_budget(self) -> None:
        """What was used longest ago goes, in whichever part it lies; none outgrows its share."""
        memory = Memory(1000)
        large, small = memory.part("large", 0.5), memory.part("small")
        for n in range(4):
            small.get(n, lambda: np.zeros(150, np.uint8))
        for n in range(3):
            large.get(n, lambda: np.zeros(200, np.uint8))
        self.assertEqual(large.used, 400, "no more than half of the budget")
        self.assertEqual([n for n in range(4) if small.holds(n)], [0, 1, 2, 3])
        small.get(0, lambda: np.zeros(150, np.uint8))
        small.get(4, lambda: np.zeros(150, np.uint8))
        self.assertEqual([n for n in range(5) if small.holds(n)], [0, 2, 3, 4])
        self.assertLessEqual(memory.used, 1000)

    def test_what_is_held_leaves_less_for_the_rest(self) -> None:
        memory = Memory(1000)
        part = memory.part("some")
        for n in range(5):
            part.get(n, lambda: np.zeros(200, np.uint8))
        memory.hold("picture", 700)
        self.assertEqual((part.used, memory.used), (200, 900))
        memory.released("picture")
        self.assertEqual(memory.used, 200)

    def test_what_is_larger_than_a_part_may_be_is_given_and_not_kept(self) -> None:
        part = Memory(1000).part("some", 0.1)
        self.assertEqual(part.get("k", lambda: np.ones(500, np.uint8)).sum(), 500)
        self.assertFalse(part.holds("k"))


class AtOnce(unittest.TestCase):
    def test_results_come_in_order(self) -> None:
        self.assertEqual(at_once(lambda n: n * n, range(50)), [n * n for n in range(50)])

    def test_nested_work_never_waits_for_itself(self) -> None:
        """More parts than helpers at each of three depths, from several threads."""

        def work(depth: int) -> int:
            return 1 if depth == 0 else sum(at_once(work, [depth - 1] * (CORES + 2)))

        found: list[int] = []
        threads = [
            threading.Thread(target=lambda: found.append(work(3)), daemon=True) for _ in range(4)
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join(60)
        self.assertEqual(found, [(CORES + 2) ** 3] * 4)

    def test_the_first_error_is_raised_and_no_part_is_begun_after_it(self) -> None:
        begun: list[int] = []

        def part(n: int) -> None:
            begun.append(n)
            raise ValueError(str(n))

        with self.assertRaises(ValueError):
            at_once(part, range(1000))
        self.assertLessEqual(len(begun), CORES)

    def test_what_is_begun_is_done_though_nobody_waits(self) -> None:
        done = threading.Event()
        begin(done.set)
        # On a single processor nothing is done ahead.
        self.assertEqual(done.wait(30 if CORES > 1 else 0), CORES > 1)

    def test_work_is_finished_while_the_process_ends(self) -> None:
        """What was asked for just before the end has no helpers any more."""
        work = (
            "import atexit\n"
            "from retouch.processors import at_once, begin\n"
            "at_once(abs, range(9))\n"
            "def last():\n"
            "    begin(lambda: None)\n"
            "    print(at_once(lambda n: n * n, range(9)), flush=True)\n"
            "atexit.register(last)\n"
        )
        ended = subprocess.run(
            [sys.executable, "-c", work], capture_output=True, text=True, timeout=120, check=False
        )
        self.assertEqual(ended.stderr, "")
        self.assertEqual(ended.stdout.strip(), str([n * n for n in range(9)]))

    def test_parts_see_what_their_asker_set(self) -> None:
        mark: contextvars.ContextVar[str] = contextvars.ContextVar("mark", default="none")
        mark.set("asker")
        together = threading.Barrier(CORES, timeout=30)

        def part(_: int) -> str:
            together.wait()
            return mark.get()

        self.assertEqual(at_once(part, range(CORES)), ["asker"] * CORES)


class Closed(unittest.TestCase):
    def test_a_picture_that_is_closed_goes_at_once(self) -> None:
        """Not when cycles are collected some time: a full collection may be hundreds of pictures away."""
        gc.collect()
        gc.disable()
        self.addCleanup(gc.enable)
        renderer = Renderer(Pyramid(Picture(np.full((120, 160, 3), 90, np.uint8))), Memory(1 << 20))
        light = Pass("a", "light", settings={"exposure_ev": 0.2})
        touch = completed_touch(
            Touch("t", ((60.0, 60.0),), {"radius_px": 9.0}, (30, 0)), registry.kind("heal")
        )
        heal = Pass("b", "heal", touches=(touch,))
        edit = Edit((completed(heal), completed(light)))
        changed = Edit((completed(heal), completed(replace(light, settings={"exposure_ev": 0.3}))))
        renderer.plan(edit).view(renderer.bounds, 0)
        renderer.plan(changed, standing=edit).view(renderer.bounds, 0)
        gone = weakref.ref(renderer.pyramid.picture)
        del renderer
        self.assertIsNone(gone())

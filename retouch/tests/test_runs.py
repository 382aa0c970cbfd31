"""Runs: the same pixels by every way, over folders, killed at any moment, on a cluster."""

import contextlib
import io
import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
import unittest
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import ClassVar
from unittest import mock

import cv2
import numpy as np

from benchmarks.scoring import DEMO
from retouch.cli import batch, render
from retouch.edit import Edit
from retouch.edit.routine import Routine, RoutineStep
from retouch.errors import EditError, PictureError, RetouchError
from retouch.forms.form import from_data
from retouch.forms.routines import routine_dumps, routine_to_data
from retouch.picture import read
from retouch.runs.journal import NAME, Journal
from retouch.runs.orders import Deliver, Made, Mismatch, Order, in_words
from retouch.runs.presets import preset
from retouch.runs.telling import told
from retouch.runs.work import carry_out, content_of
from retouch.runs.workers import Cluster, Lost, Processes, work_through, workers_that_fit
from retouch.work.ready import routine

ROOT = Path(__file__).resolve().parents[2]
TONED = Routine("Toned", (RoutineStep("split_toning", {"lights_amount": 40.0}),))
EVERYDAY = routine_to_data(routine("everyday"))  # type: ignore[arg-type]


def small(name: str, path: Path, width: int = 480) -> None:
    """A demo portrait, reduced."""
    image = cv2.imread(str(DEMO / "portraits" / f"{name}.jpg"))
    height = round(image.shape[0] * width / image.shape[1])
    cv2.imwrite(str(path), cv2.resize(image, (width, height), interpolation=cv2.INTER_AREA))


class Folder(unittest.TestCase):
    # They start processes, which processes of a parallel test run may not: `./run test` runs them by themselves.
    tags: ClassVar = {"processes"}

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(TemporaryDirectory()))
        self.out = self.folder / "out"
        self.own = self.folder / "toned.json"
        self.own.write_text(routine_dumps(TONED))
        self.photos = self.folder / "in"
        self.photos.mkdir()

    def batch(self, *more: str, expected: int = 0) -> list[dict]:  # type: ignore[type-arg]
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            status = batch.main([str(self.photos), "--routine", str(self.own), "--out", str(self.out), "--json", *more])  # fmt: skip
        self.assertEqual(status, expected, out.getvalue())
        return [json.loads(line) for line in out.getvalue().splitlines()]


class OneWay(Folder):
    def test_a_run_gives_the_pixels_of_render(self) -> None:
        small("eli", self.photos / "eli.png", 700)
        self.own = Path("everyday")
        self.batch("--deliver", self.preset({"format": "png"}))
        alone = self.folder / "alone.png"
        self.assertEqual(render.main([str(self.photos / "eli.png"), "--routine", "everyday", "--out", str(alone)]), 0)  # fmt: skip
        np.testing.assert_array_equal(read(self.out / "eli.png").pixels, read(alone).pixels)

    def preset(self, output: dict) -> str:  # type: ignore[type-arg]
        path = self.folder / "preset.json"
        path.write_text(json.dumps({"output": output}))
        return str(path)

    def test_a_routine_names_what_it_is_delivered_by(self) -> None:
        small("eli", self.photos / "eli.jpg")
        self.own.write_text(routine_dumps(replace(TONED, deliveries=("proof", "print"))))
        self.batch()
        made = sorted(p.name for p in self.out.iterdir() if p.suffix in (".jpg", ".tif"))
        self.assertEqual(made, ["eli print.tif", "eli proof.jpg"])
        self.own.write_text(routine_dumps(replace(TONED, deliveries=("Gallery",))))
        err = io.StringIO()
        with contextlib.redirect_stderr(err):
            self.batch(expected=1)
        self.assertIn("There is no preset 'Gallery'", err.getvalue())
        # Said with the command, that counts.
        self.out = self.folder / "other"
        self.batch("--deliver", "web")
        self.assertTrue((self.out / "eli.jpg").exists())

    def test_failures_are_by_picture_and_the_rest_goes_on(self) -> None:
        small("eli", self.photos / "eli.jpg")
        (self.photos / "inner").mkdir()
        small("ana", self.photos / "inner" / "eli.jpg")
        small("ana", self.photos / "eli.png")
        (self.photos / "text.jpg").write_text("no picture")
        (self.photos / "empty.jpg").touch()
        (self.photos / "notes.txt").write_text("not one either")
        lines = self.batch("--save-edits", "--deliver", "proof", expected=1)
        told = {line["file"]: line for line in lines[:-1]}
        self.assertEqual(lines[-1], {"done": 3, "failed": 2, "before": 0, "others": 1})
        self.assertIn("empty", told["empty.jpg"]["message"])
        self.assertIn("isn't a picture", told["text.jpg"]["message"])
        made = sorted(p.relative_to(self.out).as_posix() for p in self.out.rglob("*.jpg"))
        self.assertEqual(made, ["eli 2.jpg", "eli.jpg", "inner/eli.jpg"])
        edit = from_data(json.loads((self.out / "eli.edit.json").read_text()))
        self.assertEqual([p.kind for p in edit.passes], ["split_toning"])
        # Gone on with, what failed is tried again and what is done isn't.
        small("kofi", self.photos / "empty.jpg")
        again = self.batch("--resume", "--save-edits", "--deliver", "proof", expected=1)
        self.assertEqual(again[-1], {"done": 1, "failed": 1, "before": 3, "others": 1})

    def test_what_cannot_be_meant_is_refused_in_words(self) -> None:
        small("eli", self.photos / "eli.jpg")
        self.batch("--deliver", "proof")
        err = io.StringIO()
        for more, words in (
            ([], "in it already|is in"), (["--resume", "--strength", "5"], "another one"),
            (["--deliver", "nothing"], "no preset"),
        ):  # fmt: skip
            with contextlib.redirect_stderr(err):
                self.batch(*more, expected=1)
            self.assertRegex(err.getvalue().splitlines()[-1], words)
        for wrong in ({"output": {"format": "bmp"}}, {"output": {"colour": 1}}, {"more": {}}, []):
            path = self.folder / "wrong.json"
            path.write_text(json.dumps(wrong))
            with self.assertRaises(PictureError):
                preset(str(path))
        for wrong_folder in (self.folder / "nothing", self.out):
            with contextlib.redirect_stderr(err):
                status = batch.main(
                    [str(wrong_folder), "--routine", "light", "--out", str(self.out)]
                )
            self.assertEqual(status, 1)

    def test_watching_takes_each_file_once_when_it_is_whole(self) -> None:
        whole = self.folder / "whole.jpg"
        small("eli", whole)
        data = whole.read_bytes()
        command = [sys.executable, "-m", "retouch.cli.batch", str(self.photos), "--routine", str(self.own),
                   "--out", str(self.out), "--json", "--watch", "--workers", "1"]  # fmt: skip
        process = subprocess.Popen(command, stdout=subprocess.PIPE, cwd=ROOT, text=True)
        self.addCleanup(process.kill)
        (self.photos / "first.jpg").write_bytes(data)
        assert process.stdout is not None
        self.assertEqual(json.loads(process.stdout.readline())["file"], "first.jpg")
        # As a camera drops it: in pieces.
        with open(self.photos / "second.jpg", "wb") as file:
            for n in range(0, len(data), len(data) // 4 + 1):
                file.write(data[n : n + len(data) // 4 + 1])
                file.flush()
                time.sleep(0.4)
        line = json.loads(process.stdout.readline())
        self.assertEqual((line["file"], line["state"]), ("second.jpg", "done"))
        process.send_signal(signal.SIGINT)
        rest = process.communicate(timeout=60)[0]
        self.assertEqual((process.returncode, rest.strip()), (130, ""))


class Killed(Folder):
    def test_a_run_killed_twenty_times_does_each_picture_once(self) -> None:
        names = [f"{name}{n}.jpg" for n in range(3) for name in ("ana", "eli", "kofi")]
        for name in names:
            small(name[:-5], self.photos / name, 320)
        command = [sys.executable, "-m", "retouch.cli.batch", str(self.photos), "--routine", str(self.own),
                   "--out", str(self.out), "--resume", "--deliver", "proof", "--workers", "2"]  # fmt: skip
        chance = random.Random(7)
        kills = 0
        for _ in range(60):
            process = subprocess.Popen(command, cwd=ROOT, stderr=subprocess.DEVNULL, start_new_session=True)  # fmt: skip
            if kills < 20:
                time.sleep(chance.uniform(1.0, 3.2))
                if process.poll() is None:
                    kills += 1
                    if kills % 2:
                        os.kill(process.pid, signal.SIGKILL)
                    else:
                        os.killpg(process.pid, signal.SIGKILL)
                    process.wait()
                    # Whatever is there under its name is whole.
                    for path in self.out.glob("*.jpg"):
                        self.assertIsNotNone(cv2.imread(str(path)))
                    continue
                # Done too soon: from the beginning, into the same folder.
                (self.out / NAME).unlink()
                for path in self.out.glob("*.jpg"):
                    path.unlink()
                continue
            self.assertEqual(process.wait(timeout=120), 0)
            break
        self.assertEqual(kills, 20)
        lines = [json.loads(t) for t in (self.out / NAME).read_text().splitlines() if t.startswith("{") and t.endswith("}")]  # fmt: skip
        done = [line["file"] for line in lines if line.get("state") == "done"]
        self.assertEqual(sorted(done), sorted(names))
        self.assertEqual(sorted(p.name for p in self.out.glob("*.jpg")), sorted(names))
        plain = carry_out(Order("x", str(self.photos / "ana0.jpg"), routine=routine_to_data(TONED), deliver=(preset("proof").to(self.folder / "x"),)))  # fmt: skip
        self.assertEqual(Path(plain.files[0][0]).read_bytes(), (self.out / "ana0.jpg").read_bytes())

    def test_a_worker_that_dies_is_replaced_and_a_picture_that_kills_it_is_left(self) -> None:
        for n in range(4):
            small("ana", self.photos / f"{n}.png", 900)
        orders = [
            Order(p.name, str(p), routine=EVERYDAY) for p in sorted(self.photos.glob("*.png"))
        ]
        crew = Processes(2)
        self.addCleanup(crew.close)
        ended: dict[str, Made | BaseException] = {}
        dead = threading.Event()

        def kill(order: Order) -> None:
            if order.key == "1.png" and not dead.is_set():
                dead.set()
                threading.Timer(2.5, lambda: [os.kill(p, signal.SIGKILL) for p in crew.pids[:1]]).start()  # fmt: skip

        work_through(crew, iter(orders), lambda o, m: ended.update({o.key: m}), begun=kill)
        self.assertTrue(all(isinstance(m, Made) for m in ended.values()), ended)
        self.assertEqual(len(ended), 4)
        # One during which its worker always dies fails by itself.
        poison = Order("poison", str(self.photos / "0.png"), routine={"kill": True})
        ended.clear()
        with mock.patch("retouch.runs.workers._carry_out", killing):
            work_through(crew, iter([orders[0], poison, orders[1]]), lambda o, m: ended.update({o.key: m}))  # fmt: skip
        self.assertIsInstance(ended["poison"], Lost)
        self.assertIsInstance(ended["0.png"], Made)
        self.assertIsInstance(ended["1.png"], Made)


def killing(order: Order) -> Made:
    """Carries an order out; one that asks for it ends its process."""
    if order.routine == {"kill": True}:
        os.kill(os.getpid(), signal.SIGKILL)
    return carry_out(order)


class Orders(Folder):
    def test_orders_of_another_version_or_file_are_refused(self) -> None:
        path = self.photos / "a.png"
        small("ana", path, 320)
        with self.assertRaises(Mismatch):
            carry_out(Order("a", str(path), version="0.1"))
        with self.assertRaisesRegex(PictureError, "changed"):
            carry_out(Order("a", str(path), content="0" * 64))
        kept = self.folder / "kept" / "a.npz"
        first = carry_out(Order("a", str(path), content_of(path), analysis=str(kept)))
        stamp = kept.stat().st_mtime_ns
        again = carry_out(Order("a", str(path), content_of(path), analysis=str(kept)))
        self.assertEqual(first.edit, again.edit)
        noted = str(self.folder / "noted")
        self.assertIsNone(told(noted))
        carry_out(Order("a", str(path), analysis=str(kept), told=noted))
        share, doing = told(noted) or (0.0, "")
        self.assertGreater(share, 0.4)
        self.assertIn("natural", doing)
        # Where nothing can be noted, the picture is done all the same.
        carry_out(Order("a", str(path), analysis=str(kept), told=str(self.folder / "none" / "x")))
        self.assertEqual(kept.stat().st_mtime_ns, stamp)
        kept.write_bytes(b"cut short")
        carry_out(Order("a", str(path), analysis=str(kept)))
        self.assertGreater(kept.stat().st_size, 1000)

    def test_pixels_do_not_hang_on_the_number_of_cores(self) -> None:
        path = DEMO / "portraits" / "hana.jpg"
        kept, made = self.folder / "hana.npz", []
        for cores in (1, 2, 4):
            with mock.patch("retouch.processors.CORES", cores):
                file = Deliver(str(self.folder / f"{cores}.png"), {"format": "png"})
                carry_out(
                    Order("a", str(path), routine=EVERYDAY, analysis=str(kept), deliver=(file,))
                )
            made.append(Path(file.path).read_bytes())
        self.assertEqual(made[0], made[1])
        self.assertEqual(made[0], made[2])

    def test_all_files_are_of_one_picture_which_readings_are_of(self) -> None:
        path, kept = self.photos / "ana.png", str(self.folder / "ana.npz")
        small("ana", path, 900)
        files = tuple(
            Deliver(str(self.folder / f"of.{ending}"), {"format": name})
            for name, ending in (("png", "png"), ("tiff", "tif"), ("ora", "ora"))
        )
        order = Order("a", str(path), routine=EVERYDAY, analysis=kept)
        made, alone = carry_out(replace(order, deliver=files)), carry_out(order)
        first, *others = (read(Path(f.path)).pixels for f in files)
        for other in others:
            np.testing.assert_array_equal(first, other)
        self.assertEqual([f for f, _, _ in made.files], [f.path for f in files])
        # Of a file's pixels or of what the passes make: but for its steps the same is read.
        assert made.texture is not None and alone.texture is not None  # noqa: PT018
        assert made.colour is not None and alone.colour is not None  # noqa: PT018
        self.assertAlmostEqual(made.texture, alone.texture, delta=2.5)
        self.assertAlmostEqual(made.colour, alone.colour, delta=0.3)
        self.assertEqual(made.beyond, alone.beyond)

    def test_what_needs_eyes_comes_first(self) -> None:
        calm = Made("a", {}, "", faces=1, texture=98.0, colour=0.5)
        rough = Made("b", {}, "", faces=1, texture=70.0, colour=0.5)
        glowing = Made("d", {}, "", faces=1, texture=98.0, colour=0.5, beyond=("Eye whites",))
        self.assertGreater(glowing.worry, rough.worry)
        nobody = Made("c", {}, "", note="No face was found.")
        order = sorted((calm, rough, nobody), key=lambda m: -m.worry)
        self.assertEqual([m.key for m in order], ["c", "b", "a"])

    def test_errors_are_told_in_words(self) -> None:
        for error, words in (
            (EditError("Plainly."), "Plainly."), (MemoryError(), "memory"), (FileNotFoundError(), "gone"),
            (OSError(28, "No space left on device"), "No space"), (ZeroDivisionError(), "log"),
        ):  # fmt: skip
            self.assertIn(words, in_words(error))

    def test_as_many_workers_as_fit(self) -> None:
        self.assertGreaterEqual(workers_that_fit(), 1)
        self.assertEqual(workers_that_fit(1), 1)
        with mock.patch("retouch.runs.workers._available", return_value=100):
            self.assertEqual(workers_that_fit(), 1)

    def test_a_journal_cut_short_is_read_to_there(self) -> None:
        journal = Journal(self.folder, "meant", False)
        journal.end("a", "1", "done")
        journal.close()
        path = self.folder / NAME
        path.write_bytes(path.read_bytes()[:-9])
        again = Journal(self.folder, "meant", True)
        self.assertFalse(again.done("a", "1"))
        again.end("a", "1", "done")
        again.close()
        third = Journal(self.folder, "meant", True)
        self.addCleanup(third.close)
        self.assertTrue(third.done("a", "1"))
        self.assertFalse(third.done("a", "2"))


class OnACluster(Folder):
    def started(self, *command: str, where: Path = ROOT) -> subprocess.Popen[bytes]:
        """A part of a cluster, started as docs/operation.md says."""
        process = subprocess.Popen(
            [sys.executable, "-m", "dask", *command, "--no-dashboard"],
            cwd=where,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def cluster(self, where: Path = ROOT) -> tuple[Cluster, list[subprocess.Popen[bytes]]]:
        """A scheduler and two workers on loopback."""
        told = self.folder / f"scheduler-{where.name}.json"
        self.started(
            "scheduler",
            "--host",
            "127.0.0.1",
            "--port",
            "0",
            "--scheduler-file",
            str(told),
            where=where,
        )
        end = time.monotonic() + 60
        # The file is there before it is written.
        while not (told.exists() and told.read_text().rstrip().endswith("}")):
            self.assertLess(time.monotonic(), end, "no scheduler came")
            time.sleep(0.05)
        address = json.loads(told.read_text())["address"]
        workers = [
            self.started("worker", address, "--nthreads", "1", "--no-nanny", where=where)
            for _ in range(2)
        ]
        while True:
            crew = Cluster(address)
            if crew.size == 2:
                self.addCleanup(crew.close)
                return crew, workers
            crew.close()
            self.assertLess(time.monotonic(), end, "no workers came")
            time.sleep(0.2)

    def test_machines_that_do_not_know_the_program_are_told(self) -> None:
        small("ana", self.photos / "a.png", 320)
        crew, _ = self.cluster(self.folder)
        ended: list[Made | BaseException] = []
        order = Order("a", str(self.photos / "a.png"), routine=EVERYDAY)
        work_through(crew, iter([order]), lambda o, m: ended.append(m))
        self.assertIn("started in its folder", in_words(ended[0]))  # type: ignore[arg-type]

    def test_tasks_carry_what_they_need_and_a_lost_worker_is_made_good(self) -> None:
        for n in range(4):
            small("ana", self.photos / f"{n}.png", 700)
        crew, workers = self.cluster()
        paths = sorted(self.photos.glob("*.png"))
        wire = [
            Order(p.name, "elsewhere", content_of(p), p.read_bytes(), routine=EVERYDAY, deliver=(Deliver("r.png", {"format": "png"}),), carried=True)
            for p in paths
        ]  # fmt: skip
        ended: dict[str, Made | BaseException] = {}
        threading.Timer(3.0, workers[0].kill).start()
        work_through(crew, iter(wire), lambda o, m: ended.update({o.key: m}))
        self.assertEqual(len(ended), 4)
        here = carry_out(Order("0.png", str(paths[0]), routine=EVERYDAY, deliver=(Deliver(str(self.folder / "r.png"), {"format": "png"}),)))  # fmt: skip
        for made in ended.values():
            assert isinstance(made, Made), made
            self.assertEqual(made.files[0][2], (self.folder / "r.png").read_bytes())
            self.assertGreater(len(made.analysis), 1000)
        self.assertEqual({p.kind for p in from_data(here.edit).passes}, {p.kind for p in from_data(ended["0.png"].edit).passes})  # type: ignore[union-attr]  # fmt: skip
        self.assertNotEqual(from_data(here.edit), Edit())

    def test_a_scheduler_that_is_not_there_is_told(self) -> None:
        with self.assertRaisesRegex(RetouchError, "can't be reached"):
            Cluster("tcp://127.0.0.1:9")

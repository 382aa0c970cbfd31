"""Faults of the world: no room, no file, processes that outlive others, users with more than their share."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, override_settings

from retouch.processes import started_at
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, leftovers
from studio.portraits.services.line import Line
from studio.tests.base import StudioTest, portrait_file
from studio.tests.test_serving import WAIT_S, ask, serving


class FullDisk(StudioTest):
    """The database may have no more pages than it has: what SQLite says then is what it says on a full disk."""

    def setUp(self) -> None:
        super().setUp()
        self.one = self.take_in()
        self.heal(self.one.id, 0, 60, 60)
        self.send("POST", f"/portraits/{self.one.id}/takes", {"name": "before"})
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user)

    def full(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("VACUUM")
            cursor.execute("PRAGMA max_page_count = 1")
        self.addCleanup(self.roomy)

    def roomy(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA max_page_count = 1073741823")

    def test_gestures_takes_and_undo_say_so_and_change_nothing(self) -> None:
        before = self.desk(self.one.id)
        self.full()
        path = f"/portraits/{self.one.id}"
        big = [[60 + (n % 40) / 10, 60 + n / 400] for n in range(4000)]
        with self.assertLogs("studio.api", "ERROR"):
            for method, where, body in (
                ("POST", f"{path}/gestures", {"revision": 1, "operation": {"op": "add_touch", "kind": "heal", "touch": {"path": big, "source": [40, 30], "values": {"radius_px": 4.0}}}}),
                ("POST", f"{path}/takes", {"name": "x" * 200}),
                ("PATCH", "/preferences", {"keys": {}, "brushes": [], "kept": [{"name": f"n{n}", "kind": "light", "settings": {"a": "x" * 390}} for n in range(100)]}),
            ):  # fmt: skip
                # What fits into pages that have some room left still does.
                for _ in range(60):
                    answer = self.send(method, where, body)
                    if answer.status_code == 507:
                        break
                self.assertEqual(answer.status_code, 507, answer.content)
                self.assertIn("no room left", answer.json()["message"])
        self.roomy()
        desk.forget_all()
        after = self.desk(self.one.id)
        self.assertEqual((after["passes"], after["history"]), (before["passes"], before["history"]))
        self.assertEqual(self.heal(self.one.id, 1, 150, 90).status_code, 200)

    def test_signing_in_says_so(self) -> None:
        self.full()
        said = []
        with self.assertLogs("studio.api", "ERROR"):
            for _ in range(60):
                given = json.dumps({"username": "mira", "password": "a-long-invented-one"})
                window = Client(raise_request_exception=False)
                answer = window.post("/api/session", given, content_type="application/json")
                said.append(answer.status_code)
                self.assertIn(answer.status_code, (200, 507), answer.content)
                if answer.status_code == 507:
                    self.assertIn("no room left", answer.json()["message"])
            # The API's own, too, not that of the session alone.
            self.heal(self.one.id, 1, 100, 100)
            self.send("PATCH", "/preferences", {"keys": {}, "brushes": [], "kept": [{"name": f"n{n}", "kind": "light", "settings": {"a": "x" * 390}} for n in range(100)]})  # fmt: skip
        self.assertIn(507, said)

    def test_a_folder_that_cannot_be_written_is_told(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA query_only = 1")
        try:
            with self.assertLogs("studio.api", "ERROR"):
                answer = self.heal(self.one.id, 1, 150, 90)
            self.assertEqual(answer.status_code, 507)
            self.assertIn("can't be written", answer.json()["message"])
            # Looking goes on.
            self.assertEqual(self.pixels(self.one.id).shape, (240, 320, 3))
        finally:
            with connection.cursor() as cursor:
                cursor.execute("PRAGMA query_only = 0")


class MissingFiles(StudioTest):
    def test_a_missing_damaged_or_replaced_original_is_told_where_it_happens(self) -> None:
        one, other = self.take_in(), self.take_in(name="other.png")
        whole = one.original.read_bytes()

        def gone() -> None:
            one.original.unlink()

        def cut() -> None:
            one.original.write_bytes(whole[: len(whole) // 2])

        def folder() -> None:
            one.original.unlink()
            one.original.mkdir()

        view = {"x": 0, "y": 0, "scale": 1, "width": 20, "height": 20}
        for break_it in (gone, cut, folder):
            break_it()
            desk.forget_all()
            answer = self.client.get(f"/api/portraits/{one.id}/view", view)
            self.assertEqual(answer.status_code, 410, break_it.__name__)
            self.assertIn("backup", answer.json()["message"])
            self.assertNotIn(str(settings.DATA_DIR), answer.json()["message"])
            self.assertEqual(
                self.client.get(f"/api/portraits/{other.id}/view", view).status_code, 200
            )
            self.assertEqual(len(self.client.get("/api/wall").json()["portraits"]), 2)
            if one.original.is_dir():
                one.original.rmdir()
            one.original.write_bytes(whole)
        desk.forget_all()
        self.assertEqual(self.client.get(f"/api/portraits/{one.id}/view", view).status_code, 200)

    def test_what_stands_in_the_place_of_caches_is_no_end(self) -> None:
        one = self.take_in()
        cache = Path(settings.CACHE_DIR)
        shutil.rmtree(cache, ignore_errors=True)
        cache.write_text("no folder")
        self.addCleanup(cache.unlink, missing_ok=True)
        answer = self.client.get(f"/api/portraits/{one.id}/thumbnail", {"side": "after"})
        self.assertIn(answer.status_code, (200, 507))

    def test_the_clock_may_go_back(self) -> None:
        one = self.take_in()
        self.heal(one.id, 0, 60, 60)
        Portrait.objects.filter(pk=one.pk).update(created_at="2090-01-01T00:00:00Z", worked_at="2090-01-01T00:00:00Z")  # fmt: skip
        self.assertEqual(self.heal(one.id, 1, 150, 90).status_code, 200)
        self.assertEqual(self.step(one.id, 2, 0).json()["history"]["at"], 0)


class Sweeping(StudioTest):
    def test_originals_of_nobody_are_put_away_and_the_rest_stays(self) -> None:
        one = self.take_in()
        self.client.get(f"/api/portraits/{one.id}/thumbnail", {"side": "before"})
        originals = Path(settings.ORIGINALS_DIR)
        for name, age in (("nobodys-old", 7200), ("nobodys-new", 0)):
            (originals / name).mkdir()
            (originals / name / "original.png").write_bytes(b"x")
            os.utime(originals / name, (time.time() - age,) * 2)
        small = Path(settings.CACHE_DIR) / "thumbnails"
        small.mkdir(parents=True, exist_ok=True)
        (small / "nobodys-old-before.jpg").write_bytes(b"x")
        kept = [p.name for p in small.iterdir() if p.name.startswith(one.id)]
        self.assertEqual(leftovers.sweep(), ["nobodys-old"])
        self.assertTrue(one.original.exists())
        self.assertTrue((originals / "nobodys-new").exists())
        swept = Path(settings.DATA_DIR) / "swept" / "nobodys-old"
        self.assertTrue((swept / "original.png").exists())
        self.assertEqual(sorted(p.name for p in small.iterdir()), sorted(kept))
        os.utime(swept, (time.time() - 86_400 * (settings.TRASH_DAYS + 1),) * 2)
        leftovers.sweep()
        self.assertFalse(swept.exists())


class Leftovers(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(TemporaryDirectory()))
        self.enterContext(override_settings(DATA_DIR=self.folder))

    def test_processes_of_an_earlier_start_are_ended_and_no_others(self) -> None:
        sleeper = [sys.executable, "-c", "import time; time.sleep(300)"]
        ours, orphan, other = (subprocess.Popen(sleeper) for _ in range(3))
        for one in (ours, orphan, other):
            self.addCleanup(one.wait)
            self.addCleanup(one.kill)
            leftovers.note_process(one.pid)
        place = self.folder / "processes"
        # The orphan's starter is gone; the other number has been given to another process since.
        told = json.loads((place / str(orphan.pid)).read_text())
        (place / str(orphan.pid)).write_text(
            json.dumps({**told, "by": 2**22 + 1, "by_started": "5"})
        )
        told = json.loads((place / str(other.pid)).read_text())
        (place / str(other.pid)).write_text(json.dumps({**told, "started": "5", "by": 2**22 + 1, "by_started": "5"}))  # fmt: skip
        (place / "rubbish").write_text("{")
        self.assertEqual(leftovers.end_processes(), 1)
        self.assertEqual(orphan.wait(10), -signal.SIGKILL)
        self.assertIsNone(ours.poll())
        self.assertIsNone(other.poll())
        self.assertEqual([p.name for p in place.iterdir()], [str(ours.pid)])

    def test_a_worker_ends_with_a_server_that_is_killed(self) -> None:
        begin = (
            "import os, sys, time, multiprocessing as m\n"
            "from retouch.face.worker import prepare, run\n"
            "from concurrent.futures import ProcessPoolExecutor\n"
            "if __name__ == '__main__':\n"
            "    c = m.get_context('spawn'); q = c.SimpleQueue()\n"
            "    pool = ProcessPoolExecutor(1, c, prepare, (q, os.getpid())); pool.submit(time.sleep, 300)\n"
            "    print(int(q.get()[1]), flush=True); time.sleep(300)\n"
        )
        script = self.folder / "begin.py"
        script.write_text(begin)
        root = Path(__file__).resolve().parents[2]
        server = subprocess.Popen(
            [sys.executable, str(script)], stdout=subprocess.PIPE, text=True, cwd=root,
            env={**os.environ, "PYTHONPATH": str(root)},
        )  # fmt: skip
        self.addCleanup(server.wait)
        assert server.stdout is not None
        self.addCleanup(server.stdout.close)
        worker = int(server.stdout.readline())
        self.assertTrue(started_at(worker))
        server.kill()
        end = time.monotonic() + 20
        while Path(f"/proc/{worker}").exists() and _state(worker) != "Z":
            self.assertLess(time.monotonic(), end, "it outlives its server")
            time.sleep(0.05)


def _state(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return "Z"


class Shares(unittest.TestCase):
    def test_everybodys_turn_comes(self) -> None:
        line, gate, order = Line("test", most=5), threading.Event(), []
        done = threading.Event()
        line.submit(1, lambda: gate.wait(20) and None)  # type: ignore[func-returns-value]
        for n in range(4):
            line.submit(1, lambda n=n: order.append(f"first {n}"))  # type: ignore[misc]
        line.submit(2, lambda: order.append("second"))
        line.submit(2, lambda: done.set())
        with self.assertRaisesRegex(Problem, "Up to 5 can wait"):
            line.check(1, 2)
        line.check(3, 5)
        gate.set()
        self.assertTrue(done.wait(20))
        self.assertIn("second", order[:2])


class UnderAttack(unittest.TestCase):
    def test_one_address_leaves_threads_to_another(self) -> None:
        """Forty sign-ins at once from one address; another is served meanwhile, each time."""
        with TemporaryDirectory() as folder, serving(Path(folder)) as port:
            _, body, headers = ask(port, "GET", "/api/session")
            token, cookie = json.loads(body)["csrf_token"], headers["Set-Cookie"].split(";")[0]
            said: list[int] = []

            def attack(n: int) -> None:
                given = json.dumps({"username": f"u{n}", "password": "wrong"}).encode()
                said.append(ask(port, "POST", "/api/session", given, Cookie=cookie, X_CSRFToken=token, Content_Type="application/json")[0])  # fmt: skip

            threads = [threading.Thread(target=attack, args=(n,)) for n in range(40)]
            for one in threads:
                one.start()
            for _ in range(10):
                self.assertEqual(ask(port, "GET", "/api/session")[0], 200)
            for one in threads:
                one.join(WAIT_S)
            # Wrong, too many at once, or to wait: each is told.
            self.assertEqual(set(said) - {400, 429}, set())
            self.assertIn(429, said)


class DamagedAnalyses(StudioTest):
    def test_whatever_lies_in_an_analysis_place_is_made_anew(self) -> None:
        one = self.demo("eli")
        path = analysing.file_of(one.id, desk.edit_of(one))
        whole = path.read_bytes()

        def cut() -> None:
            path.write_bytes(whole[:1000])

        def folder() -> None:
            path.unlink()
            (path / "inside").mkdir(parents=True)

        for break_it in (cut, folder):
            break_it()
            analysing._kept().drop(str(path))
            told = self.client.get(f"/api/portraits/{one.id}/analysis")
            self.assertEqual(told.status_code, 200, told.content)
            self.assertEqual(self.client.post(f"/api/portraits/{one.id}/analysis").status_code, 200)
            self.wait_until(lambda: analysing.status(one).state == "done", 120)
            self.assertEqual(
                len(self.client.get(f"/api/portraits/{one.id}/analysis").json()["faces"]), 1
            )


class Quota(StudioTest):
    def test_a_user_has_so_much_room_and_no_more(self) -> None:
        data = portrait_file()
        with override_settings(QUOTA_BYTES=int(2.5 * len(data))):
            for expected in (201, 201, 507):
                answer = self.upload(data, "a.png")
                self.assertEqual(answer.status_code, expected)
            self.assertIn("there is no room for this one", answer.json()["message"])
            # Another one's room is theirs.
            other = Client()
            other.force_login(self.other)
            file = SimpleUploadedFile("b.png", data)
            self.assertEqual(other.post("/api/portraits", {"file": file}).status_code, 201)
        self.assertEqual(len(list(Path(settings.ORIGINALS_DIR).iterdir())), 3)

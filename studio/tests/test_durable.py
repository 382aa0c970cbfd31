"""Nothing that was acknowledged is lost: by kills at random moments, by backup and restore."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import threading
import unittest
from pathlib import Path

from studio.tests.base import portrait_file
from studio.tests.killing import Studio, killed, problems
from studio.tests.test_serving import ROOT, begin, serving, surroundings

SECONDS = float(os.environ.get("MELLOW_GLASS_KILL_SECONDS", "45"))


class Killed(unittest.TestCase):
    def test_a_server_killed_at_random_moments_loses_nothing(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            known = killed(
                Path(folder), SECONDS, seed=int(os.environ.get("MELLOW_GLASS_KILL_SEED", "7"))
            )
            self.assertTrue(known.enough, known)
            self.assertEqual(problems(Path(folder), known), [])


class Kept(unittest.TestCase):
    def manage(self, folder: Path, *words: str) -> tuple[int, str]:
        done = subprocess.run(
            [sys.executable, "manage.py", *words], cwd=ROOT, env=surroundings(folder),
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        return done.returncode, done.stdout + done.stderr

    def test_a_backup_while_in_use_is_whole_and_comes_back_elsewhere(self) -> None:
        base = Path(self.enterContext(tempfile.TemporaryDirectory()))
        data, copy, elsewhere = base / "data", base / "copy", base / "elsewhere"
        with serving(data) as port:
            studio = Studio(port)
            ids = [studio.upload(portrait_file())["id"] for _ in range(3)]
            stop = threading.Event()

            def busy() -> None:
                revision = 0
                while not stop.is_set():
                    touch = {"path": [[60.0 + revision % 50, 60.0]], "values": {"radius_px": 8.0}}
                    made = studio.send(
                        "POST", f"/portraits/{ids[0]}/gestures",
                        {"revision": revision, "operation": {"op": "add_touch", "kind": "heal", "touch": touch}},
                    )  # fmt: skip
                    revision = made["revision"] if made else revision

            hand = threading.Thread(target=busy)
            hand.start()
            for expected in ("3 originals copied", "0 originals copied"):
                status, said = self.manage(data, "backup", str(copy))
                self.assertEqual(status, 0, said)
                self.assertIn(expected, said)
            # A folder that a studio uses isn't given another one's data, nor another studio.
            status, said = self.manage(data, "restore", str(copy), "--replace")
            self.assertEqual(status, 1)
            self.assertIn("runs already", said)
            again = subprocess.run(
                [sys.executable, "-m", "studio.serving", "--port", "1"], cwd=ROOT, env=surroundings(data),
                capture_output=True, text=True, check=False, timeout=60,
            )  # fmt: skip
            self.assertIn("runs already", again.stderr)
            stop.set()
            hand.join(30)
            now = studio.send("GET", f"/portraits/{ids[0]}/desk")["portrait"]["revision"]
        self.assertEqual(self.manage(elsewhere, "restore", str(copy))[0], 0)
        process, port = begin(surroundings(elsewhere))
        try:
            back = Studio(port)
            for one in ids:
                self.assertEqual(back.send("GET", f"/portraits/{one}/desk")["portrait"]["id"], one)
            revision = back.send("GET", f"/portraits/{ids[0]}/desk")["portrait"]["revision"]
            self.assertGreater(revision, 0)
            self.assertLessEqual(revision, now)
        finally:
            process.terminate()
            process.wait(30)
        self.assertEqual([p for p in copy.rglob("*") if p.stat().st_mode & 0o077], [])

    def test_what_is_damaged_or_in_the_way_is_refused_and_nothing_is_changed(self) -> None:
        base = Path(self.enterContext(tempfile.TemporaryDirectory()))
        data, copy = base / "data", base / "copy"
        with serving(data) as port:
            one = Studio(port).upload(portrait_file())["id"]
            self.assertEqual(self.manage(data, "backup", str(copy))[0], 0)
        for folder, words in (
            (data, "outside of the data folder"),
            (data / "in", "outside of the data"),
        ):
            status, said = self.manage(data, "backup", str(folder))
            self.assertIn(words, said)
            self.assertEqual(status, 1)
        self.assertIn("no backup", self.manage(data, "restore", str(base / "none"))[1])
        self.assertIn("--replace", self.manage(data, "restore", str(copy))[1])
        original = next((copy / "originals" / one).iterdir())
        whole = original.read_bytes()
        original.write_bytes(whole[:-1])
        self.assertIn(
            "1 originals are missing or changed",
            self.manage(data, "restore", str(copy), "--replace")[1],
        )
        original.write_bytes(whole)
        database = copy / "mellow-glass.sqlite3"
        kept = database.read_bytes()
        database.write_bytes(kept[:5000])
        self.assertIn("damaged", self.manage(data, "restore", str(copy), "--replace")[1])
        database.write_bytes(kept)
        about = json.loads((copy / "backup.json").read_text())
        (copy / "backup.json").write_text(json.dumps({**about, "version": 9}))
        self.assertIn("no backup", self.manage(data, "restore", str(copy), "--replace")[1])
        (copy / "backup.json").write_text(json.dumps(about))
        # What was there is put aside, not away.
        self.assertEqual(self.manage(data, "restore", str(copy), "--replace")[0], 0)
        self.assertTrue((data / "before-restore" / "mellow-glass.sqlite3").exists())
        # Originals that are gone are told by the backup, and the rest is in it.
        (data / "originals" / one / original.name).unlink()
        status, said = self.manage(data, "backup", str(base / "second"))
        self.assertEqual(status, 1)
        self.assertIn("1 originals are missing", said)
        self.assertIn(
            "1 portraits are back", self.manage(base / "third", "restore", str(base / "second"))[1]
        )

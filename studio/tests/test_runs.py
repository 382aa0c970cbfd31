"""Routines and runs through the API: kept, carried out, looked through, delivered; killed and gone on with."""

from __future__ import annotations

import io
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

import cv2
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings

from retouch.edit.routine import Routine, RoutineStep
from retouch.forms.routines import routine_dumps
from retouch.render import render_whole
from retouch.runs.orders import Order
from retouch.runs.work import carry_out
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import desk
from studio.runs.models import RunItem
from studio.runs.services import running
from studio.tests.base import DEMO, StudioTest

TONED = Routine("Toned", (RoutineStep("split_toning", {"lights_amount": 40.0}),), "Warm.")


def small(name: str, width: int = 420) -> bytes:
    """A demo portrait, reduced."""
    image = cv2.imread(str(DEMO / f"{name}.jpg"))
    height = round(image.shape[0] * width / image.shape[1])
    reduced = cv2.resize(image, (width, height), interpolation=cv2.INTER_AREA)
    return cv2.imencode(".png", reduced)[1].tobytes()


class RunTest(StudioTest):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.addClassCleanup(running.runner.stop)

    def keep(self, routine: Routine = TONED) -> str:
        file = SimpleUploadedFile("r.json", routine_dumps(routine).encode())
        answer = self.client.post("/api/routines", {"file": file})
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["routine"]["name"])

    def run_over(self, portraits: list[Portrait], **more: Any) -> str:
        body = {"portraits": [p.id for p in portraits], "routine": "everyday", **more}
        answer = self.send("POST", "/runs", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["id"])

    def told(self, run: str) -> Any:
        return self.client.get(f"/api/runs/{run}").json()

    def items(self, run: str, **query: Any) -> Any:
        return self.client.get(f"/api/runs/{run}/items", query).json()["items"]

    def ended(self, run: str) -> Any:
        self.wait_until(lambda: self.told(run)["state"] != "going", 120)
        return self.told(run)


class Routines(RunTest):
    def test_what_was_done_becomes_a_routine_of_ones_own(self) -> None:
        one = self.take_in()
        self.gesture(
            one.id, 0, op="add_pass", kind="split_toning", settings={"lights_amount": 30.0}
        )
        self.heal(one.id, 1, 60, 60)
        tried = self.send(
            "POST", f"/portraits/{one.id}/learn", {"title": "Mine", "keep": False}
        ).json()
        self.assertEqual((tried["name"], tried["steps"]), ("", ["Split toning"]))
        self.assertIn("by hand", tried["left_out"][0])
        kept = self.send(
            "POST",
            f"/portraits/{one.id}/learn",
            {"title": " My  own ", "note": "n", "deliveries": ["Gallery"]},
        ).json()
        listed = {r["title"]: r for r in self.client.get("/api/routines").json()}
        self.assertTrue(listed["My own"]["own"])
        self.assertEqual(listed["My own"]["deliveries"], ["Gallery"])
        self.assertFalse(listed["Everyday"]["own"])
        changed = self.send(
            "PATCH", f"/routines/{kept['name']}", {"title": "Evening", "spots_from": 70}
        ).json()
        self.assertEqual(
            (changed["title"], changed["spots_from"], changed["revision"]), ("Evening", 70, 2)
        )
        copied = self.send("POST", "/routines/everyday/copy").json()
        self.assertEqual((copied["title"], copied["own"]), ("Everyday copy", True))
        # Carried as a file, and taken in again.
        file = self.client.get(f"/api/routines/{kept['name']}/file").content
        back = self.client.post(
            "/api/routines", {"file": SimpleUploadedFile("e.json", file)}
        ).json()
        self.assertEqual(back["routine"]["steps"], ["Split toning"])
        self.assertEqual(back["routine"]["deliveries"], ["Gallery"])
        # Deleted, and taken back.
        self.assertEqual(self.send("DELETE", f"/routines/{kept['name']}").status_code, 204)
        self.assertEqual(self.send("GET", f"/routines/{kept['name']}/file").status_code, 404)
        self.assertEqual(
            self.send("POST", f"/routines/{kept['name']}/restore").json()["title"], "Evening"
        )

    def test_what_is_no_routine_and_what_is_another_users_is_refused(self) -> None:
        for data in (
            b"",
            b"{}",
            b"\xff\xfe",
            json.dumps({"format": "mellow-glass-routine", "version": 9}).encode(),
        ):
            answer = self.client.post("/api/routines", {"file": SimpleUploadedFile("r.json", data)})
            self.assertEqual(answer.status_code, 422, data)
        name = self.keep()
        one = self.take_in()
        for title in ("", " ", "x" * 81):
            answer = self.send("POST", f"/portraits/{one.id}/learn", {"title": title})
            self.assertEqual(answer.status_code, 422)
        self.client.force_login(self.other)
        for method, path in (
            ("GET", f"/routines/{name}/file"), ("PATCH", f"/routines/{name}"), ("DELETE", f"/routines/{name}"),
            ("POST", f"/routines/{name}/copy"), ("POST", f"/portraits/{one.id}/learn"),
            ("GET", f"/portraits/{one.id}/routines/everyday/foreseen"),
        ):  # fmt: skip
            self.assertEqual(
                self.send(method, path, {"title": "x"} if method != "GET" else None).status_code,
                404,
                path,
            )

    def test_it_is_told_and_shown_before_it_acts(self) -> None:
        one = self.demo("ana")
        told = self.client.get(f"/api/portraits/{one.id}/routines/bright/foreseen").json()
        teeth = next(t for t in told if t["title"] == "Teeth")
        self.assertEqual((teeth["acts"], teeth["why"]), (False, "the mouth is closed"))
        for name in (self.keep(), "everyday"):
            sample = self.client.get(f"/api/portraits/{one.id}/routines/{name}/sample")
            self.assertEqual(sample["Content-Type"], "image/jpeg")


class Runs(RunTest):
    def test_how_far_each_picture_is_is_told_while_it_is_worked_on(self) -> None:
        one = self.take_in(small("eli", 1200), "eli.png")
        run = self.run_over([one])
        seen: list[tuple[float, str]] = []

        def look() -> bool:
            (item,) = self.items(run)
            if item["share"] is not None:
                seen.append((item["share"], item["doing"]))
            return item["state"] not in ("waiting", "working")

        self.wait_until(look, 120)
        self.assertEqual(self.ended(run)["done"], 1)
        self.assertGreater(len({doing for _, doing in seen}), 1, seen)
        shares = [share for share, _ in seen]
        self.assertEqual(sorted(shares), shares)
        (item,) = self.items(run)
        self.assertEqual((item["share"], item["doing"]), (None, ""))

    def test_a_run_is_carried_out_reviewed_and_delivered(self) -> None:
        ones = [self.take_in(small(n, 700), f"{n}.png") for n in ("eli", "kofi")]
        broken = self.take_in(small("ana", 700), "broken.png")
        broken.original.write_bytes(b"no picture any more")
        run = self.run_over([ones[0], broken, ones[1]], strength=60)
        told = self.ended(run)
        self.assertEqual((told["done"], told["failed"], told["state"]), (2, 1, "done"))
        items = self.items(run)
        # What failed needs eyes first, with a plain reason.
        self.assertEqual(items[0]["number"], 1)
        self.assertIn("changed", items[0]["message"])
        self.assertGreater(items[1]["faces"], 0)
        self.assertIsNotNone(items[1]["texture"])
        # Ordinary passes, which give the pixels that the core gives by itself.
        portrait = Portrait.objects.get(pk=ones[0].pk)
        edit = desk.edit_of(portrait)
        self.assertTrue(any(p.bound is not None and p.bound.strength == 60 for p in edit.passes))
        entry = HistoryEntry.objects.get(portrait=portrait)
        self.assertTrue(entry.label.startswith("Run: Everyday"))
        row = RunItem.objects.get(run=run, number=0).run
        alone = carry_out(Order("x", str(portrait.original), routine=row.routine, strength=60.0))
        from retouch.forms.form import from_data

        renderer = desk.renderer_of(portrait)
        same = [render_whole(renderer, e).pixels.tobytes() for e in (edit, from_data(alone.edit))]
        self.assertEqual(same[0], same[1])
        # Eased as one step with the run, accepted, undone, delivered.
        eased = self.send("POST", f"/runs/{run}/review/ease", {"strength": 25}).json()
        self.assertEqual(eased, {"eased": 2, "left": 0})
        strengths = {
            p.bound.strength
            for p in desk.edit_of(Portrait.objects.get(pk=ones[0].pk)).passes
            if p.bound
        }
        self.assertEqual(strengths, {25})
        self.assertEqual(HistoryEntry.objects.filter(portrait=portrait).count(), 1)
        accepted = self.send("POST", f"/runs/{run}/review/accept", {"numbers": [0]}).json()
        self.assertEqual(accepted["accepted"], 1)
        undone = self.send("POST", f"/runs/{run}/items/2/undo")
        self.assertEqual(undone.json()["review"], "undone")
        self.assertEqual(desk.edit_of(Portrait.objects.get(pk=ones[1].pk)).passes, ())
        self.assertEqual(self.send("POST", f"/runs/{run}/items/2/undo").status_code, 409)
        begun = self.send(
            "POST", f"/runs/{run}/review/deliver", {"wish": {"format": "jpeg"}}
        ).json()
        ids = [d["id"] for d in begun["deliveries"]]
        self.assertEqual(len(ids), 1)
        self.wait_until(
            lambda: self.client.get(f"/api/deliveries/{ids[0]}").json()["state"] == "done", 60
        )
        listed = self.client.get(f"/api/deliveries-batch?batch={begun['batch']}").json()
        self.assertEqual([d["id"] for d in listed], ids)
        self.assertEqual(self.client.get("/api/deliveries-batch?batch=").status_code, 404)
        packed = self.client.get(f"/api/deliveries-packed?batch={begun['batch']}")
        with zipfile.ZipFile(io.BytesIO(b"".join(packed.streaming_content))) as file:  # type: ignore[attr-defined]
            self.assertEqual(file.namelist(), ["eli retouched.jpg"])
        # The broken one, mended, is tried again.
        broken.original.write_bytes(small("ana", 700))
        self.assertEqual(
            self.send("POST", f"/runs/{run}/retry", {"numbers": [1]}).json()["failed"], 0
        )
        self.assertEqual(self.ended(run)["failed"], 0)

    def test_paused_cancelled_put_first(self) -> None:
        ones = [self.take_in(small("eli"), "a.png") for _ in range(3)]
        first = self.run_over(ones[:1])
        self.send("POST", f"/runs/{first}/pause")
        second = self.run_over(ones[1:])
        self.ended(second)
        told = self.told(first)
        self.assertIn(told["state"], ("paused", "done"))
        self.send("POST", f"/runs/{first}/go-on")
        self.assertEqual(self.ended(first)["done"], 1)
        third = self.run_over(ones)
        cancelled = self.send("POST", f"/runs/{third}/cancel").json()
        self.assertEqual((cancelled["waiting"], cancelled["working"]), (0, 0))
        self.wait_until(lambda: running.runner._thread is None, 60)
        self.assertEqual(self.told(third)["state"], "cancelled")
        # Under way when it was cancelled: its result isn't kept.
        done = {i["number"] for i in self.items(third) if i["state"] == "done"}
        for n, one in enumerate(ones):
            entries = HistoryEntry.objects.filter(portrait=one).count()
            self.assertEqual(entries, 1 + (n in done))

    def test_a_scheduler_that_cannot_be_reached_pauses_the_run(self) -> None:
        one = self.take_in(small("eli"), "a.png")
        with (
            override_settings(SCHEDULER="tcp://127.0.0.1:9"),
            mock.patch("studio.runs.services.running._PAUSE_S", 0.01),
            self.assertLogs("studio.runs.services.running", "ERROR"),
        ):
            run = self.run_over([one])
            self.wait_until(lambda: self.told(run)["state"] == "paused", 90)
        self.assertEqual(self.told(run)["waiting"], 1)
        self.wait_until(lambda: running.runner._thread is None, 30)
        self.send("POST", f"/runs/{run}/go-on")
        self.assertEqual(self.ended(run)["done"], 1)

    def test_a_portrait_that_is_worked_on_meanwhile_keeps_both(self) -> None:
        one = self.take_in(small("eli"), "a.png")
        run = self.run_over([one])
        self.wait_until(lambda: RunItem.objects.filter(state="working").exists(), 60)
        self.assertEqual(self.heal(one.id, 0, 60, 60).status_code, 200)
        self.assertEqual(self.ended(run)["done"], 1)
        labels = list(HistoryEntry.objects.filter(portrait=one).values_list("label", flat=True))
        self.assertEqual(len(labels), 2)
        self.assertTrue(labels[1].startswith("Run:"))

    def test_what_cannot_be_run_is_refused(self) -> None:
        one, theirs = self.take_in(), self.take_in(user=self.other)
        for body, status in (
            ({"portraits": [], "routine": "light"}, 422), ({"portraits": [one.id], "routine": "none"}, 404),
            ({"portraits": [one.id, theirs.id], "routine": "light"}, 404),
            ({"portraits": [one.id], "routine": "no-glasses"}, 422),
            ({"portraits": [one.id], "routine": "light", "strength": 101}, 422),
        ):  # fmt: skip
            self.assertEqual(self.send("POST", "/runs", body).status_code, status, body)
        run = self.run_over([one])
        self.client.force_login(self.other)
        for method, path in (
            ("GET", f"/runs/{run}"), ("GET", f"/runs/{run}/items"), ("POST", f"/runs/{run}/cancel"),
            ("POST", f"/runs/{run}/items/0/undo"), ("POST", f"/runs/{run}/review/accept"),
        ):  # fmt: skip
            self.assertEqual(
                self.send(method, path, {} if method == "POST" else None).status_code, 404, path
            )
        self.assertEqual(self.client.get("/api/runs").json(), [])


_SERVER = """
import os, django
django.setup()
from studio.portraits.services import analysing, delivering
from studio.runs.models import Run, RunItem
from studio.runs.services import running
import time
running.resume()
while RunItem.objects.filter(state__in=("waiting", "working")).exists():
    time.sleep(0.05)
"""
_BEGIN = """
import io, sys, django
django.setup()
from django.contrib.auth import get_user_model
from django.core.management import call_command
call_command("migrate", verbosity=0)
from pathlib import Path
from studio.portraits.services import library
from studio.runs.services import running
running.runner.wake = lambda: None
user = get_user_model().objects.create_user("mira")
data = Path(sys.argv[1]).read_bytes()
ones = [library.take_in(user, io.BytesIO(data), f"{n}.png", len(data)) for n in range(8)]
running.start(user, [p.id for p in ones], "light", 50.0, None, "")
"""
_READ = """
import django, json
django.setup()
from studio.portraits.models import HistoryEntry
from studio.runs.models import RunItem
print(json.dumps([list(RunItem.objects.values_list("state", flat=True)),
                  list(HistoryEntry.objects.values_list("portrait_id", flat=True))]))
"""


class Killed(RunTest):
    def test_a_server_killed_again_and_again_does_each_portrait_once(self) -> None:
        folder = Path(tempfile.mkdtemp())
        (folder / "one.png").write_bytes(small("eli", 320))
        env = {
            **os.environ,
            "MELLOW_GLASS_DATA": str(folder / "data"),
            "DJANGO_SETTINGS_MODULE": "studio.settings",
        }
        (folder / "data").mkdir()

        def python(code: str, *more: str) -> subprocess.Popen[str]:
            command = [sys.executable, "-c", code, *more]
            return subprocess.Popen(command, cwd=settings.BASE_DIR, env=env, stdout=subprocess.PIPE, text=True, start_new_session=True)  # fmt: skip

        begin = python(_BEGIN, str(folder / "one.png"))
        self.assertEqual(begin.wait(120), 0)
        begin.communicate()
        chance, kills = random.Random(3), 0
        for _ in range(30):
            server = python(_SERVER)
            if kills < 6:
                time.sleep(chance.uniform(2.0, 5.5))
                if server.poll() is None:
                    server.send_signal(signal.SIGKILL)
                    kills += 1
            else:
                server.wait(120)
            server.communicate()
            if server.returncode == 0:
                break
        reader = python(_READ)
        states, entries = json.loads(reader.communicate(timeout=60)[0])
        self.assertGreater(kills, 0)
        self.assertEqual(states, ["done"] * 8)
        self.assertEqual(len(entries), 8)
        self.assertEqual(len(set(entries)), 8)

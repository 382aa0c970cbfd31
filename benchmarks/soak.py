"""A scripted retoucher at work for a long time, and two at once: growth of memory, handles and files; views beside
another's.
"""

from __future__ import annotations

import json
import os
import statistics
import tempfile
import threading
import time
import urllib.request
from dataclasses import dataclass, field
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import numpy as np

from benchmarks.latency import server

# Minutes of work; the longer run is asked for by this variable.
_MINUTES = float(os.environ.get("MELLOW_GLASS_SOAK_MINUTES", "30"))
# So little is kept of pictures that it is full early: growth afterwards is of something else.
_KEPT_MB = 150
_VIEW = 700, 520
_ROUNDS = 60
_LOAD = (
    "import django; django.setup()\n"
    "from django.core.management import call_command\n"
    "call_command('load_demo', verbosity=0)\n"
)


class Retoucher:
    """Somebody who works on one portrait after the other, through the interface of the server."""

    def __init__(self, url: str, seed: int) -> None:
        self._url = url
        self._jar = CookieJar()
        self._open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self._jar))
        self._rng = np.random.default_rng(seed)
        self._token = json.loads(self._ask("/api/session"))["csrf_token"]
        self.views: list[float] = []
        self._number = 0

    def _ask(self, path: str, body: Any = None) -> bytes:
        request = urllib.request.Request(self._url + path)
        if body is not None:
            request.data = json.dumps(body).encode()
            request.add_header("Content-Type", "application/json")
            request.add_header("X-CSRFToken", self._token)
        with self._open.open(request, timeout=300) as answer:
            return bytes(answer.read())

    def portraits(self) -> list[dict[str, Any]]:
        return list(json.loads(self._ask("/api/portraits")))

    def view(self, portrait: dict[str, Any]) -> None:
        """A view of a place, at some zoom."""
        scale = float(self._rng.choice([0.25, 0.5, 1.0]))
        w, h = _VIEW[0] / scale, _VIEW[1] / scale
        x = self._rng.uniform(0, max(portrait["width"] - w, 1))
        y = self._rng.uniform(0, max(portrait["height"] - h, 1))
        self._number += 1
        query = urlencode(
            {"x": round(x), "y": round(y), "scale": scale, "width": _VIEW[0], "height": _VIEW[1]}
        )
        begun = time.perf_counter()
        self._ask(f"/api/portraits/{portrait['id']}/view?{query}")
        self.views.append(time.perf_counter() - begun)

    def work(self, portrait: dict[str, Any]) -> None:
        """Heals, a slider, a stroke on its mask, back and forth in the history, the check, a file now and then."""
        base = f"/api/portraits/{portrait['id']}"
        desk = json.loads(self._ask(f"{base}/desk"))
        revision = desk["portrait"]["revision"]

        def send(operation: dict[str, Any]) -> dict[str, Any]:
            nonlocal revision
            answer = json.loads(
                self._ask(f"{base}/gestures", {"revision": revision, "operation": operation})
            )
            revision = answer["revision"]
            return dict(answer)

        def place() -> list[float]:
            a, b = self._rng.uniform(0.35, 0.65, 2)
            return [float(a * portrait["width"]), float(b * portrait["height"])]

        for _ in range(4):
            touch = {"path": [place()], "values": {"radius_px": 12}}
            send({"op": "add_touch", "kind": "heal", "touch": touch})
            self.view(portrait)
        light = send({"op": "add_pass", "kind": "light"})["pass_id"]
        for k in range(4):
            send({"op": "change_pass", "id": light, "settings": {"exposure_ev": 0.02 * k}})
            self.view(portrait)
        stroke = {"path": [place(), place()], "radius_px": 60, "softness": 80, "flow": 40}
        send({"op": "paint_mask", "pass_id": light, "stroke": stroke})
        self.view(portrait)
        at = json.loads(self._ask(f"{base}/desk"))["history"]["at"]
        for to in (at - 1, at):
            answer = json.loads(self._ask(f"{base}/history", {"revision": revision, "to": to}))
            revision = answer["revision"]
            self.view(portrait)
        send({"op": "remove_pass", "id": light})


@dataclass
class _Samples:
    """The server's memory (MB), open handles and files in its folder, by time."""

    memory: list[float] = field(default_factory=list)
    handles: list[int] = field(default_factory=list)
    files: list[int] = field(default_factory=list)

    def take(self, pid: int, folder: Path) -> None:
        status = Path(f"/proc/{pid}/status").read_text()
        rss = next(line for line in status.splitlines() if line.startswith("VmRSS"))
        self.memory.append(int(rss.split()[1]) / 1024)
        self.handles.append(len(os.listdir(f"/proc/{pid}/fd")))
        self.files.append(sum(1 for f in folder.rglob("*") if f.is_file()))


def _server_of(folder: Path) -> int:
    wanted = os.fsencode(f"MELLOW_GLASS_DATA={folder}")
    for one in Path("/proc").iterdir():
        try:
            command = (one / "cmdline").read_bytes()
            if b"studio.serving" in command and wanted in (one / "environ").read_bytes():
                return int(one.name)
        except OSError:
            continue
    raise RuntimeError("The server isn't there.")


def soak(minutes: float = _MINUTES) -> str:
    """One retoucher for so long: what the server takes in the second and in the last fifth of the time."""
    samples = _Samples()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with server(folder, _LOAD, MELLOW_GLASS_MEMORY_MB=str(_KEPT_MB)) as url:
            pid, somebody = _server_of(folder), Retoucher(url, 1)
            portraits = somebody.portraits()
            end, gestures, n = time.monotonic() + 60 * minutes, 0, 0
            while time.monotonic() < end:
                somebody.work(portraits[n % len(portraits)])
                n, gestures = n + 1, gestures + 11
                samples.take(pid, folder)
    fifth = max(1, len(samples.memory) // 5)
    lines = [
        f"| {minutes:.0f} minutes, {gestures} gestures, {len(somebody.views)} views | second fifth | last fifth |",
        "|---|---|---|",
    ]
    for title, values in (
        ("memory, MB", samples.memory),
        ("open handles", samples.handles),
        ("files in the data folder", samples.files),
    ):
        early, late = values[fifth : 2 * fifth], values[-fifth:]
        lines.append(
            f"| {title} | {statistics.median(early):.0f} | {statistics.median(late):.0f} |"
        )
    return "\n".join(lines)


def together() -> str:
    """Views of one retoucher alone, and of two at once on two portraits."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with server(folder, _LOAD) as url:
            one, other = Retoucher(url, 1), Retoucher(url, 2)
            first, second = one.portraits()[:2]
            for somebody, portrait in ((one, first), (other, second)):
                somebody.work(portrait)
            one.views.clear()
            for _ in range(_ROUNDS):
                one.view(first)
            alone = one.views
            one.views = []
            done = threading.Event()

            def beside() -> None:
                while not done.is_set():
                    other.view(second)

            thread = threading.Thread(target=beside)
            thread.start()
            for _ in range(_ROUNDS):
                one.view(first)
            done.set()
            thread.join()
    lines = ["| a view of 700 x 520 | median ms | 95 % |", "|---|---|---|"]
    for title, views in (
        ("one retoucher alone", alone),
        ("beside another on another portrait", one.views),
    ):
        lines.append(
            f"| {title} | {1000 * statistics.median(views):.0f} | {1000 * np.percentile(views, 95):.0f} |"
        )
    ratio = statistics.median(one.views) / statistics.median(alone)
    lines.append(f"| times as long (aim 2) | {ratio:.2f} | |")
    return "\n".join(lines)


def table() -> str:
    """Both, the longer one last."""
    text = f"{together()}\n\n{soak()}"
    print(text, flush=True)
    return text

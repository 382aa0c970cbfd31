"""Views of one person while another address attacks the studio, beside the same views alone."""

from __future__ import annotations

import http.client
import json
import multiprocessing
import random
import socket
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from benchmarks.latency import server
from benchmarks.scoring import DEMO

_FROM = "127.0.0.2"
_VIEWS = 60
_PASSWORD = "quiet-lamp-91"


class _Visitor:
    """Requests from an address of this machine, signed in if a name is given."""

    def __init__(self, port: int, address: str, name: str = "") -> None:
        self._port, self._address = port, address
        self.headers: dict[str, str] = {}
        _, body, headers = self.ask("GET", "/api/session")
        self.headers = {"X-CSRFToken": json.loads(body)["csrf_token"], "Cookie": _cookies(headers)}
        if name:
            _, body, headers = self.ask(
                "POST", "/api/session", json.dumps({"username": name, "password": _PASSWORD})
            )
            self.headers = {
                "X-CSRFToken": json.loads(body)["csrf_token"],
                "Cookie": _cookies(headers),
            }

    def ask(self, method: str, path: str, body: str | None = None) -> tuple[int, bytes, http.client.HTTPMessage]:  # fmt: skip
        connection = http.client.HTTPConnection("127.0.0.1", self._port, 120, (self._address, 0))
        try:
            more = {"Content-Type": "application/json"} if body else {}
            connection.request(method, path, body, {**self.headers, **more})
            answer = connection.getresponse()
            return answer.status, answer.read(), answer.headers
        finally:
            connection.close()


def _cookies(headers: http.client.HTTPMessage) -> str:
    return "; ".join(c.split(";")[0] for c in headers.get_all("Set-Cookie") or ())


def _views(visitor: _Visitor, portrait: str, count: int, rng: random.Random) -> list[float]:
    """Milliseconds of views at places that nobody has asked for yet."""
    out = []
    for _ in range(count):
        path = (
            f"/api/portraits/{portrait}/view?x={rng.randrange(700)}&y={rng.randrange(900)}"
            "&scale=0.8&width=900&height=700"
        )
        start = time.perf_counter()
        status, _, _ = visitor.ask("GET", path)
        assert status == 200, status
        out.append(1000 * (time.perf_counter() - start))
    return out


def _attack(port: int, portrait: str, seconds: float) -> None:
    """Strangers with unfinished requests and wrong passwords, and a user who asks for all at once."""
    stop = threading.Event()
    stranger, user = _Visitor(port, _FROM), _Visitor(port, _FROM, "mallory")

    def unfinished() -> None:
        while not stop.is_set():
            with socket.create_connection(("127.0.0.1", port), 60, (_FROM, 0)) as one:
                one.sendall(
                    b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500\r\n\r\n{"
                )
                stop.wait(3)

    def guessing() -> None:
        while not stop.is_set():
            body = json.dumps({"username": f"u{random.random()}", "password": "wrong"})
            stranger.ask("POST", "/api/session", body)

    def looking() -> None:
        rng = random.Random()
        while not stop.is_set():
            _views(user, portrait, 1, rng)

    def whole(work: Callable[[], None]) -> Callable[[], None]:
        def run() -> None:
            while not stop.is_set():
                try:
                    work()
                except (OSError, http.client.HTTPException):
                    stop.wait(0.1)

        return run

    works = [*[unfinished] * 20, *[guessing] * 6, *[looking] * 8]
    for work in works:
        threading.Thread(target=whole(work), daemon=True).start()
    time.sleep(seconds)


def _load() -> str:
    paths = {name: str(DEMO / "portraits" / f"{name}.jpg") for name in ("bela", "dan")}
    return (
        "import django; django.setup()\n"
        "from django.contrib.auth import get_user_model\n"
        "from studio.portraits.services import library\n"
        "import os\n"
        "make = get_user_model().objects.create_user\n"
        f"users = make('demo'), make('mallory', password={_PASSWORD!r})\n"
        f"for user, path in zip(users, {list(paths.values())!r}):\n"
        "    library.take_in(user, open(path, 'rb'), 'a.jpg', os.path.getsize(path))\n"
    )


def measure() -> tuple[list[float], list[float]]:
    """Milliseconds of views alone, and under attack."""
    with tempfile.TemporaryDirectory() as folder, server(Path(folder), _load()) as url:
        port = int(url.rsplit(":", 1)[1])
        own, other = _Visitor(port, "127.0.0.1"), _Visitor(port, _FROM, "mallory")
        mine, theirs = (
            json.loads(v.ask("GET", "/api/wall")[1])["portraits"][0]["id"] for v in (own, other)
        )
        # What is asked for first opens the picture; its faces are looked at once.
        for visitor, one in ((own, mine), (other, theirs)):
            _views(visitor, one, 3, random.Random(1))
            while (
                json.loads(visitor.ask("GET", f"/api/portraits/{one}/analysis")[1])["state"]
                != "done"
            ):
                time.sleep(0.5)
        alone = _views(own, mine, _VIEWS, random.Random(2))
        # A process of its own: what it costs to attack isn't the studio's.
        attack = multiprocessing.get_context("spawn").Process(
            target=_attack, args=(port, theirs, 60.0)
        )
        attack.start()
        time.sleep(4)
        under = _views(own, mine, _VIEWS, random.Random(3))
        attack.kill()
        attack.join()
    return alone, under


def table() -> str:
    alone, under = measure()
    ratio = np.percentile(under, 95) / np.percentile(alone, 95)
    lines = [
        "| 60 views of 900 x 700 of a 5 megapixel portrait | median ms | 95 % ms |",
        "|---|---|---|",
        f"| alone | {np.median(alone):.0f} | {np.percentile(alone, 95):.0f} |",
        f"| while another address attacks | {np.median(under):.0f} | {np.percentile(under, 95):.0f} |",
        "",
        f"The 95 % of views take {ratio:.2f} times as long then (aim: at most 2).",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)

"""The server as strangers meet it: slow, many, long and rude."""

from __future__ import annotations

import http.client
import json
import os
import socket
import subprocess
import sys
import time
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from studio.serving.door import STRANGERS_BYTES
from studio.serving.turns import Turns

ROOT = Path(__file__).resolve().parents[2]
WAIT_S = 60


@contextmanager
def serving(folder: Path) -> Iterator[int]:
    """The studio on a free port of its own, with an account *mo* (password *quiet-lamp-91*)."""
    environment = surroundings(folder)
    make_ready(environment)
    process, port = begin(environment)
    try:
        yield port
    finally:
        process.terminate()
        process.wait(30)


def surroundings(folder: Path) -> dict[str, str]:
    """What a studio of its own is started with."""
    environment = {**os.environ, "MELLOW_GLASS_DATA": str(folder)}
    environment.pop("MELLOW_GLASS_DEMO", None)
    return environment


def make_ready(environment: dict[str, str]) -> None:
    """A database with the account."""
    subprocess.run([sys.executable, "manage.py", "migrate", "-v0"], cwd=ROOT, env=environment, check=True)  # fmt: skip
    make = "import django; django.setup()\nfrom django.contrib.auth import get_user_model\nget_user_model().objects.create_user('mo', password='quiet-lamp-91')\n"
    django = {**environment, "DJANGO_SETTINGS_MODULE": "studio.settings"}
    subprocess.run([sys.executable, "-c", make], cwd=ROOT, env=django, check=True)


def begin(environment: dict[str, str]) -> tuple[subprocess.Popen[bytes], int]:
    """A server that answers, and its port."""
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    process = subprocess.Popen([sys.executable, "-m", "studio.serving", "--port", str(port)], cwd=ROOT, env=environment)  # fmt: skip
    end = time.monotonic() + WAIT_S
    while True:
        try:
            socket.create_connection(("127.0.0.1", port), 1).close()
            return process, port
        except OSError:
            if time.monotonic() > end or process.poll() is not None:
                process.kill()
                raise
            time.sleep(0.1)


def ask(port: int, method: str, path: str, body: bytes = b"", **headers: str) -> tuple[int, bytes, http.client.HTTPMessage]:  # fmt: skip
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=WAIT_S)
    try:
        connection.request(method, path, body or None, {k.replace("_", "-"): v for k, v in headers.items()})  # fmt: skip
        answer = connection.getresponse()
        return answer.status, answer.read(), answer.headers
    finally:
        connection.close()


def signed_in(port: int) -> dict[str, str]:
    """Headers of somebody who signed in."""
    _, body, headers = ask(port, "GET", "/api/session")
    token = json.loads(body)["csrf_token"]
    cookie = headers["Set-Cookie"].split(";")[0]
    given = json.dumps({"username": "mo", "password": "quiet-lamp-91"}).encode()
    status, body, headers = ask(
        port, "POST", "/api/session", given, Cookie=cookie, X_CSRFToken=token, Content_Type="application/json",
    )  # fmt: skip
    assert status == 200, body
    cookies = "; ".join(c.split(";")[0] for c in headers.get_all("Set-Cookie") or ())
    return {"Cookie": cookies, "X_CSRFToken": json.loads(body)["csrf_token"]}


class Serving(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(cls.enterClassContext(TemporaryDirectory())) / "data"
        cls.port = cls.enterClassContext(serving(cls.folder))

    def open(self, data: bytes) -> socket.socket:
        one = socket.create_connection(("127.0.0.1", self.port), WAIT_S)
        self.addCleanup(one.close)
        one.sendall(data)
        return one

    def answer(self, one: socket.socket) -> bytes:
        """All that is said until the connection is closed."""
        one.settimeout(WAIT_S)
        said = b""
        while part := one.recv(4096):
            said += part
        return said

    def test_unfinished_requests_keep_nobody_waiting(self) -> None:
        """Sixty connections that never end their head or body, more than there are threads."""
        for n in range(60):
            if n % 2:
                self.open(b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")
            else:
                self.open(
                    b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\n{"
                )
        started = time.monotonic()
        for _ in range(5):
            self.assertEqual(ask(self.port, "GET", "/api/session")[0], 200)
        # They are let go long before they would be given up; this is no claim of speed.
        self.assertLess(time.monotonic() - started, 12)

    def test_a_head_that_does_not_end_is_given_up(self) -> None:
        one = self.open(b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\n")
        one.settimeout(WAIT_S)
        self.assertEqual(one.recv(100), b"")

    def test_strangers_files_are_refused_before_they_arrive(self) -> None:
        one = self.open(
            b"POST /api/portraits HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 50000000\r\n"
            b"Content-Type: multipart/form-data; boundary=x\r\n\r\n"
        )
        said = self.answer(one)
        self.assertIn(b" 401 ", said)
        self.assertIn(b"Sign in first.", said)
        # In pieces of no told length, too.
        piece = b"1000\r\n" + b"x" * 0x1000 + b"\r\n"
        one = self.open(
            b"POST /api/portraits HTTP/1.1\r\nHost: 127.0.0.1\r\nTransfer-Encoding: chunked\r\n\r\n"
        )
        one.settimeout(WAIT_S)
        try:
            for _ in range(2 + STRANGERS_BYTES // 0x1000):
                one.sendall(piece)
            self.assertIn(b" 401 ", self.answer(one))
        except (BrokenPipeError, ConnectionResetError):
            pass

    def test_what_is_too_large_is_refused_before_it_arrives(self) -> None:
        own = signed_in(self.port)
        for path, length, words in (
            ("/api/portraits", 700_000_000, b"up to 600 MB"), ("/api/session", 9_000_000, b"up to 8 MB"),
        ):  # fmt: skip
            head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: {length}\r\nCookie: {own['Cookie']}\r\n\r\n"
            one = self.open(head.encode())
            said = self.answer(one)
            self.assertIn(b" 413 ", said)
            self.assertIn(words, said)

    def test_nobody_else_on_the_machine_may_look(self) -> None:
        ask(self.port, "GET", "/api/session")
        found = [self.folder, *self.folder.rglob("*")]
        self.assertGreater(len(found), 2)
        self.assertEqual([p.name for p in found if p.stat().st_mode & 0o077], [])

    def test_every_answer_keeps_others_out(self) -> None:
        for path in ("/", "/index.html", "/glass.svg", "/api/session", "/assets/none.js"):
            status, _, headers = ask(self.port, "GET", path)
            self.assertIn(status, (200, 404), path)
            self.assertEqual(headers["X-Frame-Options"], "DENY", path)
            self.assertIn("form-action 'self'", headers["Content-Security-Policy"], path)
            self.assertEqual(headers["X-Content-Type-Options"], "nosniff", path)
            self.assertIsNone(headers["Server"])
            status, _, _ = ask(self.port, "GET", path, Host="evil.example")
            self.assertEqual(status, 400, path)


class TakingTurns(unittest.TestCase):
    def test_one_address_leaves_room_and_others_are_not_behind_its_queue(self) -> None:
        class Asked:
            def __init__(self, who: str, files: bool = False) -> None:
                self.who, self.whose = who, (who, files)

        now = [0.0]
        turns = Turns(lambda: now[0])
        turns.alone, turns.among = 3, 2
        for _ in range(5):
            turns.append(Asked("a"))
        # Alone it has more; while others are here, less.
        self.assertEqual(len(turns), 3)
        turns.append(Asked("b"))
        self.assertEqual(len(turns), 3)
        order = [turns.popleft().who for _ in range(3)]
        self.assertEqual(sorted(order), ["a", "a", "b"])
        self.assertEqual(order[1], "b")
        # Three of a's wait for one of its own to end.
        self.assertEqual(len(turns), 0)
        with self.assertRaises(IndexError):
            turns.popleft()
        turns.ended(("a", False))
        self.assertEqual(turns.popleft().who, "a")
        # An upload that takes long doesn't hold up what a hand waits for.
        turns.append(Asked("a", files=True))
        self.assertEqual(turns.popleft().whose, ("a", True))
        turns.ended(("a", True))
        self.assertEqual(len(turns.drained()), 2)
        for _ in range(2):
            turns.ended(("a", False))
        turns.ended(("b", False))
        now[0] = 11.0
        for _ in range(4):
            turns.append(Asked("a"))
        self.assertEqual(len(turns), 3)

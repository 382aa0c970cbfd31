"""A studio that is killed again and again while it is worked with, and what has to be true afterwards."""

from __future__ import annotations

import http.client
import json
import os
import random
import sqlite3
import time
from contextlib import closing, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from retouch.picture import read
from studio.tests.base import portrait_file
from studio.tests.test_serving import ask, begin, make_ready, signed_in, surroundings

_LONGEST_S = 1.6


@dataclass
class Known:
    """What was acknowledged: revision and label of each gesture by portrait, deliveries, kills."""

    portraits: dict[str, list[int]] = field(default_factory=dict)
    deliveries: list[str] = field(default_factory=list)
    kills: int = 0

    @property
    def enough(self) -> bool:
        """Three kills and six revisions, uploads among them."""
        return self.kills >= 3 and sum(len(r) for r in self.portraits.values()) >= 6


class Studio:
    """Requests of somebody who is signed in; a server that is gone is no answer."""

    def __init__(self, port: int) -> None:
        self.port = port
        self._own = signed_in(port)

    def send(self, method: str, path: str, body: Any = None) -> Any:
        """The answer's JSON; None where it was refused."""
        data = b"" if body is None else json.dumps(body).encode()
        status, said, _ = ask(
            self.port, method, f"/api{path}", data, Content_Type="application/json", **self._own
        )
        return json.loads(said) if status < 300 and said else None

    def upload(self, data: bytes) -> Any:
        edge = "fence"
        body = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.png"\r\n'
            "Content-Type: image/png\r\n\r\n"
        ).encode() + data + f"\r\n--{edge}--\r\n".encode()  # fmt: skip
        status, said, _ = ask(
            self.port, "POST", "/api/portraits", body,
            Content_Type=f"multipart/form-data; boundary={edge}", **self._own,
        )  # fmt: skip
        return json.loads(said) if status == 201 else None


def work(studio: Studio, known: Known, rng: random.Random, until: float) -> None:
    """Upload, gestures, undo, takes, deliveries, until a moment; what is acknowledged is noted."""
    while time.monotonic() < until:
        if not known.portraits or rng.random() < 0.1:
            made = studio.upload(portrait_file())
            if made:
                known.portraits[made["id"]] = [0]
            continue
        one = rng.choice(list(known.portraits))
        # After a kill a gesture may be there that wasn't acknowledged any more.
        desk = studio.send("GET", f"/portraits/{one}/desk")
        revision = desk["portrait"]["revision"]
        what = rng.random()
        if what < 0.55:
            place = [rng.uniform(50, 250), rng.uniform(50, 180)]
            operation = {"op": "add_touch", "kind": "heal", "touch": {"path": [place], "values": {"radius_px": 8.0}}}  # fmt: skip
            answer = studio.send("POST", f"/portraits/{one}/gestures", {"revision": revision, "operation": operation})  # fmt: skip
        elif what < 0.7:
            to = max(0, desk["history"]["at"] - rng.randint(1, 3))
            answer = studio.send("POST", f"/portraits/{one}/history", {"revision": revision, "to": to})  # fmt: skip
        elif what < 0.85:
            begun = studio.send("POST", f"/portraits/{one}/deliveries", {"format": "png"})
            if begun:
                known.deliveries.append(begun["id"])
            continue
        else:
            studio.send("POST", f"/portraits/{one}/takes", {"name": f"t{rng.random()}"})
            continue
        if answer:
            known.portraits[one].append(answer["revision"])


def killed(folder: Path, seconds: float, seed: int) -> Known:
    """Work on a studio that is killed (SIGKILL) at random moments for so long.

    On a slow machine most of that time goes into starting it: it goes on, at most four times as
    long, until there is enough to look at.
    """
    rng, known = random.Random(seed), Known()
    environment = surroundings(folder)
    make_ready(environment)
    begun = time.monotonic()
    while (spent := time.monotonic() - begun) < seconds or (
        not known.enough and spent < 4 * seconds
    ):
        process, port = begin(environment)
        try:
            studio = Studio(port)
            moment = time.monotonic() + rng.uniform(0.05, _LONGEST_S)
            # The kill comes in the middle of whatever is asked then.
            pid = process.pid
            if os.fork() == 0:
                time.sleep(max(moment - time.monotonic(), 0))
                os.kill(pid, 9)
                os._exit(0)
            with suppress(OSError, http.client.HTTPException, ValueError, TypeError, KeyError):
                work(studio, known, rng, moment + 30)
            os.wait()
        finally:
            process.kill()
            process.wait()
        known.kills += 1
    return known


def problems(folder: Path, known: Known) -> list[str]:
    """What isn't as it has to be, after the last start; empty where all is well."""
    found: list[str] = []
    process, port = begin(surroundings(folder))
    try:
        studio = Studio(port)
        for one, revisions in known.portraits.items():
            desk = studio.send("GET", f"/portraits/{one}/desk")
            if desk is None:
                found.append(f"{one}: gone")
                continue
            if desk["portrait"]["revision"] < max(revisions):
                found.append(f"{one}: an acknowledged gesture is lost")
            found += _through_history(studio, one, desk)
        for job in known.deliveries:
            end = time.monotonic() + 60
            while (told := studio.send("GET", f"/deliveries/{job}?wait=5")) and told["state"] in ("waiting", "working"):  # fmt: skip
                if time.monotonic() > end:
                    break
            if not told or told["state"] not in ("done", "failed"):
                found.append(f"delivery {job}: {told}")
    finally:
        process.terminate()
        process.wait(30)
    end = time.monotonic() + 15
    while left := _running(folder):
        if time.monotonic() > end:
            found.append(f"processes outlive the server: {left}")
            break
        time.sleep(0.2)
    with closing(sqlite3.connect(folder / "mellow-glass.sqlite3")) as database:
        said = database.execute("PRAGMA integrity_check").fetchone()[0]
        if said != "ok":
            found.append(f"integrity: {said}")
    for path in (folder / "originals").glob("*/original*"):
        read(path)
    for path in (folder / "cache" / "deliveries").glob("*.png"):
        read(path)
    return found


def _running(folder: Path) -> list[int]:
    """Processes that were started for this data folder."""
    mark, out = f"MELLOW_GLASS_DATA={folder}".encode(), []
    for place in Path("/proc").glob("[0-9]*"):
        with suppress(OSError):
            if mark in (place / "environ").read_bytes().split(b"\0"):
                out.append(int(place.name))
    return out


def _through_history(studio: Studio, one: str, desk: Any) -> list[str]:
    """Undo to the start and redo to the end: the same passes again."""
    at, count = desk["history"]["at"], desk["history"]["count"]
    revision = desk["portrait"]["revision"]
    passes = desk["passes"]
    for to in (0, count, at):
        moved = studio.send("POST", f"/portraits/{one}/history", {"revision": revision, "to": to})
        if moved is None:
            return [f"{one}: the history can't be walked to {to} of {count}"]
        revision = moved["revision"]
        if to == 0 and studio.send("GET", f"/portraits/{one}/desk")["passes"]:
            return [f"{one}: something is left at the start"]
    if studio.send("GET", f"/portraits/{one}/desk")["passes"] != passes:
        return [f"{one}: other passes after undo and redo"]
    return []

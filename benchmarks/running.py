"""Runs: portraits per minute beside what decoding, analysing and encoding take alone; workers; memory; a busy bench;
a wall of thousands.
"""

from __future__ import annotations

import json
import re
import statistics
import tempfile
import time
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from benchmarks.latency import server
from benchmarks.scoring import DEMO
from retouch.forms.routines import routine_to_data
from retouch.picture import Output, read
from retouch.picture.write import encode
from retouch.runs.orders import Deliver, Made, Order
from retouch.runs.workers import Processes, work_through
from retouch.work.ready import routine

_LARGE = (4384, 5480)
_MANY = 5000
_LOAD = (
    "import django; django.setup()\n"
    "from django.core.management import call_command\n"
    "call_command('load_demo', verbosity=0)\n"
    "from django.contrib.auth import get_user_model\n"
    "from studio.portraits.models import Portrait\n"
    "from studio.runs.models import Run, RunItem\n"
    "user = get_user_model().objects.get()\n"
    "small = [Portrait(owner=user, name=f'P{n:05}', file_name='o.png', sha256='0' * 64, size_bytes=1, width=9,"
    " height=9, bits=8, format='png', profile='sRGB') for n in range(MANY)]\n"
    "Portrait.objects.bulk_create(small, batch_size=500)\n"
    "run = Run.objects.create(owner=user, title='Many', routine={}, state='done')\n"
    "RunItem.objects.bulk_create([RunItem(run=run, portrait=p, number=n, state='done', worry=n % 97) for n, p in"
    " enumerate(small)], batch_size=500)\n"
).replace("MANY", str(_MANY))


def _large(folder: Path) -> Path:
    small = cv2.imread(str(DEMO / "portraits" / "ana.jpg"))
    big = cv2.resize(small, _LARGE, interpolation=cv2.INTER_CUBIC).astype(np.int16)
    noise = np.random.default_rng(5).integers(-4, 5, (*big.shape[:2], 1), dtype=np.int16)
    path = folder / "large.jpg"
    cv2.imwrite(
        str(path), np.clip(big + noise, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 94]
    )
    return path


def _highest(pids: list[int]) -> float:
    """The most memory that one of some processes had, MB."""
    most = 0.0
    for pid in pids:
        try:
            text = Path(f"/proc/{pid}/status").read_text()
        except OSError:
            continue
        found = re.search(r"VmHWM:\s+(\d+) kB", text)
        most = max(most, int(found[1]) / 1024 if found else 0.0)
    return most


def _run(
    picture: Path, workers: int, count: int, folder: Path
) -> tuple[float, list[dict[str, float]], float]:
    """Seconds for so many portraits once workers are warm, what each took, and the most memory."""
    crew = Processes(workers)
    # A worker has one core, however many there are: so that two can be compared with one.
    crew._cores = 1
    everyday = routine("everyday")
    assert everyday is not None
    data = routine_to_data(everyday)
    made: list[Made] = []
    memory = 0.0

    def orders(first: int, last: int) -> Any:
        for n in range(first, last):
            yield Order(
                f"{n}",
                str(picture),
                routine=data,
                deliver=(Deliver(str(folder / f"{n}.jpg"), {"format": "jpeg"}),),
            )

    def done(order: Order, result: Made | BaseException) -> None:
        nonlocal memory
        assert isinstance(result, Made), result
        made.append(result)
        memory = max(memory, _highest(crew.pids))

    try:
        work_through(crew, orders(0, workers), done)
        made.clear()
        begun = time.perf_counter()
        work_through(crew, orders(workers, workers + count), done)
        return time.perf_counter() - begun, [m.seconds for m in made], memory
    finally:
        crew.close()


def speed_table() -> str:
    """One worker and two, beside decode, face analysis and encode alone."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        picture = _large(folder)
        alone, parts, memory = _run(picture, 1, 3, folder)
        both, _, most = _run(picture, 2, 6, folder)
        pixels = read(picture)
        begun = time.perf_counter()
        encode(pixels, Output("jpeg"))
        encoding = time.perf_counter() - begun
    mean = {k: statistics.mean(p[k] for p in parts) for k in parts[0]}
    least = mean["read"] + mean["faces"] + encoding
    each = alone / 3
    lines = [
        "| 24 megapixels, everyday routine, JPEG; one core a worker | portraits a minute | s each | memory a worker, MB |",
        "|---|---|---|---|",
        f"| 1 worker | {60 / each:.1f} | {each:.1f} | {memory:.0f} |",
        f"| 2 workers | {360 / both:.1f} | {both / 6:.1f} | {most:.0f} |",
        f"| efficiency of two (aim 1.7) | {6 / both * each:.2f} | | |",
        f"| decode {mean['read']:.2f} + analysis {mean['faces']:.2f} + encode {encoding:.2f} alone | | {least:.1f} | |",
        f"| times that sum (aim 2) | | {each / least:.2f} | |",
        f"| routine {mean['routine']:.2f}, readings {mean['readings']:.2f}, render and encode {mean['deliver']:.2f} | | | |",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def _get(url: str) -> tuple[float, Any]:
    begun = time.perf_counter()
    with urllib.request.urlopen(url) as answer:
        body = answer.read()
    return 1000 * (time.perf_counter() - begun), body


def _views(url: str, portrait: dict[str, Any], count: int) -> list[float]:
    """How long views of a portrait take, each of another place, ms."""
    out = []
    for n in range(count):
        x = 7 * n % 300
        took, _ = _get(
            f"{url}/api/portraits/{portrait['id']}/view?x={x}&y={x}&scale=1&width=700&height=600"
        )
        out.append(took)
    return out


def busy_table() -> str:
    """Views while a run goes on, and pages of a wall and a review of thousands."""
    with tempfile.TemporaryDirectory() as name, server(Path(name), _LOAD) as url:
        jar = CookieJar()
        urllib.request.install_opener(
            urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        )
        _get(url)
        _get(f"{url}/api/session")
        wall = statistics.median(
            _get(f"{url}/api/wall?sort=name&start={n * 600}")[0] for n in range(8)
        )
        runs = json.loads(_get(f"{url}/api/runs")[1])
        at = f"{url}/api/runs/{runs[0]['id']}/items"
        review = statistics.median(_get(f"{at}?start={n * 600}&count=40")[0] for n in range(8))
        # The demo's portraits were there first.
        page = json.loads(_get(f"{url}/api/wall?sort=added&count=200&start={_MANY}")[1])
        own = page["portraits"]
        ana = next(p for p in own if p["name"] == "Ana")
        while json.loads(_get(f"{url}/api/portraits/{ana['id']}/analysis")[1])["state"] != "done":
            time.sleep(0.5)
        _views(url, ana, 10)
        calm = _views(url, ana, 40)
        token = next(c.value for c in jar if c.name == "csrftoken")
        body = json.dumps(
            {"portraits": [p["id"] for p in own if p["id"] != ana["id"]], "routine": "everyday"}
        )
        request = urllib.request.Request(
            f"{url}/api/runs", body.encode(),
            {"Content-Type": "application/json", "X-CSRFToken": token or "", "Referer": url},
        )  # fmt: skip
        with urllib.request.urlopen(request) as answer:
            run = json.loads(answer.read())
        while json.loads(_get(f"{url}/api/runs/{run['id']}")[1])["done"] < 1:
            time.sleep(0.2)
        busy = _views(url, ana, 40)
        still = json.loads(_get(f"{url}/api/runs/{run['id']}")[1])
        assert still["working"] + still["waiting"] > 0, "the run ended too soon"
    rows = [
        ("view of 700 x 600 at 1:1, calm", calm), ("the same while a run goes on", busy),
    ]  # fmt: skip
    lines = ["| beside a run | median ms | 95 % |", "|---|---|---|"]
    for text, times in rows:
        ordered = sorted(times)
        lines.append(
            f"| {text} | {statistics.median(times):.0f} | {ordered[int(0.95 * len(ordered))]:.0f} |"
        )
    lines.append(
        f"| times as long (aim 1.5) | {statistics.median(busy) / statistics.median(calm):.2f} | |"
    )
    lines.append(f"| a page of a wall of {_MANY} portraits (aim 200 ms) | {wall:.0f} | |")
    lines.append(f"| a page of the review of a run of {_MANY} | {review:.0f} | |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def table() -> str:
    """Both tables."""
    return f"{speed_table()}\n\n{busy_table()}"

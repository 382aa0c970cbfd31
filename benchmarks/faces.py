"""How well faces are understood, against the known labels and blemishes of the demo portraits.

* zones: intersection over union of each zone, thresholded at a half, with the labels;
* marks at the default sensitivity: recall over the listed pimples and spots, precision of what is
  offered for clearing, and how many permanent marks are offered.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.scoring import DEMO, PEOPLE
from benchmarks.speed import large_portrait
from retouch.colour.depth import to_integers
from retouch.face import Analysis, Mark, analyse, visible
from retouch.face.models import MODELS
from retouch.geometry import Rect
from retouch.picture import Output, Picture, read, write
from retouch.zone_names import members

# Zone of ours, label numbers of the truth, and the aim.
ZONES = (
    ("skin", (1,), 0.93),
    ("lips", (2,), 0.85),
    ("teeth", (3,), 0.75),
    ("eye_whites", (4,), 0.75),
    ("irises", (5,), 0.85),
    ("brows", (6,), 0.60),
    ("hair", (7,), 0.85),
    ("clothing", (8,), None),
    ("background", (0,), 0.97),
)
TEMPORARY = ("pimple", "spot")
SENSITIVITY = 50
# Between closed lips the labels hold a few pixels of teeth; below this share there is no mouth.
_LEAST_TEETH = 0.0008


@dataclass(frozen=True)
class Understood:
    """The analysis of a demo person and the seconds it took."""

    name: str
    analysis: Analysis
    seconds: float


@lru_cache(maxsize=len(PEOPLE))
def understand(name: str) -> Understood:
    """Analyse a demo portrait."""
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    start = time.perf_counter()
    analysis = analyse(picture)
    return Understood(name, analysis, time.perf_counter() - start)


def labels(name: str) -> NDArray[np.uint8]:
    """The true label of each pixel, (h, w)."""
    found = cv2.imread(str(DEMO / "truth" / f"{name}_labels.png"), cv2.IMREAD_GRAYSCALE)
    assert found is not None
    return np.asarray(found, np.uint8)


def overlap(name: str, zone: str, numbers: tuple[int, ...]) -> float | None:
    """Intersection over union of a zone with its labels; None where the truth has next to none."""
    truth = np.isin(labels(name), numbers)
    if zone == "teeth" and truth.mean() < _LEAST_TEETH:
        return None
    shape = (truth.shape[0], truth.shape[1])
    rect = Rect(0, 0, shape[1], shape[0])
    ours = understand(name).analysis.mask(members(zone), rect, shape) > 0.5
    return float((ours & truth).sum() / max((ours | truth).sum(), 1))


@dataclass(frozen=True)
class MarkScore:
    """Found of the temporary blemishes, rightly offered of the offered, and permanent offered."""

    temporary: int
    found: int
    offered: int
    right: int
    permanent: int
    permanent_offered: int


def _hits(mark: Mark, blemish: dict[str, float]) -> bool:
    away = np.hypot(mark.x - blemish["x"], mark.y - blemish["y"])
    return bool(away < max(blemish["r"], mark.radius))


def mark_score(name: str, sensitivity: float = SENSITIVITY) -> MarkScore:
    """Marks of a demo person against the list of blemishes."""
    listed = json.loads((DEMO / "truth" / f"{name}.json").read_text())["blemishes"]
    temporary = [b for b in listed if b["kind"] in TEMPORARY]
    permanent = [b for b in listed if b["kind"] not in TEMPORARY]
    marks = [m for of_face in understand(name).analysis.marks for m in of_face]
    seen = visible(marks, sensitivity)
    offered = [m for m in seen if m.proposal == "clear"]
    return MarkScore(
        len(temporary),
        sum(any(_hits(m, b) for m in seen) for b in temporary),
        len(offered),
        sum(any(_hits(m, b) for b in temporary) for m in offered),
        len(permanent),
        sum(any(_hits(m, b) for m in offered) for b in permanent),
    )


def zone_table() -> str:
    """Overlap of each zone for each person."""
    lines = [
        "| zone | " + " | ".join(PEOPLE) + " | aim |",
        "|---" * (len(PEOPLE) + 2) + "|",
    ]
    for zone, numbers, aim in ZONES:
        cells = [overlap(name, zone, numbers) for name in PEOPLE]
        text = " | ".join("–" if c is None else f"{c:.3f}" for c in cells)
        lines.append(f"| {zone.replace('_', ' ')} | {text} | {'' if aim is None else aim} |")
    times = " | ".join(f"{understand(name).seconds:.1f} s" for name in PEOPLE)
    lines.append(f"| time of the whole analysis | {times} | |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


_LARGE = r"""
import re, sys, time
from pathlib import Path
from retouch.face import analyse_file
start = time.perf_counter()
analyse_file(Path(sys.argv[1]), Path(sys.argv[2]))
used = re.search(r"VmHWM:\s+(\d+) kB", Path("/proc/self/status").read_text())
print(time.perf_counter() - start, int(used[1]) / 1024)
"""


def large_table() -> str:
    """Seconds and peak memory of an analysis of 24 megapixels, in a process of its own."""
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "large.jpg"
        picture = Picture(to_integers(large_portrait(), 8))
        write(picture, path, Output("jpeg", quality=92))
        done = subprocess.run(
            [sys.executable, "-c", _LARGE, str(path), str(Path(name) / "out.npz")],
            cwd=DEMO.parent, capture_output=True, text=True, check=True,
        )  # fmt: skip
    seconds, megabytes = (float(v) for v in done.stdout.split())
    lines = [
        "| analysis of 24 megapixels | | aim |",
        "|---|---|---|",
        f"| time, models loaded | {seconds:.1f} s | a few seconds |",
        f"| highest memory | {megabytes:.0f} MB | below 1500 MB |",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def mark_table() -> str:
    """Marks found, offered and wrongly offered."""
    scores = {name: mark_score(name) for name in PEOPLE}
    lines = [
        "| marks | " + " | ".join(PEOPLE) + " | all | aim |",
        "|---" * (len(PEOPLE) + 3) + "|",
    ]
    rows = (
        ("temporary ones found", "found", "temporary", "0.85"),
        ("offered that are temporary ones", "right", "offered", "0.85"),
        ("permanent ones offered", "permanent_offered", "permanent", "below 0.05"),
    )
    for title, part, whole, aim in rows:
        pairs = [(getattr(s, part), getattr(s, whole)) for s in scores.values()]
        total = sum(a for a, _ in pairs) / max(sum(b for _, b in pairs), 1)
        cells = " | ".join(f"{a} of {b}" for a, b in pairs)
        lines.append(f"| {title} | {cells} | {total:.2f} | {aim} |")
    print("\n".join(lines), flush=True)
    # What is measured next must not share the machine with idle models.
    understand.cache_clear()
    MODELS.close()
    return "\n".join(lines)

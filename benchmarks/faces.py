"""How well faces are understood, against the known labels and blemishes of the demo portraits.

* zones: intersection over union of each zone, thresholded at a half, with the labels; of hair and beard,
  whose labels alternate from pixel to pixel at the rim, without what lies within 1.3 mm of it; of the
  skin of the face without what is labelled skin of the body, and the other way round, since a line drawn
  by hand parts them;
* marks at the default sensitivity: how many of the listed pimples and spots are found and offered, how many
  of the offers are such, how many permanent marks are offered, and how sure the offers were.

None of these people is among those that the parser's weights were fitted on (training/README.md).
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.scoring import DEMO, EVERYONE
from benchmarks.speed import large_portrait
from retouch.colour.depth import to_integers
from retouch.face import Analysis, Mark, analyse, visible
from retouch.face.models import MODELS
from retouch.geometry import Rect
from retouch.picture import Output, Picture, read, write
from retouch.zone_names import members

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Scored:
    """A zone of ours, its numbers in the labels, those that aren't scored, and the aim.

    ``rim``: what lies close to the border of the labels isn't scored.
    """

    title: str
    zone: str
    numbers: tuple[int, ...]
    aim: float | None
    beside: tuple[int, ...] = ()
    rim: bool = False


ZONES = (
    Scored("skin of the face", "skin", (1,), 0.93, (11,)),
    Scored("skin of the body", "skin", (11,), 0.90, (1,)),
    Scored("hair", "hair", (7,), 0.88, (), True),
    Scored("beard", "beard", (12,), 0.80, (), True),
    Scored("clothing", "clothing", (8,), 0.95),
    Scored("background", "background", (0,), 0.97),
    Scored("lips", "lips", (2,), 0.85),
    Scored("teeth", "teeth", (3,), 0.75),
    Scored("eye whites", "eye_whites", (4,), 0.75),
    Scored("irises", "irises", (5,), 0.85),
    Scored("brows", "brows", (6,), 0.60),
)
_RIM_MM = 1.3
TEMPORARY = ("pimple", "spot")
SENSITIVITY = 50
# Below this share of the picture the labels hold nothing worth a score (teeth between closed lips).
_LEAST = 0.0008


@dataclass(frozen=True)
class Understood:
    """The analysis of a demo person and the seconds it took."""

    name: str
    analysis: Analysis
    seconds: float


@lru_cache(maxsize=len(EVERYONE))
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


def overlap(one: Scored, truth: NDArray[np.uint8], analysis: Analysis) -> float | None:
    """Intersection over union of a zone with its labels; None where the truth has next to none."""
    wanted = np.isin(truth, one.numbers)
    if wanted.mean() < _LEAST:
        return None
    shape = (truth.shape[0], truth.shape[1])
    ours = analysis.mask(members(one.zone), Rect(0, 0, shape[1], shape[0]), shape) > 0.5
    counted = ~np.isin(truth, one.beside)
    if one.rim:
        reach = max(1, round(_RIM_MM * analysis.faces[0].scale.px_per_mm))
        square = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
        soft = wanted.astype(np.uint8)
        counted &= cv2.dilate(soft, square) == cv2.erode(soft, square)
    both, either = ours & wanted & counted, (ours | wanted) & counted
    return float(both.sum() / max(either.sum(), 1))


def overlap_of(name: str, title: str) -> float | None:
    """The overlap of a zone, named by its title, for a demo person."""
    one = next(z for z in ZONES if z.title == title)
    return overlap(one, labels(name), understand(name).analysis)


@dataclass(frozen=True)
class MarkScore:
    """Found of the temporary blemishes, rightly offered of the offered, and permanent offered.

    ``found`` are those offered or asked about, ``offered_of`` those offered.
    """

    temporary: int
    found: int
    offered_of: int
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
        sum(any(_hits(m, b) for m in seen if m.proposal != "keep") for b in temporary),
        sum(any(_hits(m, b) for m in offered) for b in temporary),
        len(offered),
        sum(any(_hits(m, b) for b in temporary) for m in offered),
        len(permanent),
        sum(any(_hits(m, b) for m in offered) for b in permanent),
    )


def sureness(names: Sequence[str] = EVERYONE) -> list[tuple[float, bool]]:
    """The confidence of every offer, also of those not shown, and whether it is a blemish."""
    out = []
    for name in names:
        listed = json.loads((DEMO / "truth" / f"{name}.json").read_text())["blemishes"]
        temporary = [b for b in listed if b["kind"] in TEMPORARY]
        for of_face in understand(name).analysis.marks:
            out += [
                (m.confidence, any(_hits(m, b) for b in temporary))
                for m in of_face
                if m.proposal == "clear"
            ]
    return out


def zone_table() -> str:
    """Overlap of each zone for each person."""
    lines = [
        "| zone | " + " | ".join(EVERYONE) + " | aim |",
        "|---" * (len(EVERYONE) + 2) + "|",
    ]
    for one in ZONES:
        cells = [overlap(one, labels(name), understand(name).analysis) for name in EVERYONE]
        text = " | ".join("–" if c is None else f"{c:.3f}" for c in cells)
        lines.append(f"| {one.title} | {text} | {one.aim} |")
    times = " | ".join(f"{understand(name).seconds:.1f} s" for name in EVERYONE)
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


def group(pixels: int) -> NDArray[np.uint8]:
    """Four demo people beside each other, about so many pixels in all."""
    people = [read(DEMO / "portraits" / f"{n}.jpg").pixels for n in ("ana", "chi", "dan", "eli")]
    height = round((pixels / sum(p.shape[1] / p.shape[0] for p in people)) ** 0.5)
    sized = [
        cv2.resize(p, (round(p.shape[1] * height / p.shape[0]), height)) for p in people
    ]  # fmt: skip
    return np.asarray(np.hstack(sized), np.uint8)


def _analysed(pixels: NDArray[np.uint8], folder: Path) -> tuple[float, float]:
    """Seconds and megabytes of the analysis of a picture, in a process of its own."""
    path = folder / "large.jpg"
    write(Picture(pixels), path, Output("jpeg", quality=92))
    done = subprocess.run(
        [sys.executable, "-c", _LARGE, str(path), str(folder / "out.npz")],
        cwd=DEMO.parent, capture_output=True, text=True, check=True,
    )  # fmt: skip
    seconds, megabytes = (float(v) for v in done.stdout.split())
    return seconds, megabytes


def large_table() -> str:
    """The analysis of 24 megapixels: of one face, and of a group of four."""
    single = np.asarray(to_integers(large_portrait(), 8), np.uint8)
    with tempfile.TemporaryDirectory() as name:
        seconds, megabytes = _analysed(single, Path(name))
        four, _ = _analysed(group(single.shape[0] * single.shape[1]), Path(name))
    lines = [
        "| analysis of 24 megapixels, reading and saving included | | aim |",
        "|---|---|---|",
        f"| time, models loaded | {seconds:.1f} s | 3 s |",
        f"| highest memory | {megabytes:.0f} MB | below 900 MB |",
        f"| a group of four beside one face | {four / seconds:.2f} times | 2 times |",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def mark_table() -> str:
    """Marks found, offered and wrongly offered, and how sure the offers were."""
    scores = {name: mark_score(name) for name in EVERYONE}
    lines = [
        "| marks | " + " | ".join(EVERYONE) + " | all | aim |",
        "|---" * (len(EVERYONE) + 3) + "|",
    ]
    rows = (
        ("temporary ones offered or asked about", "found", "temporary", ""),
        ("temporary ones offered", "offered_of", "temporary", ""),
        ("offers that are temporary ones", "right", "offered", "0.9"),
        ("permanent ones offered", "permanent_offered", "permanent", "below 0.05"),
    )
    for title, part, whole, aim in rows:
        pairs = [(getattr(s, part), getattr(s, whole)) for s in scores.values()]
        total = sum(a for a, _ in pairs) / max(sum(b for _, b in pairs), 1)
        cells = " | ".join(f"{a} of {b}" for a, b in pairs)
        lines.append(f"| {title} | {cells} | {total:.2f} | {aim} |")
    offers = sureness()
    lines += ["", "| offers said with | are blemishes |", "|---|---|"]
    for low, high in ((0.5, 0.7), (0.7, 0.8), (0.8, 0.9), (0.9, 0.95), (0.95, 1.01)):
        right = [hit for sure, hit in offers if low <= sure < high]
        if right:
            span = f"{low:.2f} to {min(high, 1):.2f}"
            lines.append(f"| {span} | {sum(right)} of {len(right)} |")
    print("\n".join(lines), flush=True)
    # What is measured next must not share the machine with idle models.
    understand.cache_clear()
    MODELS.close()
    return "\n".join(lines)

"""Eyes, teeth, lips and brows on every demo person: what Bright reaches, and what it leaves alone."""

from __future__ import annotations

import statistics
import time

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import labels, understand
from benchmarks.scoring import DEMO, EVERYONE
from benchmarks.speed import large_portrait
from retouch.colour.depth import to_integers
from retouch.colour.lab import to_lab
from retouch.edit import Edit, Pass
from retouch.face import Analysis, analyse
from retouch.face.red_eyes import red_eyes
from retouch.features.teeth import ACCEPTED, SEEN
from retouch.natural.passes import pass_readings
from retouch.picture import Picture, Pyramid, read
from retouch.work import Bench
from retouch.work.bench import bench_for
from retouch.work.operations import ApplyRoutine

Array = NDArray[np.float32]

# Labels of each feature, and the kinds that act there.
_LABELS = {
    "eye_whites": ("whites", (4,)),
    "irises": ("irises", (5,)),
    "teeth": ("teeth", (3, 10)),
    "lips": ("lips", (2,)),
    "brows": ("brows, lashes", (6, 9)),
}
# Labels and pictures differ by a pixel or two at the rim of lips.
_RIM = 5
_LEAST = 50


def _bench(name: str) -> tuple[Bench, Analysis]:
    picture = read(DEMO / "portraits" / f"{name}.jpg")
    analysis = understand(name).analysis
    return bench_for(Pyramid(picture), analysis), analysis


def _whole(bench: Bench, edit: Edit) -> Array:
    return bench.renderer.plan(edit).view(bench.renderer.bounds, 0)


def _fine(image: Array, px_per_mm: float) -> Array:
    light = np.ascontiguousarray(to_lab(image)[..., 0])
    low, high = max(0.1 * px_per_mm, 0.5), 0.3 * px_per_mm
    return np.asarray(cv2.GaussianBlur(light, (0, 0), low) - cv2.GaussianBlur(light, (0, 0), high))


def _row(bench: Bench, analysis: Analysis, name: str, one: Pass, before: Array) -> str:
    title, numbers = _LABELS[one.kind]
    after = _whole(bench, Edit((one,)))
    inside = np.isin(labels(name), numbers)
    moved = np.abs(np.round(after * 255) - np.round(before * 255)).max(-1) > 1
    near = cv2.dilate(inside.astype(np.uint8), np.ones((_RIM, _RIM), np.uint8)) > 0
    core = cv2.erode(inside.astype(np.uint8), np.ones((_RIM, _RIM), np.uint8)) > 0
    outside, far = (100 * float((moved & ~a).mean()) for a in (inside, near))
    texture, hue = "–", "–"
    if core.sum() > _LEAST:
        scale = analysis.faces[0].scale.px_per_mm
        energies = [float((_fine(i, scale)[core] ** 2).mean()) for i in (before, after)]
        texture = f"{100 * np.sqrt(energies[1] / max(energies[0], 1e-9)):.0f} %"
        angles = [
            np.degrees(np.arctan2(*np.median(to_lab(i)[core], 0)[[2, 1]])) for i in (before, after)
        ]
        hue = f"{(angles[1] - angles[0] + 180) % 360 - 180:+.1f}°"
    told = "; ".join(
        f"{r.title.lower()} {r.before:.0f} → {r.after:.0f} {r.unit}{' beyond' if r.beyond else ''}"
        for r in pass_readings(bench.renderer, Edit((one,)), one.id)
    )
    return f"| {name}, {title} | {told} | {texture} | {hue} | {outside:.3f} | {far:.3f} |"


def table() -> str:
    """Bright on everyone, pass by pass; red eyes; and its time on 24 megapixels at fit."""
    lines = [
        "| Bright | read by the pass | fine texture | hue | changed outside of its label, % | 2 px further |",
        "|---|---|---|---|---|---|",
    ]
    for name in EVERYONE:
        bench, analysis = _bench(name)
        before = _whole(bench, Edit())
        for one in ApplyRoutine("bright").perform(Edit(), bench).edit.passes:
            lines.append(_row(bench, analysis, name, one, before))
    glowing = {
        n: len(red_eyes(_bench(n)[1], _bench(n)[0].renderer.pyramid))
        for n in (*EVERYONE, "ana-flash")
    }
    flash = glowing.pop("ana-flash")
    lines += [
        "",
        f"Differences of WI_D: {SEEN:g} can just be seen, {ACCEPTED:g} is still accepted as the same. "
        f"Red eyes found: {flash} of 2 with flash, {sum(glowing.values())} on the {len(glowing)} without.",
        "",
        f"All of Bright at fit on 24 megapixels (level 2), cold: {_time_at_fit():.2f} s.",
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def _time_at_fit() -> float:
    picture = Picture(to_integers(large_portrait(), 8))
    analysis = analyse(picture)
    times = []
    for _ in range(3):
        bench = bench_for(Pyramid(picture), analysis)
        edit = ApplyRoutine("bright").perform(Edit(), bench).edit
        level = min(2, bench.renderer.pyramid.highest)
        bench.renderer.pyramid.level(level)
        start = time.perf_counter()
        bench.renderer.plan(edit).view(bench.renderer.bounds.reduced(level), level)
        times.append(time.perf_counter() - start)
    return statistics.median(times)

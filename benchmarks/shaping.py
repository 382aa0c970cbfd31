"""Proportions measured again on what they make: the face is looked for anew and its mesh measured."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.face import landmarks as lm
from retouch.face.find import find_faces
from retouch.face.models import MODELS
from retouch.picture import read
from retouch.shape.composed import Composed, Move, composed, fitting
from retouch.shape.mesh import Mesh
from retouch.shape.nudge import Brush, stroke
from retouch.shape.proportions import PROPORTIONS, field_of
from retouch.warp.field import Field
from retouch.warp.resample import nodes, resampled

Points = NDArray[np.float64]
Measure = Callable[[Points], float]


def _wide(a: int, b: int) -> Measure:
    return lambda p: float(np.hypot(*(p[a] - p[b])))


def _down(a: tuple[int, ...], b: tuple[int, ...]) -> Measure:
    return lambda p: float(p[list(b), 1].mean() - p[list(a), 1].mean())


def _tilt(outer: int, inner: int) -> Measure:
    def degrees(p: Points) -> float:
        across, up = abs(p[outer, 0] - p[inner, 0]), p[inner, 1] - p[outer, 1]
        return float(np.degrees(np.arctan2(up, across)))

    return degrees


_STILL = (168, 6, 195)
# What each number should change, in mm or degrees, and by how much per unit of it: measured on the
# mesh in its own millimetres. Per cent are of the person's own measure.
MEASURES: dict[str, tuple[Measure, float | str]] = {
    "eye_size": (_wide(33, 133), "%"),
    "eye_width": (_wide(33, 133), "%"),
    "eye_height": (_wide(159, 145), "%"),
    "eye_tilt": (_tilt(33, 133), 1.0),
    "eye_apart": (_wide(133, 362), 1.0),
    "eye_up": (_down((33, 133, 263, 362), _STILL), 1.0),
    "brow_up": (_down((105, 66, 334, 296), _STILL), 1.0),
    "brow_tilt": (_tilt(70, 107), 1.0),
    "nose_width": (_wide(48, 278), 1.0),
    "nose_wings": (_wide(64, 294), 1.0),
    "nose_length": (_down((168,), (2,)), 1.0),
    "mouth_width": (_wide(61, 291), 1.0),
    "mouth_height": (_wide(0, 17), "%"),
    "mouth_smile": (_down((61, 291), (0, 17)), 1.0),
    "lip_upper": (_wide(0, 13), 1.0),
    "lip_lower": (_wide(14, 17), 1.0),
    "mouth_up": (_down((13, 14), _STILL), 1.0),
    "face_cheeks": (_wide(93, 323), 1.0),
    "face_jaw_corner": (_wide(58, 288), 1.0),
    "face_jaw": (_wide(136, 365), 1.0),
    "face_chin": (_down((17,), (152,)), 1.0),
}
# Parts of the largest amount that are tried, and people.
_PART = 0.5
_LARGE = (4384, 5480)
PEOPLE = ("ana", "bela", "dan", "eli", "kofi", "lia")
# Points of features that are far from what is moved, by part.
_OTHERS = {
    "eye": (61, 291, 0, 17, 64, 294, 1, 2), "brow": (61, 291, 0, 17, 64, 294, 1, 2),
    "nose": (33, 263, 133, 362, 70, 300, 61, 291), "mouth": (33, 263, 133, 362, 70, 300, 1, 168),
    "lip": (33, 263, 133, 362, 70, 300, 1, 168), "face": (33, 263, 133, 362, 1, 168, 61, 291),
}  # fmt: skip


def _mesh(pixels: NDArray[Any]) -> Points | None:
    found = find_faces(np.asarray(pixels, np.uint8), lambda share: None, MODELS)
    return found[0].points[:, :2].astype(np.float64) if found else None


@dataclass(frozen=True)
class Measured:
    """What a number should change, what the map makes of the mesh, and what a mesh found anew in the
    result tells, in mm or degrees; ``others``: the median shift (mm) by the map of features that aren't
    meant. ``again`` is None where no face is found any more.
    """

    wanted: float
    made: float
    again: float | None
    others: float


def measured(name: str, number: str, part: float = _PART, anew: bool = True) -> Measured:
    """A proportion of a demo person at a part of its largest amount."""
    face = understand(name).analysis.faces[0]
    mm = face.scale.px_per_mm
    points = face.points[:, :2].astype(np.float64)
    sides = ("_right", "_left") if number.startswith(("eye", "brow")) else ("",)
    most = next(p.most for p in PROPORTIONS if p.name == number + sides[0])
    whole = field_of(points, mm, {number + side: part * most for side in sides}, Composed())
    assert whole is not None
    share, field = fitting(Composed(), whole.scaled)
    assert field is not None
    measure, unit = MEASURES[number]

    def own(mesh: NDArray[Any], frame: Points) -> Points:
        middle = frame[list(lm.OVAL)].mean(0)
        return np.asarray((mesh - middle) @ Mesh(frame, mm).axes.T / mm)

    was, now = own(points, points), own(field.forth(points), points)
    wanted = share * part * most * (measure(was) / 100 if unit == "%" else float(unit))
    others = list(_OTHERS[number.split("_")[0]])
    off = float(np.median(np.hypot(*(now[others] - was[others]).T)))
    again = None
    if anew:
        pixels = np.asarray(read(DEMO / "portraits" / f"{name}.jpg").pixels)
        at = nodes(field.back, (0, 0), (pixels.shape[1], pixels.shape[0]), 1.0, 8)
        before, after = _mesh(pixels), _mesh(np.asarray(resampled(pixels, (0.0, 0.0), at)))
        if before is not None and after is not None:
            again = measure(own(after, before)) - measure(own(before, before))
    return Measured(wanted, measure(now) - measure(was), again, off)


def table() -> str:
    """Numbers as the map makes them on people, and what fields of 24 megapixels cost."""
    lines = [
        "| proportions at half of their range | numbers | within 15 % or 0.4 mm | other features, largest median shift (mm) | "
        "a mesh found anew tells (median part) |",
        "|---|---|---|---|---|",
    ]
    for name in PEOPLE:
        found = [measured(name, number) for number in MEASURES]
        near = sum(abs(m.made - m.wanted) <= max(0.15 * abs(m.wanted), 0.4) for m in found)
        told = [m.again / m.wanted for m in found if m.again is not None]
        lines.append(
            f"| {name} | {len(found)} | {near} | {max(m.others for m in found):.2f} | "
            f"{np.median(told) if told else float('nan'):.2f} |"
        )
        print(lines[-1], flush=True)
    return "\n".join([*lines, "", _costs()])


def _costs() -> str:
    """Fifty touches over a portrait of 24 megapixels: their map, and what laying it costs."""
    width, height = _LARGE
    rng = np.random.default_rng(4)
    moves = []
    for n in range(50):
        start = rng.uniform((800, 800), (width - 800, height - 800))
        path = np.array([start, start + rng.uniform(-60, 60, 2)])
        brush = Brush(float(rng.uniform(80, 500)), 0.7, 1.0)
        moves.append(Move(str(n), f"{n}{path}", partial(_stroke, path, brush)))
    composed(moves[:2])
    start_ = time.perf_counter()
    whole = composed(moves)
    made = time.perf_counter() - start_
    start_ = time.perf_counter()
    composed(moves)
    kept = time.perf_counter() - start_
    start_ = time.perf_counter()
    at = nodes(whole.back, (0, 0), _LARGE, 1.0, 8)
    x, y = at.spread()
    mapped = time.perf_counter() - start_
    pixels = rng.integers(0, 255, (height, width, 3), dtype=np.uint8)
    start_ = time.perf_counter()
    cv2.remap(pixels, x - 0.5, y - 0.5, cv2.INTER_LANCZOS4)
    remap = time.perf_counter() - start_
    start_ = time.perf_counter()
    resampled(pixels, (0.0, 0.0), at)
    ours = time.perf_counter() - start_
    lines = [
        "| 50 strokes on 24 megapixels | ms | part of cv2.remap (Lanczos) |",
        "|---|---|---|",
        *(
            f"| {text} | {1000 * t:.0f} | {t / remap:.2f} |"
            for text, t in (
                ("all fields built, none known before", made),
                ("the same again", kept),
                ("the map of every pixel from them", mapped),
                ("our resampling of the whole", ours),
                ("cv2.remap of the whole", remap),
            )
        ),
    ]
    print("\n".join(lines), flush=True)
    return "\n".join(lines)


def _stroke(path: Points, brush: Brush, below: Composed) -> Field | None:
    return stroke("push", path, brush, below)

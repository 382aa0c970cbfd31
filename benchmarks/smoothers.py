"""Skin bands beside the libraries' own smoothing, at the same reduction of middle bands.

Each filter is laid over the face of a demo portrait with just the strength that leaves as much of
the bands from spots to bumps in the skin as ours does. Told are the fine band that is left, and
how much pixels within 3 px of an edge (lashes, brows, lips) change, in steps of 255.
"""

from __future__ import annotations

import time
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import labels, understand
from benchmarks.scoring import PEOPLE, load
from retouch.bands.decompose import LIMITS_MM
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Pixels, Place

Array = NDArray[np.float32]

_SKIN, _LIPS, _BROWS, _LASHES = 1, 2, 6, 9
# The face of every demo portrait lies within this part of it: top, bottom, left, right.
_FACE = (0.28, 0.78, 0.25, 0.75)
_AMOUNTS = {"middle": -60.0, "broad": -40.0}


def _ours(image: Array, scale: float) -> Array:
    kind = registry.kind("skin_bands")
    assert isinstance(kind.way, Pixels)
    values = {s.name: s.default for s in kind.settings} | _AMOUNTS | {"px_per_mm": scale}
    rect = Rect(0, 0, image.shape[1], image.shape[0])
    return kind.way.make(image, values, Place(rect, 0))


def _size(scale: float) -> float:
    """Sigma that parts the middle band, pixels."""
    return 0.5 * 3.5 * scale


def _eight(image: Array) -> NDArray[np.uint8]:
    return np.asarray(np.round(image * 255), np.uint8)


FILTERS: dict[str, Callable[[Array, float], Array]] = {
    "cv2.GaussianBlur": lambda a, s: np.asarray(cv2.GaussianBlur(a, (0, 0), _size(s))),
    "cv2.bilateralFilter": lambda a, s: np.asarray(cv2.bilateralFilter(a, -1, 0.3, _size(s))),
    "cv2.ximgproc.guidedFilter": lambda a, s: np.asarray(
        cv2.ximgproc.guidedFilter(a, a, round(1.7 * _size(s)), 0.02**2)
    ),
    "cv2.fastNlMeansDenoisingColored": lambda a, s: np.asarray(
        cv2.fastNlMeansDenoisingColored(_eight(a), None, 25, 25, 7, 21) / np.float32(255),
        np.float32,
    ),
}  # fmt: skip


def _band(image: Array, low: float, high: float) -> Array:
    grey = np.ascontiguousarray(image[..., 1])
    small = cv2.GaussianBlur(grey, (0, 0), low) if low >= 0.3 else grey
    return np.asarray(small - cv2.GaussianBlur(grey, (0, 0), high), np.float32)


def _left(raw: Array, got: Array, inside: NDArray[np.bool_], low: float, high: float) -> float:
    """Energy of a band against the original's, root mean square over the skin."""
    was, now = (float(np.sqrt((_band(a, low, high)[inside] ** 2).mean())) for a in (raw, got))
    return now / was


def _matched(raw: Array, whole: Array, left: Callable[[Array], float], aim: float) -> Array | None:
    """So much of a filter that ``left`` is the aim; None where all of it isn't enough."""
    if left(whole) > aim:
        return None
    low, high = 0.0, 1.0
    for _ in range(20):
        part = 0.5 * (low + high)
        if left(raw + np.float32(part) * (whole - raw)) > aim:
            low = part
        else:
            high = part
    return np.asarray(raw + np.float32(high) * (whole - raw), np.float32)


def measure() -> dict[str, list[tuple[float, float, float] | None]]:
    """Per filter and person: fine band left, change at edges (steps of 255), milliseconds."""
    out: dict[str, list[tuple[float, float, float] | None]] = {}
    for name in PEOPLE:
        person = load(name)
        h, w = person.raw.shape[:2]
        top, bottom, left, right = (
            round(part * size) for part, size in zip(_FACE, (h, h, w, w), strict=True)
        )
        cut = np.s_[top:bottom, left:right]
        raw, truth = np.ascontiguousarray(person.raw[cut]), labels(name)[cut]
        scale = understand(name).analysis.faces[0].scale.px_per_mm
        sigmas = [0.5 * mm * scale for mm in LIMITS_MM]
        near = _near_edges(truth)
        calm = (truth == _SKIN) & ~cv2.dilate(near.astype(np.uint8), np.ones((31, 31))).astype(bool)

        def middle(a: Array, raw: Array = raw, calm: NDArray[np.bool_] = calm,
                   sigmas: list[float] = sigmas) -> float:  # fmt: skip
            return _left(raw, a, calm, sigmas[1], sigmas[3])

        aim = 0.0
        for title, run in {"**Mellow Glass**": _ours, **FILTERS}.items():
            start = time.perf_counter()
            whole = run(raw, scale)
            took = 1000 * (time.perf_counter() - start)
            got: Array | None = whole
            if title == "**Mellow Glass**":
                aim = middle(whole)
            else:
                got = _matched(raw, whole, middle, aim)
            if got is None:
                out.setdefault(title, []).append(None)
                continue
            fine = _left(raw, got, calm, 0.0, sigmas[1])
            edges = 255 * float(np.abs(got - raw).mean(-1)[near].mean())
            out.setdefault(title, []).append((fine, edges, took))
    return out


def _near_edges(truth: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Within 3 px of where lashes, brows or lips begin."""
    out = np.zeros(truth.shape, np.uint8)
    for label in (_LIPS, _BROWS, _LASHES):
        inside = (truth == label).astype(np.uint8)
        out |= cv2.morphologyEx(inside, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    return cv2.dilate(out, np.ones((5, 5), np.uint8)).astype(bool)


def table() -> str:
    """Fine band left and change at edges, per filter and person."""
    found = measure()
    lines = [
        "| same reduction of spots to bumps: fine band left / change at edges | "
        + " | ".join(PEOPLE) + " | time |",
        "|---" * (len(PEOPLE) + 2) + "|",
    ]  # fmt: skip
    for title, row in found.items():
        cells = [f"{100 * r[0]:.0f} % / {r[1]:.2f}" if r else "–" for r in row]
        times = [r[2] for r in row if r]
        took = f"{np.median(times):.0f} ms" if times else "–"
        lines.append(f"| {title} | {' | '.join(cells)} | {took} |")
    print("\n".join(lines), flush=True)
    return "\n".join(lines)

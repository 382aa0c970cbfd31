"""What is left of the skin's grain and of edges where it is stretched or squeezed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from benchmarks.faces import understand
from benchmarks.scoring import DEMO
from retouch.face import SKIN_OF_FACE
from retouch.geometry import Rect
from retouch.picture import read
from retouch.shape.composed import Composed, fitting
from retouch.shape.proportions import field_of
from retouch.warp.resample import nodes, resampled
from retouch.warp.steps import Points

Array = NDArray[np.float32]

# Grain lies between these sizes (sigma, pixels); its energy is the mean over so much around a place.
_FINE, _FORM, _AROUND = 0.7, 2.0, 10.0
# Places are so far apart (pixels), and moved by so much at least.
_STEP, _MOVED = 6, 0.5
# Moves at the ends of their range (mm, % or degrees).
ENDS: tuple[tuple[str, float], ...] = (
    ("face_cheeks", -12), ("face_cheeks", 12), ("face_jaw", -12), ("face_chin", 8), ("face_chin", -8),
    ("face_forehead", 10), ("nose_wings", 8), ("nose_width", -8), ("mouth_width", 10), ("head_size", 6),
)  # fmt: skip


@dataclass(frozen=True)
class Grain:
    """Energy of the grain beside that of the same skin unmoved: the median and where 90 % of it lies; the
    median of the tenth that is stretched most, and how much longer that is than before.
    """

    middle: float
    low: float
    high: float
    most: float
    longer: float


@lru_cache(maxsize=4)
def _seen(name: str) -> tuple[NDArray[Any], Array, NDArray[np.bool_]]:
    pixels = np.asarray(read(DEMO / "portraits" / f"{name}.jpg").pixels)[..., :3]
    h, w = pixels.shape[:2]
    skin = understand(name).analysis.mask(SKIN_OF_FACE, Rect(0, 0, w, h), (h, w)) > 0.8
    return pixels, _energy(pixels), skin


def _energy(pixels: NDArray[Any]) -> Array:
    light = pixels.astype(np.float32).mean(-1)
    fine = cv2.GaussianBlur(light, (0, 0), _FINE) - cv2.GaussianBlur(light, (0, 0), _FORM)
    return np.asarray(cv2.GaussianBlur(fine * fine, (0, 0), _AROUND), np.float32)


def grain(name: str, number: str, amount: float) -> Grain:
    """What a proportion does to the grain of a demo person's skin."""
    pixels, before, skin = _seen(name)
    h, w = pixels.shape[:2]
    face = understand(name).analysis.faces[0]
    points = face.points[:, :2].astype(np.float64)
    whole = field_of(points, face.scale.px_per_mm, {number: amount}, Composed())
    assert whole is not None
    _, field = fitting(Composed(), whole.scaled)
    assert field is not None
    at = nodes(field.back, (0, 0), (w, h), 1.0, 8)
    after = _energy(np.asarray(resampled(pixels, (0.0, 0.0), at)))
    ys, xs = np.mgrid[0:h:_STEP, 0:w:_STEP]
    places = np.stack([xs.ravel(), ys.ravel()], 1)
    source = field.back(places + 0.5)
    shift = np.hypot(*(source - places - 0.5).T)
    x, y = np.clip(np.round(source - 0.5).astype(int), 0, (w - 1, h - 1)).T
    own = (shift > _MOVED) & skin[y, x]
    ratio = after[places[own, 1], places[own, 0]] / np.maximum(before[y[own], x[own]], 1e-6)
    across = field.back(places[own] + (4.5, 0.5)) - source[own]
    down = field.back(places[own] + (0.5, 4.5)) - source[own]
    area = np.abs(across[:, 0] * down[:, 1] - across[:, 1] * down[:, 0]) / 16
    far = np.abs(np.log(area))
    most = far >= np.quantile(far, 0.9)
    low, high = np.quantile(ratio, (0.05, 0.95))
    return Grain(
        float(np.median(ratio)), float(low), float(high), float(np.median(ratio[most])),
        float(np.exp(-0.5 * np.median(np.log(area[most])))),
    )  # fmt: skip


def edge_width(shift: float) -> tuple[float, float]:
    """The 10 to 90 % width (pixels) of a slanted edge before and after the one resampling by a shift.

    An edge leaning by 5 degrees, its profile put together across rows, as ISO 12233 does it (from memory).
    """
    h = w = 200
    y, x = np.mgrid[0:h, 0:w].astype(np.float64)
    away = (x + 0.5 - w / 2) * np.cos(np.radians(5)) + (y + 0.5 - h / 2) * np.sin(np.radians(5))
    clear = 128 + 90 * np.tanh(away / 0.9)
    pixels = np.repeat(np.round(clear).astype(np.uint8)[..., None], 3, axis=2)

    def moved(points: Points) -> Points:
        return np.asarray(points + (shift, 0.37 * shift))

    at = nodes(moved, (0, 0), (w, h), 1.0, 8)
    laid = np.asarray(resampled(pixels, (0.0, 0.0), at), np.float64)[..., 0]
    return _width(pixels[..., 0].astype(np.float64)), _width(laid)


def _width(image: NDArray[np.float64]) -> float:
    inner = image[40:-40]
    rows, columns = inner.shape
    # The edge's place in each row falls by the tangent of its lean; finely binned beyond the pixels.
    middle = [float(np.interp(128, row[60:-60], np.arange(60, columns - 60))) for row in inner]
    fit = np.polyval(np.polyfit(np.arange(rows), middle, 1), np.arange(rows))
    off = (np.arange(columns)[None] - fit[:, None]).ravel() * np.cos(np.radians(5))
    near = np.abs(off) < 6
    bins = np.round(off[near] * 8).astype(int)
    sums = np.bincount(bins - bins.min(), inner.ravel()[near])
    counts = np.bincount(bins - bins.min())
    profile = np.maximum.accumulate(sums / np.maximum(counts, 1))
    where = (np.arange(len(profile)) + bins.min()) / 8
    low, high = profile.min(), profile.max()
    ten, ninety = (float(np.interp(low + p * (high - low), profile, where)) for p in (0.1, 0.9))
    return ninety - ten


def table() -> str:
    """Grain at the ends of the numbers, and a slanted edge through the resampling."""
    lines = [
        "| grain of Ana's skin at the end of a number | median | 90 % lie within | where stretched or squeezed most | its length there |",
        "|---|---|---|---|---|",
    ]
    for number, amount in ENDS:
        g = grain("ana", number, amount)
        lines.append(
            f"| {number} {amount:+g} | {g.middle:.2f} | {g.low:.2f} to {g.high:.2f} | {g.most:.2f} | {g.longer:.2f} |"
        )
        print(lines[-1], flush=True)
    lines += [
        "",
        "| slanted edge, 10 to 90 % (px) | before | after one resampling |",
        "|---|---|---|",
    ]
    for shift in (0.25, 0.5, 3.5):
        before, after = edge_width(shift)
        lines.append(f"| moved by {shift:g} px | {before:.2f} | {after:.2f} |")
    return "\n".join(lines)

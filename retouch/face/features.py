"""Eyes, brows, lips and teeth, to the pixel: the mesh says about where, colours say exactly."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import lab_of_pixels as lab
from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.classes import classify
from retouch.face.frame import Frame, distance, fill, ramp
from retouch.face.iris import Iris

Array = NDArray[np.float32]

# A mouth opened less than this part of the face's height shows no teeth worth a mask.
_LEAST_OPEN = 0.014
# A pupil is this part of the iris where it can't be told from it.
_PUPIL = 0.36
# The soft rim between iris and white is at most so wide, in radii of the iris.
_SEAM_OF_IRIS = 0.2


@dataclass(frozen=True)
class Window:
    """A rectangular part of a frame: rows and columns."""

    y0: int
    y1: int
    x0: int
    x1: int

    @property
    def cut(self) -> tuple[slice, slice]:
        return np.s_[self.y0 : self.y1, self.x0 : self.x1]


def _window(frame: Frame, points: tuple[int, ...], margin: float) -> Window:
    outline = frame.points[list(points)]
    (x0, y0), (x1, y1) = outline.min(0), outline.max(0)
    pad = margin * frame.unit
    h, w = frame.shape
    return Window(
        int(np.clip(y0 - pad, 0, h - 2)),
        int(np.clip(y1 + pad + 1, 2, h)),
        int(np.clip(x0 - pad, 0, w - 2)),
        int(np.clip(x1 + pad + 1, 2, w)),
    )


def _paste(frame: Frame, window: Window, part: Array) -> Array:
    out = np.zeros(frame.shape, np.float32)
    out[window.cut] = part
    return out


def eye(frame: Frame, right: bool) -> dict[str, Array]:
    """Masks of one eye, (h, w) each: ``eye_white``, ``iris``, ``pupil``, ``lashes``; ``open`` is
    what surely lies between the lids, the rim between iris and white included."""
    outline = lm.EYE_R if right else lm.EYE_L
    iris = frame.face.right_iris if right else frame.face.left_iris
    window = _window(frame, outline, 0.05)
    pixels = np.ascontiguousarray(frame.pixels[window.cut])
    opening = distance(frame.polygon(outline)[window.cut])
    heights = np.linalg.norm(frame.points[outline[4]] - frame.points[outline[12]])
    height = max(float(heights), 0.02 * frame.unit)
    x, y, radius = _iris_in(frame, iris, window)
    ys, xs = np.mgrid[: pixels.shape[0], : pixels.shape[1]].astype(np.float32) + np.float32(0.5)
    from_centre = np.hypot(xs - x, ys - y)
    inside = ramp(radius - from_centre, max(0.04 * radius, 0.7))
    open_here = ramp(opening + 0.06 * height, 0.3 * height)
    near = ramp(opening + 0.55 * height, 0.4 * height)
    expected = np.stack(
        [
            1.02 - open_here,
            open_here * (1 - inside) + 1e-3,
            open_here * inside + 1e-3,
            0.25 * near * (1 - ramp(opening - 0.22 * height, 0.15 * height)),
        ]
    )
    sure = np.stack(
        [
            (opening < -0.45 * height) * 1.0,
            (opening > 0.12 * height) * (from_centre > 1.12 * radius),
            (opening > 0.05 * height) * (from_centre < 0.92 * radius),
            np.zeros_like(opening),
        ]
    ).astype(np.float32)
    light = lab(pixels)
    dark = cv2.morphologyEx(light[..., 0], cv2.MORPH_BLACKHAT, np.ones((7, 7), np.uint8))
    sure[3] = near * (opening < 0) * (dark > np.percentile(dark, 85))
    found = classify(
        light, expected.astype(np.float32), pixels, rounds=3, radius=2, eps=4e-4, seeds=sure,
        flatness=0.8,
    )  # fmt: skip
    white, coloured, lashes = found[1], found[2] * inside, found[3]
    # Dark of the iris that the colours gave to lashes belongs to the iris inside its rim.
    coloured = np.maximum(coloured, inside * lashes * ramp(opening - 0.15 * height, 0.1 * height))
    # Bright skin between lashes is no white: it lies outside of the opening.
    white = white * (1 - inside) * ramp(opening + 0.2 * height, 0.12 * height)
    between = ramp(opening + 0.03 * height, 0.06 * height)
    pupil = _pupil(light[..., 0], coloured, from_centre, radius)
    return {
        "eye_white": _paste(frame, window, white),
        "iris": _paste(frame, window, coloured),
        "pupil": _paste(frame, window, pupil),
        "lashes": _paste(frame, window, lashes * (1 - coloured) * (1 - white)),
        "open": _paste(frame, window, np.maximum(_closed(white, coloured, radius), between)),
    }


def _closed(white: Array, iris: Array, radius: float) -> Array:
    """Iris and white together, the seam between them closed."""
    seam = disc(_SEAM_OF_IRIS * radius)
    return np.asarray(cv2.morphologyEx(np.maximum(white, iris), cv2.MORPH_CLOSE, seam), np.float32)


def _iris_in(frame: Frame, iris: Iris, window: Window) -> tuple[float, float, float]:
    sx = frame.shape[1] / frame.rect.width
    x = (iris.x - frame.rect.x0) * sx - window.x0
    y = (iris.y - frame.rect.y0) * frame.shape[0] / frame.rect.height - window.y0
    return x, y, iris.radius * sx


def _pupil(light: Array, iris: Array, from_centre: Array, radius: float) -> Array:
    """The dark middle of an iris: the circle over whose rim the light rises most."""
    inner = iris > 0.5
    steps = np.linspace(0.2, 0.62, 15)
    means = [light[inner & (np.abs(from_centre - t * radius) < 0.05 * radius + 0.5)] for t in steps]
    levels = np.array([m.mean() if len(m) else np.nan for m in means])
    rise = np.diff(levels)
    part = _PUPIL
    if np.isfinite(rise).any() and np.nanmax(rise) > 1.0:
        k = int(np.nanargmax(rise))
        part = float(steps[k] + steps[k + 1]) / 2
    return np.asarray(iris * ramp(part * radius - from_centre, 0.7), np.float32)


def brow(frame: Frame, right: bool) -> Array:
    """The hairs of one brow, (h, w) 0..1."""
    outline = lm.BROW_R if right else lm.BROW_L
    window = _window(frame, outline, 0.06)
    pixels = np.ascontiguousarray(frame.pixels[window.cut])
    hull = cv2.convexHull(frame.points[list(outline)])[:, 0]
    expected = ramp(
        distance(fill(frame.shape, hull)[window.cut]) + 0.008 * frame.unit, 0.022 * frame.unit
    )
    values = lab(pixels)
    # Against the skin's own shading, so that a brow's shaded end is no darker brow.
    skin_light = cv2.GaussianBlur(
        cv2.dilate(values[..., 0], np.ones((5, 5), np.uint8)), (0, 0), 0.05 * frame.unit
    )
    values[..., 0] -= skin_light
    dark = (
        values[..., 0] < np.percentile(values[..., 0][expected > 0.5], 30)
        if (expected > 0.5).any()
        else np.zeros(expected.shape, bool)
    )
    sure = np.stack([(expected < 0.4) * 1.0, (expected > 0.6) * dark]).astype(np.float32)
    found = classify(
        values, np.stack([1.05 - 0.6 * expected, 0.6 * expected + 1e-3]), pixels, rounds=2,
        radius=1, eps=2e-4, seeds=sure, flatness=1.0,
    )  # fmt: skip
    return _paste(frame, window, found[1])


def mouth(frame: Frame) -> dict[str, Array]:
    """Masks of the mouth, (h, w) each: ``lip_upper``, ``lip_lower``, ``teeth``."""
    unit = frame.unit
    window = _window(frame, lm.LIPS_OUT, 0.06)
    pixels = np.ascontiguousarray(frame.pixels[window.cut])
    outer = distance(frame.polygon(lm.LIPS_OUT)[window.cut])
    inner = distance(frame.polygon(lm.LIPS_IN)[window.cut])
    gap = float(np.linalg.norm(frame.points[lm.LIP_UPPER] - frame.points[lm.LIP_LOWER]))
    opened = gap > _LEAST_OPEN * unit
    between = ramp(inner - (0.003 if opened else 0.002) * unit, 0.009 * unit)
    lips = ramp(outer + 0.012 * unit, 0.022 * unit)
    values = lab(pixels)
    expected = np.stack(
        [
            1.01 - lips,
            lips * (1 - 0.97 * between) + 1e-3,
            lips * between * (0.5 if opened else 0.8) + 1e-4,
            lips * between * (0.7 if opened else 0.0) + 1e-6,
        ]
    ).astype(np.float32)
    sure = np.stack(
        [
            (outer < -0.045 * unit) * 1.0,
            (outer > 0.02 * unit) * (inner < -0.02 * unit),
            np.zeros_like(outer),
            np.zeros_like(outer),
        ]
    ).astype(np.float32)
    hole = inner > 0.004 * unit
    if opened and hole.any():
        lip_red = float(np.median(values[..., 1][sure[1] > 0])) if sure[1].any() else 15.0
        level = values[..., 0]
        middle = 0.65 * np.percentile(level[hole], 8) + 0.35 * np.percentile(level[hole], 92)
        pale = values[..., 1] < 0.75 * lip_red
        sure[3] = hole * (level > middle) * pale
        sure[2] = hole * ~((level > middle) & pale)
    else:
        low = values[..., 0] < np.percentile(values[..., 0], 3)
        sure[2] = (inner > -0.01 * unit) * low
    found = classify(
        values, expected, pixels, rounds=3, radius=max(2, round(0.004 * unit)), eps=4e-4,
        seeds=sure, flatness=0.7,
    )  # fmt: skip
    ys = np.arange(pixels.shape[0], dtype=np.float32)[:, None] + window.y0 + 0.5
    xs = np.arange(pixels.shape[1], dtype=np.float32) + window.x0 + 0.5
    seam = frame.points[list(lm.LIPS_IN[:11])] + frame.points[[78, *lm.LIPS_IN[:10:-1], 308]]
    order = np.argsort(seam[:, 0])
    line = np.interp(xs, seam[order, 0] / 2, seam[order, 1] / 2)[None, :]
    upper = ramp(line - ys, 1.0)
    teeth = found[3] if opened else np.zeros_like(found[3])
    return {
        "lip_upper": _paste(frame, window, found[1] * upper),
        "lip_lower": _paste(frame, window, found[1] * (1 - upper)),
        "teeth": _paste(frame, window, teeth),
        "mouth": _paste(frame, window, found[2]),
    }

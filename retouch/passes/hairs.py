"""Hairs: single ones drawn, or many planted by a soft brush, like those beside them."""

from __future__ import annotations

import math

import numpy as np

from retouch.edit.model import Touch
from retouch.features import hairs
from retouch.geometry import Rect
from retouch.passes.brush import footprint_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

# Hairs beside a place are looked at so far around it, in radii and pixels.
_AROUND, _LEAST_AROUND = 1.5, 24
_MOST = 2000
_TOUCH = (
    Setting("way", "Way", "One hair along the stroke, or many under the brush.", type="choice",
            default="many", choices=("one", "many")),
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("length_px", "Length", "Of each hair that is planted; the stroke's own is its length.",
            low=2.0, high=600.0, default=30.0, step=1.0, unit="px"),
    Setting("thick", "Thickness", "Beside that of the hairs around.", low=25.0, high=300.0,
            default=100.0, unit="%"),
    Setting("dense", "Density", "How many hairs are planted.", low=1.0, default=30.0, unit="%"),
    Setting("shade", "Shade", "Lighter or darker than the hairs around.", low=-50.0, high=50.0,
            default=0.0, unit="%"),
    Setting("seed", "Try", "Another number plants them otherwise.", low=0.0, high=9999.0,
            default=0.0, step=1.0),
    Setting("opacity", "Strength", "How much of the hairs shows.", default=90.0, unit="%"),
)  # fmt: skip


def _many(touch: Touch) -> bool:
    return touch.values["way"] == "many"


def _writes(touch: Touch, bounds: Rect) -> Rect:
    # A hair may be nearly twice as long as it usually is.
    reach = 2 * float(touch.values["length_px"]) + 6 if _many(touch) else 8
    return footprint_of(touch).bounds.grow(math.ceil(reach)).clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    own = _writes(touch, bounds)
    if own.empty:
        return []
    around = max(_LEAST_AROUND, math.ceil(_AROUND * float(touch.values["radius_px"])))
    return [own.grow(around).clip(bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own, v = _writes(touch, bounds), touch.values
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    rect = _reads(touch, settings, bounds)[0]
    area = read(rect)
    place = footprint_of(touch)
    away = np.maximum(place.beyond(rect), 0)
    reach = max(_LEAST_AROUND, _AROUND * place.radius)
    near = np.exp(-0.5 * (away / np.float32(reach / 2)) ** 2).astype(np.float32)
    colour, width, ways = hairs.beside(area, near)
    path, seed = np.asarray(touch.path, np.float64), int(v["seed"])
    origin = (rect.x0, rect.y0)
    width *= float(v["thick"]) / 100
    colour = np.clip(colour * (1 + float(v["shade"]) / 100), 0, 1).astype(np.float32)
    if _many(touch):
        length = float(v["length_px"])
        # As dense as hairs that lie side by side, at most.
        covered = np.pi * place.radius**2 + 2 * place.radius * _length(path)
        count = int(
            min(_MOST, 1 + float(v["dense"]) / 100 * covered / (0.4 * length * (width + 1)))
        )
        lines = hairs.planted(path, float(v["radius_px"]), count, length, ways, origin, seed)
    else:
        lines = [path if len(path) > 1 else np.concatenate([path, path + (0.0, -1.0)])]
    after = hairs.drawn(area, lines, origin, colour, width, seed)
    change = (after - area) * np.float32(float(v["opacity"]) / 100)
    return np.ascontiguousarray(change[own.within(rect)])


def _length(path: np.ndarray) -> float:
    return float(np.linalg.norm(np.diff(path, axis=0), axis=1).sum())


HAIRS = register(
    PassKind(
        name="hairs",
        title="Hairs",
        meaning="Single hairs laid into gaps, like those beside them.",
        stage="features",
        usual_name="Hairs",
        zone_name="{zone}: hairs",
        way=Touches(_TOUCH, _writes, _reads, _render, footprint_of),
    )
)

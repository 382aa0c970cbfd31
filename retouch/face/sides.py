"""Light from one side: how much lighter a face's skin is there, and where the line between lies."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.face.analysis import Analysis
from retouch.face.complexion import complexion, seen
from retouch.picture import Pyramid
from retouch.skin.own import turned
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]

# So many pixels of skin are looked at; directions of the light are tried in these steps.
_MOST, _STEP = 4000, 15
# Where the line may lie, in quantiles of the skin along the light, and how soft it may be.
_LINES = (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8)
_SOFT_MM = (3.0, 8.0, 20.0, 45.0)
# Light that differs by less than this (L*), or explains less than this part of what the skin's
# lightness varies by, has no sides.
_LEAST, _EXPLAINED = 3.0, 0.2


@dataclass(frozen=True)
class Sides:
    """``side`` (3,) CIELAB is added to ``base`` on the lit side and taken on the other.

    The line runs through ``at`` (pixels of the original), the lit side lies in the direction of
    ``angle`` (degrees, 0 right, 90 below), and is wholly lit from ``soft_mm`` on.
    """

    base: tuple[float, float, float]
    side: tuple[float, float, float]
    at: tuple[float, float]
    angle: float
    soft_mm: float


def sides(analysis: Analysis, pyramid: Pyramid, face: int = 0) -> Sides:
    """The sides of the light on a face; ``side`` is 0 where it comes evenly.

    Two levels of lightness with a soft line between them are fitted to the skin, robustly: spots,
    highlights and the shade of the nose are few beside the halves of a face.

    Raises
    ------
    IndexError
        When there is no such face.
    """
    base = complexion(analysis, pyramid, face)
    colours, places = seen(analysis, pyramid, face, SKIN_OF_FACE)
    x, y = analysis.faces[face].anchor
    none = Sides(base, (0.0, 0.0, 0.0), (x, y), 0.0, 20.0)
    if len(colours) < 100:
        return none
    step = max(1, len(colours) // _MOST)
    colours, places = colours[::step], places[::step]
    light = colours[:, 0]
    per_mm = analysis.faces[face].scale.px_per_mm
    before = float(np.abs(light - np.median(light)).mean())
    best: tuple[float, Array, float, float, float] | None = None
    for direction in range(0, 360, _STEP):
        way = np.radians(direction)
        along = places @ np.array([np.cos(way), np.sin(way)], np.float32)
        for line in np.quantile(along, _LINES):
            for soft in _SOFT_MM:
                t = turned((along - line) / (soft * per_mm))
                lit, dark = light[t > 0.5], light[t < -0.5]
                if len(lit) < 50 or len(dark) < 50:
                    continue
                half = (_middle(lit) - _middle(dark)) / 2
                if half < _LEAST / 2:
                    continue
                # Both levels seldom lie evenly about the line.
                rest = light - half * t
                error = float(np.abs(rest - _middle(rest)).mean())
                if best is None or error < best[0]:
                    best = (error, t, float(direction), float(line), soft)
    if best is None or best[0] > (1 - _EXPLAINED) * before:
        return none
    _, t, degrees, line, soft = best
    lit, dark = colours[t > 0.5], colours[t < -0.5]
    differs = (np.median(lit, 0) - np.median(dark, 0)) / 2
    middle = np.median(colours - differs * t[:, None], 0)
    # The calmest part of the skin stands for its red, as it does in the complexion.
    at_median = middle + differs * float(np.median(t))
    middle[1:] += np.array(base[1:]) - at_median[1:]
    angle = np.radians(degrees)
    away = line - (x * np.cos(angle) + y * np.sin(angle))
    at = (float(x + away * np.cos(angle)), float(y + away * np.sin(angle)))
    degrees = degrees - 360 if degrees > 180 else degrees
    return Sides(
        (float(middle[0]), float(middle[1]), float(middle[2])),
        (float(differs[0]), float(differs[1]), float(differs[2])), at, degrees, soft,
    )  # fmt: skip


def _middle(values: Array) -> float:
    """The median, in a fifth of the time that NumPy's takes for so few values, by asking for no more than it needs."""
    half = len(values) // 2
    if len(values) % 2:
        return float(np.partition(values, half)[half])
    return float(np.partition(values, (half - 1, half))[half - 1 : half + 1].mean())

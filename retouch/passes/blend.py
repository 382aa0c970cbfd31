"""Blend tone: neighbouring tones mixed under the brush, the detail over them untouched."""

from __future__ import annotations

import math

import cv2
import numpy as np

from retouch.bands import band, margin
from retouch.edit.model import Touch
from retouch.geometry import Rect
from retouch.heal.copying import coverage
from retouch.passes.banded import FITTED, SETTINGS, sizes_of
from retouch.passes.brush import footprint_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

TOUCH = (
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=40.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "Part of the radius over which the brush fades.",
            default=80.0, unit="%"),
    Setting("opacity", "Strength", "How far the tones are mixed at most.", default=40.0, unit="%"),
    Setting("flow", "Flow", "How much each dab along the stroke does.", low=1.0, default=30.0,
            unit="%"),
    Setting("guard", "Range guard", "Tones further apart than this aren't mixed, so that light, "
            "mid and dark areas don't run into one another.", low=1.0, high=50.0, default=8.0,
            unit="%"),
)  # fmt: skip

# Tones are mixed over this part of the brush's radius.
_MIXED = 0.6
# The mixing is made where its spatial sigma is this many cells.
_CELLS = 5.0


def writes(touch: Touch, bounds: Rect) -> Rect:
    return footprint_of(touch).bounds.clip(bounds)


def _reach(touch: Touch) -> int:
    return math.ceil(2.5 * _MIXED * float(touch.values["radius_px"])) + 2


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    own = writes(touch, bounds)
    if own.empty:
        return []
    by = _reach(touch) + 2 * margin("tone", sizes_of(settings))
    return [own.grow(by).clip(bounds)]


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own = writes(touch, bounds)
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    wide = own.grow(_reach(touch)).clip(bounds)
    tone = band(read, wide, bounds, "tone", sizes_of(settings))
    mixed = _mixed(tone, touch)
    cut = np.s_[own.y0 - wide.y0 : own.y1 - wide.y0, own.x0 - wide.x0 : own.x1 - wide.x0]
    softness, flow = float(touch.values["softness"]) / 100, float(touch.values["flow"]) / 100
    cover = coverage(footprint_of(touch), own, softness, flow)[..., None]
    return (mixed[cut] - tone[cut]) * cover * np.float32(float(touch.values["opacity"]) / 100)


def _mixed(tone: Array, touch: Touch) -> Array:
    """Neighbouring tones averaged, those beyond the guard left out.

    A bilateral filter (C. Tomasi, R. Manduchi, *Bilateral Filtering for Gray and Color Images*,
    ICCV 1998) on the tone, which is smooth already, so a reduced picture loses nothing.
    """
    sigma = max(_MIXED * float(touch.values["radius_px"]), 1.0)
    factor = max(1, int(sigma / _CELLS))
    size = (max(1, tone.shape[1] // factor), max(1, tone.shape[0] // factor))
    small = cv2.resize(tone, size, interpolation=cv2.INTER_AREA)
    guard = float(touch.values["guard"]) / 100
    cells = sigma / factor
    soft = cv2.bilateralFilter(small, 2 * math.ceil(2 * cells) + 1, guard, cells)
    # Only what the mixing changes is spread, so nothing is softened where nothing is mixed.
    change = cv2.resize(soft - small, tone.shape[1::-1], interpolation=cv2.INTER_LINEAR)
    return np.asarray(tone + change, np.float32)


BLEND = register(
    PassKind(
        name="blend",
        title="Blend tone",
        meaning="Neighbouring tones mixed gently; the detail over them stays.",
        stage="clear",
        settings=tuple(s for s in SETTINGS if s.name != "band"),
        fitted=FITTED,
        usual_name="Blended tones",
        way=Touches(TOUCH, writes, reads, render, footprint_of),
    )
)

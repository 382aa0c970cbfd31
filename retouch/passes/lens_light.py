"""Lenses: reflections on glasses subtracted, and their tint taken off, one outline each."""

from __future__ import annotations

import math

import numpy as np

from retouch.edit.model import Touch
from retouch.features import lens_light
from retouch.geometry import Rect
from retouch.passes.patch import outlined
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

# What a reflection adds may be this much, per cent of the light of white.
_MOST = 100.0
# Its edge: pixels to either side.
_EDGE = 2.5
_COLOURS = ("red", "green", "blue")


def _light(name: str, colour: str) -> Setting:
    if name == "veil":
        return Setting(f"veil_{colour}", f"Veil, {colour}", f"The {colour} light that the reflection "
                       "adds, of that of white.", low=0.0, high=_MOST, default=0.0, step=0.1, unit="%")  # fmt: skip
    return Setting(f"lets_{colour}", f"Lets through, {colour}", f"The part of {colour} light that the "
                   "lens lets through.", low=5.0, high=100.0, default=100.0, step=0.5, unit="%")  # fmt: skip


_TOUCH = (
    Setting("amount", "Taken off", "How much of the reflection and the tint goes.", default=100.0,
            unit="%"),
    *(_light("veil", c) for c in _COLOURS),
    *(_light("lets", c) for c in _COLOURS),
)  # fmt: skip


def _writes(touch: Touch, bounds: Rect) -> Rect:
    return outlined(touch.path, 0.0).bounds.grow(math.ceil(_EDGE) + 1).clip(bounds)


def _reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    return [_writes(touch, bounds).grow(4).clip(bounds)]


def _render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own, rect = _writes(touch, bounds), _reads(touch, settings, bounds)[0]
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    area, place = read(rect), outlined(touch.path, 0.0)
    beyond = place.beyond(rect)
    part = float(touch.values["amount"]) / 100
    r, g, b = (part * float(touch.values[f"veil_{c}"]) / 100 for c in _COLOURS)
    tr, tg, tb = (1 - part * (1 - float(touch.values[f"lets_{c}"]) / 100) for c in _COLOURS)
    cover = np.clip(0.5 - beyond / 2, 0, 1).astype(np.float32)
    clear = lens_light.unveiled(area, cover, (r, g, b), (tr, tg, tb))
    clear = lens_light.edge_joined(
        clear, (np.abs(beyond) <= _EDGE) if part > 0 else beyond > np.inf
    )
    change = clear - np.clip(area, 0, 1)
    change[beyond > _EDGE] = 0
    return np.ascontiguousarray(change[own.within(rect)])


LENS_LIGHT = register(
    PassKind(
        name="lens_light",
        title="Lenses",
        meaning="Reflections on glasses subtracted, what is seen through them kept; tint taken off.",
        stage="features",
        usual_name="Reflections on lenses",
        zone_name="Reflections on lenses",
        way=Touches(
            _TOUCH, _writes, _reads, _render, lambda t: outlined(t.path, 0.0), least_points=3
        ),
    )
)

"""Dodge and burn: a soft brush that lightens or darkens, and builds up."""

from __future__ import annotations

import numpy as np

from retouch.colour.transfer import to_encoded, to_linear
from retouch.edit.model import Touch
from retouch.geometry import Rect
from retouch.heal.copying import coverage
from retouch.passes.brush import footprint, footprint_of
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Reader, Touches, Values

TOUCH = (
    Setting("way", "Way", "Lighter or darker.", type="choice", default="dodge",
            choices=("dodge", "burn")),
    Setting("radius_px", "Size", "Radius of the brush.", low=0.5, high=2000.0, default=20.0,
            step=0.5, unit="px"),
    Setting("softness", "Softness", "How much of the brush's radius fades.", default=80.0,
            unit="%"),
    Setting("exposure", "Exposure", "How strongly one dab works; 100 is one stop of light.",
            low=1.0, default=10.0, unit="%"),
    Setting("flow", "Flow", "How much each dab along a stroke does.", low=1.0, default=50.0,
            unit="%"),
    Setting("range", "Works on", "What it works on most.", type="choice", default="midtones",
            choices=("shadows", "midtones", "highlights")),
    Setting("opacity", "Opacity", "How much of the touch shows.", default=100.0, unit="%"),
)  # fmt: skip


def writes(touch: Touch, bounds: Rect) -> Rect:
    return footprint(touch.path, float(touch.values["radius_px"])).bounds.clip(bounds)


def reads(touch: Touch, settings: Values, bounds: Rect) -> list[Rect]:
    own = writes(touch, bounds)
    return [] if own.empty else [own]


def weight(light: Array, where: str) -> Array:
    """How much a range counts at an encoded lightness 0..1: it falls to 0 at the other end."""
    t = np.clip(light, 0, 1)
    if where == "shadows":
        return np.asarray((1 - t) ** 2, np.float32)
    if where == "highlights":
        return np.asarray(t**2, np.float32)
    return np.asarray(1 - (2 * t - 1) ** 2, np.float32)


def render(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    own = writes(touch, bounds)
    if own.empty:
        return np.zeros((0, 0, 3), np.float32)
    area = read(own)
    values = touch.values
    brush = footprint(touch.path, float(values["radius_px"]))
    cover = coverage(brush, own, float(values["softness"]) / 100, float(values["flow"]) / 100)
    light = area @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    stops = cover * weight(light, str(values["range"])) * (float(values["exposure"]) / 100)
    if values["way"] == "burn":
        stops = -stops
    after = to_encoded(to_linear(area) * np.exp2(stops)[..., None])
    return np.asarray((np.clip(after, 0, 1) - area) * (float(values["opacity"]) / 100), np.float32)


DODGE_BURN = register(
    PassKind(
        name="dodge_burn",
        title="Dodge and burn",
        meaning="Lightened and darkened by hand.",
        stage="even",
        usual_name="Light by hand",
        way=Touches(TOUCH, writes, reads, render, footprint_of),
    )
)

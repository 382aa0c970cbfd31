"""Curves: one for light and one for each channel, through points."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from retouch.colour.arrays import Working
from retouch.colour.curve import look_up, ramp
from retouch.look.curves import through_points
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import STRAIGHT, Setting
from retouch.passes.ways import Array, Pixels, Place, Values

CHANNELS = ("red", "green", "blue")
Points = tuple[tuple[float, float], ...]


@lru_cache(maxsize=32)
def table(light: Points, own: Points) -> Array:
    """The values that a channel gets, by the curve for light and then its own; goes beyond 0..1."""
    values = ramp(True)
    for points in (light, own):
        if points != STRAIGHT:
            values = through_points(points, values)
    return values


def _points(values: Values, name: str) -> Points:
    return tuple((float(x), float(y)) for x, y in values[name])


def _bent(image: Working, values: Values, place: Place) -> Array:
    light, *own = (_points(values, n) for n in ("light", *CHANNELS))
    out = place.own(image)
    for k, points in enumerate(own):
        if light == STRAIGHT and points == STRAIGHT:
            continue
        channel = np.ascontiguousarray(out[..., k])
        look_up(channel, table(light, points))
        out[..., k] = channel
    return out


CURVES = register(
    PassKind(
        name="curves",
        title="Curves",
        meaning="Tone by points on a curve, for light and for each channel.",
        stage="look",
        settings=(
            Setting("light", "Light", "All channels alike.", type="curve", default=STRAIGHT),
            *(
                Setting(c, c.capitalize(), f"The {c} channel.", type="curve", default=STRAIGHT)
                for c in CHANNELS
            ),
        ),
        way=Pixels(_bent, open_ended=True),
    )
)

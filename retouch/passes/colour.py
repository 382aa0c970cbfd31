"""Colour: saturation of everything, and one picked colour shifted."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Working
from retouch.colour.transfer import to_linear
from retouch.look import chroma
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Pixels, Place, Values


def _numbers(values: Values, *names: str) -> list[float]:
    return [float(values[n]) for n in names]


def _saturated(image: Working, values: Values, place: Place) -> Array:
    amount, gentle = _numbers(values, "saturation", "gentle")
    own = place.own(image)
    return chroma.saturated(own, amount / 100, gentle / 100) if amount or gentle else own


def _shifted(image: Working, values: Values, place: Place) -> Array:
    turn, richer, lighter = _numbers(values, "turn", "richer", "lighter")
    own = place.own(image)
    if not (turn or richer or lighter):
        return own
    hue, width, low, high, softness = _numbers(
        values, "hue", "width", "from_light", "to_light", "softness"
    )
    light = (min(low, high) / 100, max(low, high) / 100)
    return chroma.shifted(
        own,
        (hue + 180) % 360 - 180,
        width,
        light,
        softness / 100,
        turn,
        richer / 100,
        lighter / 100,
    )


def hue_of(encoded: tuple[float, float, float]) -> float:
    """The hue in degrees, 0..360, of an encoded sRGB colour, as `PICKED` counts it."""
    _, a, b = chroma.oklab(to_linear(np.array(encoded, np.float64)))
    return float(np.degrees(np.arctan2(b, a)) % 360)


COLOUR = register(
    PassKind(
        name="colour",
        title="Colour",
        meaning="Saturation of everything, or gently, sparing skin and rich colours.",
        stage="look",
        settings=(
            Setting("saturation", "Saturation", "All colours richer, or poorer.", low=-100.0),
            Setting(
                "gentle",
                "Gentle saturation",
                "Richer or poorer, sparing skin and what is rich already.",
                low=-100.0,
            ),
        ),
        way=Pixels(_saturated, open_ended=True),
    )
)
PICKED = register(
    PassKind(
        name="picked_colour",
        title="Picked colour",
        meaning="Hue, saturation and lightness of one colour that is picked in the picture.",
        stage="look",
        settings=(
            Setting("hue", "Colour", "The hue that changes.", high=360.0, default=30.0, unit="°"),
            Setting(
                "width", "Range", "How far to both sides of it.", low=3.0, high=180.0, default=30.0,
                unit="°",
            ),
            Setting("softness", "Softness", "Over how much of the range it fades.", default=60.0,
                    unit="%"),
            Setting("from_light", "From lightness", "Darker ones stay.", default=0.0, unit="%"),
            Setting("to_light", "To lightness", "Lighter ones stay.", default=100.0, unit="%"),
            Setting("turn", "Hue", "To a neighbouring colour.", low=-60.0, high=60.0, unit="°"),
            Setting("richer", "Saturation", "Richer, or poorer.", low=-100.0),
            Setting("lighter", "Lightness", "Lighter, or darker.", low=-100.0),
        ),
        finds=True,
        way=Pixels(_shifted, open_ended=True),
    )
)  # fmt: skip

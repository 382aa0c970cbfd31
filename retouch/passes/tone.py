"""Tone: four ranges from the deepest to the brightest, each lifted or lowered by its surroundings."""

from __future__ import annotations

from retouch.colour.arrays import Working
from retouch.look import tone
from retouch.passes.of_picture import LONG_SIDE
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Pixels, Place, Values, broad_look

# From the deepest to the brightest.
RANGES = ("depths", "shade", "lit", "peaks")
_WORDS = (
    ("Depths", "The deepest tones: dark hair, black cloth."),
    ("Shade", "The shaded side of things."),
    ("Lit", "What lies in the light."),
    ("Peaks", "The brightest tones: highlights, white cloth."),
)


def _toned(image: Working, values: Values, place: Place) -> Array:
    amounts = [float(values[n]) / 100 for n in RANGES]
    if not any(amounts):
        return place.own(image)
    radius = tone.radius_of(float(values["long_px"]))
    return tone.toned(image, place.rect, amounts, radius, place.level, place.wanted, place.around)


TONE = register(
    PassKind(
        name="tone",
        title="Tone",
        meaning="Shadows opened, highlights held: four ranges, each by its surroundings.",
        stage="look",
        settings=tuple(
            Setting(name, title, meaning, low=-100.0)
            for name, (title, meaning) in zip(RANGES, _WORDS, strict=True)
        ),
        fitted=(LONG_SIDE,),
        way=Pixels(
            _toned,
            lambda values: tone.reach_of(float(values["long_px"])),
            lambda values: broad_look(tone.cell_of(float(values["long_px"]))),
            open_ended=True,
        ),
    )
)

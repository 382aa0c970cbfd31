"""Hair: a pass on the hair or beard of a person."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import hair
from retouch.passes.on_features import amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import lab_of, part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_ACTS = ("shine", "even", "greys", "roots", "recolour")
# Of brown hair, from memory, where no face is known.
HAIR = (
    Setting("hair_l", "Hair L*", "Lightness of this person's hair.", default=25.0, step=0.1,
            auto="hair_l"),
    Setting("hair_a", "Hair a*", "Its place between green and red.", default=5.0, low=-60.0,
            high=60.0, step=0.1, auto="hair_a"),
    Setting("hair_b", "Hair b*", "Its place between blue and yellow.", default=8.0, low=-60.0,
            high=60.0, step=0.1, auto="hair_b"),
)  # fmt: skip


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    look = hair.HairLook(
        **{n: part(values, n) for n in _ACTS},
        hue=float(values["hue"]),
        chroma=float(values["chroma"]),
        light=float(values["light"]),
        own=lab_of(values, "hair"),
    )
    return place.own(hair.changed(image, place.rect, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading("light", "Hair", "Median lightness.", "L*", light_of(before, 0.5), light_of(after, 0.5)),
        Reading("chroma", "Its colour", "Median chroma.", "C*", chroma_of(before), chroma_of(after)),
    )  # fmt: skip


HAIR_PASS = on_features(
    "hair",
    "Hair",
    "Shine along the strands, colour evened, greys toned, roots like the lengths, another colour.",
    (
        amount("shine", "Shine", "More along the strands, or below 0 less.", low=-100.0),
        amount("even", "Even colour", "Streaks and patches brought to what surrounds them."),
        amount("greys", "Tone greys", "Grey strands brought to the hair's own colour; some light stays."),
        amount("roots", "Match roots", "What the mask shows brought to the hair's own colour: "
               "paint along the parting."),
        amount("recolour", "Recolour", "How far another colour is laid in; strands stay."),
        Setting("hue", "Its hue", "In CIELAB: 40 red, 60 copper, 75 golden, 280 blue.", low=0.0, high=360.0,
                default=60.0, unit="°"),
        Setting("chroma", "Its strength", "Chroma of the colour laid in.", low=0.0, high=80.0,
                default=20.0, unit="C*"),
        Setting("light", "Its light", "Lighter or darker than the hair is.", low=-40.0, high=40.0,
                default=0.0, unit="L*"),
    ),
    HAIR,
    _made,
    acts=_ACTS,
    zones=("hair",),
    reach=lambda v: hair.reach(px_per_mm(v)),
    reads=_reads,
    stage="shape",
)  # fmt: skip

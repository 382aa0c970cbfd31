"""Lips: a pass on features."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import lips
from retouch.passes.even_colour import LIPS
from retouch.passes.on_features import amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_ACTS = ("richer", "even", "edge", "dryness", "gloss", "recolour")


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    own = tuple(float(values[f"lip_{c}"]) for c in "lab")
    look = lips.LipsLook(
        **{n: part(values, n) for n in _ACTS},
        hue=float(values["hue"]),
        chroma=float(values["chroma"]),
        own=(own[0], own[1], own[2]),
    )
    return place.own(lips.changed(image, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading(
            "light", "Lips", "Median lightness.", "L*", light_of(before, 0.5), light_of(after, 0.5)
        ),
        Reading(
            "chroma", "Their colour", "Median chroma; beyond the ceiling lips look painted (common "
            "practice).", "C*", chroma_of(before), chroma_of(after),
            chroma_of(before) * lips.MOST_NATURAL,
        ),
    )  # fmt: skip


LIPS_PASS = on_features(
    "lips",
    "Lips",
    "Lips richer, even and soft, or another colour; teeth and skin stay.",
    (
        amount("richer", "Richer", "More of their own colour."),
        amount("even", "Even", "Pale and blotchy places brought to the lips' own colour."),
        amount("dryness", "Less dry", "Flakes and cracks; the finest texture and the form stay."),
        amount("edge", "Define edge", "Contrast where lips end and fold."),
        amount("gloss", "Gloss", "More, or below 0 less.", low=-100.0),
        amount("recolour", "Recolour", "How far it is laid in; texture and light stay."),
        Setting("hue", "Its hue", "In CIELAB: 0 pink, 20 red, 40 brick, 60 nude.", low=0.0, high=360.0,
                default=20.0, unit="°"),
        Setting("chroma", "Its strength", "Chroma of the colour laid in.", low=0.0, high=90.0,
                default=40.0, unit="C*"),
    ),
    LIPS,
    _made,
    acts=_ACTS,
    zones=("lips",),
    reach=lambda v: lips.reach(px_per_mm(v)),
    reads=_reads,
)  # fmt: skip

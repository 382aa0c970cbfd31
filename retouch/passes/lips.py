"""Lips: a pass on features."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Lab, Working
from retouch.features import lips
from retouch.features.toning import beside
from retouch.passes.even_colour import LIPS
from retouch.passes.on_features import BEYOND, amount, on_features
from retouch.passes.readings import Reading, chroma_beside, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import NEUTRAL, lab_of, neutral, part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_ACTS = ("richer", "even", "edge", "dryness", "gloss", "recolour")


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    look = lips.LipsLook(
        **{n: part(values, n) for n in _ACTS},
        hue=float(values["hue"]),
        chroma=float(values["chroma"]),
        own=lab_of(values, "lip"),
        most=np.inf if values["beyond"] else float(values["ceiling"]) / 100,
        neutral=neutral(values),
    )
    return place.own(lips.changed(image, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading(
            "light", "Lips", "Median lightness.", "L*", light_of(before, 0.5), light_of(after, 0.5)
        ),
        Reading(
            "chroma", "Their colour", "Median chroma beside what is grey in this light. The ceiling is a "
            "part of that of the person's own lips: beyond it they look painted (common practice).",
            "C*", chroma_beside(before, neutral(values)), chroma_beside(after, neutral(values)),
            float(values["ceiling"]) / 100 * beside(lab_of(values, "lip"), neutral(values)),
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
        Setting("ceiling", "Ceiling", "Part of their own chroma that lips stay below.", low=100.0,
                high=250.0, default=100 * lips.MOST_NATURAL, unit="%"),
        BEYOND,
    ),
    (*LIPS, *NEUTRAL),
    _made,
    acts=_ACTS,
    zones=("lips",),
    reach=lambda v: lips.reach(px_per_mm(v)),
    reads=_reads,
)  # fmt: skip

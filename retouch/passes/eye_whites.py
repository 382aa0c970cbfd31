"""Eye whites: a pass on features."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import whites
from retouch.passes.on_features import BEYOND, amount, ceiling, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import NEUTRAL, SKIN, lab_of, neutral, part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_ACTS = ("lighter", "yellow", "red", "veins")
# Whites stay darker than catchlights by this much (L*), or these would be lost in them.
_BELOW_GLINT = 4.0
_FITTED = (
    *NEUTRAL,
    Setting("white_glint", "Catchlights L*", "Lightness of the catchlights.", default=100.0, step=0.1,
            auto="white_glint"),
    *SKIN,
)  # fmt: skip


def usual_limit(values: Values) -> float:
    """The lightness that whites that look natural stay below, L*."""
    return min(float(values["ceiling"]), float(values["white_glint"]) - _BELOW_GLINT)


def limit(values: Values) -> float:
    """The lightness that the whites stay below, L*."""
    return 100.0 if values["beyond"] else usual_limit(values)


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    lighter, yellow, red, thread = (part(values, n) for n in _ACTS)
    skin, grey = lab_of(values, "skin"), neutral(values)
    look = whites.WhitesLook(lighter, yellow, red, thread, limit(values), grey, skin)
    return place.own(whites.brightened(image, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading(
            "light", "Whites", "Lightness that a quarter of the whites is above. The ceiling is a light "
            "grey, darker than catchlights: common practice.", "L*", light_of(before, 0.75),
            light_of(after, 0.75), usual_limit(values),
        ),
        Reading(
            "chroma", "Their colour", "Median chroma.", "C*", chroma_of(before), chroma_of(after)
        ),
    )  # fmt: skip


EYE_WHITES = on_features(
    "eye_whites",
    "Eye whites",
    "Whites of the eyes lighter and calmer; they stay a light grey.",
    (
        amount("lighter", "Lighter", "Up to the ceiling; the shading of the ball stays."),
        amount("yellow", "Less yellow", "Towards the neutral of this picture's light."),
        amount("red", "Less red", "Towards the neutral of this picture's light."),
        amount("veins", "Fade veins", "Thin red lines; paint on the mask to keep one."),
        ceiling(whites.CEILING, "Lightness that nothing is lifted above."),
        BEYOND,
    ),
    _FITTED,
    _made,
    acts=_ACTS,
    zones=("eye_whites",),
    reach=lambda v: whites.reach(px_per_mm(v)),
    reads=_reads,
)

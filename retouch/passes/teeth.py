"""Teeth: a pass on features."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Lab, Working
from retouch.edit.model import Pass
from retouch.features import teeth
from retouch.passes.of_picture import own_light
from retouch.passes.on_features import BEYOND, amount, ceiling, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import lab_of, part, px_per_mm
from retouch.passes.ways import Array, Place, Values
from retouch.passes.white_balance import WHITE_BALANCE, taken_light

# A light taken to be so much hotter (K) warms a picture visibly.
_WARMER = 100.0
_ACTS = ("yellow", "lighter", "even")
# Of teeth in the middle of the usual shades, from memory, where none are known.
_FITTED = (
    Setting("teeth_l", "Teeth L*", "Lightness of this person's teeth.", default=74.0, step=0.1,
            auto="teeth_l"),
    Setting("teeth_a", "Teeth a*", "Their place between green and red.", default=1.0, low=-60.0,
            high=60.0, step=0.1, auto="teeth_a"),
    Setting("teeth_b", "Teeth b*", "Their place between blue and yellow.", default=18.0, low=-60.0,
            high=60.0, step=0.1, auto="teeth_b"),
)  # fmt: skip


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    yellow, lighter, even = (part(values, n) for n in _ACTS)
    most = 100.0 if values["beyond"] else float(values["ceiling"])
    least = 0.0 if values["beyond"] else float(values["ivory"])
    look = teeth.TeethLook(yellow, lighter, even, most, least, lab_of(values, "teeth"))
    return place.own(teeth.whitened(image, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    # The teeth themselves, not the dark between them.
    sure = teeth.tooth(before[None], lab_of(values, "teeth"))[0] > 0.5
    was, now = (lab[sure] if sure.any() else lab for lab in (before, after))
    return (
        Reading(
            "whiteness", "Whiteness", "The dental whiteness index WI_D (Pérez and others, 2016). A "
            f"difference of {teeth.SEEN:g} can just be seen, {teeth.ACCEPTED:g} is still taken for the "
            "same teeth (2019).", "WI_D", float(np.median(teeth.whiteness(was))),
            float(np.median(teeth.whiteness(now))),
        ),
        Reading(
            "light", "Lightness", "Lightness that a quarter of the teeth is above.", "L*",
            light_of(was, 0.75), light_of(now, 0.75), float(values["ceiling"]),
        ),
        Reading(
            "ivory", "Ivory", "Median chroma; paler than the palest of natural shades looks false "
            "(O'Brien and others, 1990).", "C*", chroma_of(was), chroma_of(now),
            float(values["ivory"]), least=True,
        ),
    )  # fmt: skip


def _warmed(above: Pass) -> str | None:
    if above.kind != WHITE_BALANCE.name:
        return None
    values = WHITE_BALANCE.values(above)
    if taken_light(values).kelvin > own_light(values).kelvin + _WARMER:
        return (
            f"{above.title} lies above and warms the picture, which yellows teeth: move it below."
        )
    return None


TEETH = on_features(
    "teeth",
    "Teeth",
    "Yellow of the teeth taken down, a little lighter; ivory stays.",
    (
        amount("yellow", "Less yellow", "Only the yellow, so nothing turns grey; down to ivory."),
        amount("lighter", "Lighter", "Up to the ceiling; each tooth keeps its form."),
        amount("even", "Even", "Stains and differences between teeth."),
        ceiling(teeth.CEILING, "Lightness that nothing is lifted above."),
        Setting("ivory", "Ivory", "Chroma that always stays.", low=0.0, high=40.0,
                default=teeth.IVORY, step=0.1, unit="C*"),
        BEYOND,
    ),
    _FITTED,
    _made,
    acts=_ACTS,
    zones=("teeth",),
    reach=lambda v: teeth.reach(px_per_mm(v)),
    reads=_reads,
    last=True,
    upset_by=_warmed,
)  # fmt: skip

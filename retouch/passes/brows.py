"""Brows and lashes: a pass on features."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import brows
from retouch.passes.on_features import BEYOND, amount, on_features
from retouch.passes.readings import Reading, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import part, px_per_mm
from retouch.passes.ways import Array, Place, Values, broad_look

_ACTS = ("darker", "defined", "richer", "warmer")


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    least = 0.0 if values["beyond"] else float(values["darkest"])
    look = brows.BrowLook(**{n: part(values, n) for n in _ACTS}, least=least)
    return brows.changed(image, place.rect, look, scale, place.wanted, place.around)


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading(
            "light", "Hairs", "Lightness that a quarter of brows and lashes is below. Darker than the "
            "least they look drawn (common practice).", "L*", light_of(before, 0.25),
            light_of(after, 0.25), float(values["darkest"]), least=True,
        ),
    )  # fmt: skip


BROWS = on_features(
    "brows",
    "Brows and lashes",
    "Brows and lashes darker and defined along their hairs.",
    (
        amount("darker", "Darker", "The hairs; the skin between them stays."),
        amount("defined", "Defined", "More of the hairs' own contrast."),
        amount("richer", "Richer", "More of their own colour."),
        amount("warmer", "Warmer", "Browner, or below 0 cooler.", low=-100.0),
        Setting(
            "darkest",
            "Darkest",
            "Lightness that no hair is darkened below.",
            low=0.0,
            high=40.0,
            default=brows.DARKEST,
            unit="L*",
        ),
        BEYOND,
    ),
    (),
    _made,
    acts=_ACTS,
    zones=("brows", "lashes"),
    reach=lambda v: brows.reach(px_per_mm(v)),
    broad=lambda v: broad_look(brows.shade_cell(px_per_mm(v)), brows.near(px_per_mm(v))),
    reads=_reads,
)

"""Cloth: a pass on clothing."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import cloth
from retouch.passes.on_features import amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_ACTS = ("creases", "even", "hue", "richer", "light")


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    look = cloth.ClothLook(
        creases=part(values, "creases"),
        size_mm=float(values["size_mm"]),
        even=part(values, "even"),
        hue=float(values["hue"]),
        richer=part(values, "richer"),
        light=float(values["light"]),
    )
    return place.own(cloth.changed(image, place.rect, look, scale))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading("light", "Cloth", "Median lightness.", "L*", light_of(before, 0.5), light_of(after, 0.5)),
        Reading("chroma", "Its colour", "Median chroma.", "C*", chroma_of(before), chroma_of(after)),
    )  # fmt: skip


CLOTH = on_features(
    "cloth",
    "Cloth",
    "Creases softened by size, colour evened or changed; weave and broad folds stay.",
    (
        amount("creases", "Creases", "Sharp ones softened; folds that are broader stay."),
        Setting("size_mm", "Up to", "The widest crease that is softened.", low=2.0, high=40.0,
                default=12.0, step=0.5, unit="mm"),
        amount("even", "Even colour", "Faded and stained patches brought to what surrounds them."),
        Setting("hue", "Turn the hue", "All colours of the cloth turned by so much.", low=-180.0,
                high=180.0, default=0.0, unit="°"),
        amount("richer", "Richer", "More of its colour, or below 0 less.", low=-100.0),
        Setting("light", "Light", "Lighter or darker; weave and shading stay.", low=-40.0, high=40.0,
                default=0.0, unit="L*"),
    ),
    (),
    _made,
    acts=_ACTS,
    zones=("clothing",),
    reach=lambda v: cloth.reach(float(v["size_mm"]), px_per_mm(v)),
    reads=_reads,
    stage="shape",
)  # fmt: skip

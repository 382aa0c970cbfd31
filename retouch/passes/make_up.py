"""Make-up on the regions that the mesh gives: eyes, lash line, blush, contour, highlight."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.features import make_up
from retouch.passes.even_colour import LIPS
from retouch.passes.on_features import amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import SKIN, part, px_per_mm
from retouch.passes.ways import Array, Place, Values

_HUE = "In CIELAB: 0 pink, 35 peach, 60 brown, 150 green, 250 blue, 310 violet."
_OWN = Setting(
    "own_lips", "From the lips", "The colour of the person's own lips instead.", type="switch",
    default=False,
)  # fmt: skip
_TONES = Setting(
    "tones", "On", "On which tones of the region.", type="choice", default="all",
    choices=make_up.TONES,
)  # fmt: skip
_STRONGER = amount(
    "stronger", "Stronger", "What is there darker and richer; below 0 fainter.", low=-100.0
)


def _colour(hue: float, chroma: float) -> tuple[Setting, ...]:
    return (
        amount("amount", "Colour", "How much of a colour is laid in; texture and light stay."),
        Setting("hue", "Its hue", _HUE, low=0.0, high=360.0, default=hue, unit="°"),
        Setting("chroma", "Its strength", "Chroma of the colour.", low=0.0, high=90.0, default=chroma,
                unit="C*"),
    )  # fmt: skip


def _look(values: Values) -> make_up.MakeUp:
    """What the settings that a kind has say; the others are 0."""

    def share(name: str) -> float:
        return part(values, name) if name in values else 0.0

    hue, chroma = float(values.get("hue", 0.0)), float(values.get("chroma", 0.0))
    if values.get("own_lips"):
        hue, chroma = make_up.polar(float(values["lip_a"]), float(values["lip_b"]))
    skin = (float(values["skin_l"]), float(values["skin_a"]), float(values["skin_b"]))
    return make_up.MakeUp(
        share("amount"), hue, chroma, share("lighter") - share("darker"), share("stronger"), skin,
        str(values.get("tones", "all")),
    )  # fmt: skip


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    return make_up.laid(image, _look(values), scale)


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading("light", "Lightness", "Median lightness of the region.", "L*", light_of(before, 0.5),
                light_of(after, 0.5)),
        Reading("chroma", "Colour", "Median chroma of the region.", "C*", chroma_of(before),
                chroma_of(after)),
    )  # fmt: skip


def _kind(
    name: str, title: str, meaning: str, settings: tuple[Setting, ...], acts: tuple[str, ...],
    zones: tuple[str, ...],
) -> None:  # fmt: skip
    on_features(
        name, title, meaning, settings, (*SKIN, *LIPS), _made, acts, zones,
        reach=lambda v: make_up.reach(px_per_mm(v)), reads=_reads,
    )  # fmt: skip


_kind(
    "eye_make_up",
    "Eye make-up",
    "What is on the lids made stronger or fainter, or colour laid on them.",
    (
        _STRONGER,
        *_colour(310.0, 22.0),
        amount("darker", "Darker", "The region as a whole."),
        _TONES,
    ),
    ("stronger", "amount", "darker"),
    ("lid_above", "lid_below"),
)
_kind(
    "lash_line",
    "Lash line",
    "A soft dark line at the roots of the lashes and on the waterline.",
    (amount("darker", "Darker", "The line."), _STRONGER, _TONES),
    ("darker", "stronger"),
    ("lash_line", "waterline"),
)
_kind(
    "blush",
    "Blush",
    "Colour on the cheeks, soft, with the skin's texture and light.",
    (*_colour(35.0, 34.0), _OWN, _STRONGER),
    ("amount", "stronger"),
    ("blush",),
)
_kind(
    "contour",
    "Contour",
    "Shade below the cheekbones.",
    (amount("darker", "Darker", "The shade."), *_colour(60.0, 22.0)),
    ("darker", "amount"),
    ("hollow",),
)
_kind(
    "highlight",
    "Highlight",
    "Light on the cheekbones and along the nose.",
    (amount("lighter", "Lighter", "The light."), *_colour(75.0, 14.0), _TONES),
    ("lighter", "amount"),
    ("cheekbone", "bridge"),
)

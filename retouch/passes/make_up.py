"""Make-up on the regions that the mesh gives: eyes, lash line, blush, contour, highlight."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.edit.values import FAR
from retouch.features import make_up
from retouch.features.toning import tint_of
from retouch.passes.even_colour import LIPS
from retouch.passes.on_features import BEYOND, amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import NEUTRAL, SKIN, lab_of, neutral, part, px_per_mm
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


# Regions whose two sides are compared, by a name.
PAIRS = {"eye": ("lid_above", "lid_below"), "blush": ("blush",)}
_EVEN = amount("even", "Even both", "How much of what differs between both sides goes.")
_LINE = (
    Setting("pair_x", "Middle x", "A place on the middle line of the face.", low=-FAR, high=FAR,
            step=0.1, unit="px", auto="pair_x"),
    Setting("pair_y", "Middle y", "The same, downwards.", low=-FAR, high=FAR, step=0.1, unit="px",
            auto="pair_y"),
    Setting("pair_angle", "To the right", "Where the person's right lies: 0 right, 90 below.",
            low=-180.0, high=180.0, default=180.0, step=0.1, unit="°", auto="pair_angle"),
)  # fmt: skip


def _pair(name: str) -> tuple[Setting, ...]:
    """What the face gives of the difference between both sides of regions."""
    return (
        *_LINE,
        *(
            Setting(f"pair_{name}_{c}", f"Right against left {c}", "How the right side differs.",
                    low=-100.0, high=100.0, step=0.1, auto=f"pair_{name}_{c}")
            for c in "lab"
        ),
    )  # fmt: skip


def _differs(values: Values) -> tuple[float, float, float] | None:
    """How the right side differs from the left, of whichever regions a kind has."""
    for name in PAIRS:
        if f"pair_{name}_l" in values:
            return lab_of(values, f"pair_{name}")
    return None


def _on_right(values: Values, place: Place) -> NDArray[np.bool_]:
    """Which places of a rectangle lie on the person's right."""
    angle = np.radians(float(values["pair_angle"]))
    xs = (np.arange(place.rect.x0, place.rect.x1) + 0.5) / place.scale - float(values["pair_x"])
    ys = (np.arange(place.rect.y0, place.rect.y1) + 0.5) / place.scale - float(values["pair_y"])
    return np.asarray(xs[None] * np.cos(angle) + ys[:, None] * np.sin(angle) > 0)


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
        light, a, b = lab_of(values, "lip")
        grey = tint_of(np.array([light], np.float32), neutral(values))
        hue, chroma = make_up.polar(a - float(grey[0][0]), b - float(grey[1][0]))
    skin = lab_of(values, "skin")
    return make_up.MakeUp(
        share("amount"), hue, chroma, share("lighter") - share("darker"), share("stronger"), skin,
        str(values.get("tones", "all")), share("even"), _differs(values) or (0.0, 0.0, 0.0),
        np.inf if values["beyond"] else float(values["ceiling"]), neutral(values),
    )  # fmt: skip


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    look = _look(values)
    right = _on_right(values, place) if look.even else None
    return place.own(make_up.laid(image, look, scale, right))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    way = float(np.median(np.linalg.norm(after - before, axis=-1)))
    told = (
        Reading("laid", "Laid on", "How far the region comes from what it was (CIE 1976, median); beyond "
                "the ceiling it looks painted at first sight (common practice).", "ΔE", 0.0, way,
                float(values["ceiling"])),
        Reading("light", "Lightness", "Median lightness of the region.", "L*", light_of(before, 0.5),
                light_of(after, 0.5)),
        Reading("chroma", "Colour", "Median chroma of the region.", "C*", chroma_of(before),
                chroma_of(after)),
    )  # fmt: skip
    differs = _differs(values)
    if differs is None:
        return told
    gap = float(np.linalg.norm(differs))
    return (
        *told,
        Reading("sides", "Right against left", "How far both sides differ beside their skin, as "
                "photographed (CIE 1976).", "ΔE", gap, gap * (1 - part(values, "even"))),
    )  # fmt: skip


def _kind(
    name: str, title: str, meaning: str, settings: tuple[Setting, ...], acts: tuple[str, ...],
    zones: tuple[str, ...], most: float, fitted: tuple[Setting, ...] = (),
) -> None:  # fmt: skip
    held = Setting(
        "ceiling", "Ceiling", "How far it may come from what is there.", low=2.0, high=80.0,
        default=most, unit="ΔE",
    )  # fmt: skip
    on_features(
        name, title, meaning, (*settings, held, BEYOND), (*SKIN, *LIPS, *NEUTRAL, *fitted), _made, acts, zones,
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
        _EVEN,
        _TONES,
    ),
    ("stronger", "amount", "darker", "even"),
    PAIRS["eye"],
    24.0,
    _pair("eye"),
)
_kind(
    "lash_line",
    "Lash line",
    "A soft dark line at the roots of the lashes and on the waterline.",
    (amount("darker", "Darker", "The line."), _STRONGER, _TONES),
    ("darker", "stronger"),
    ("lash_line", "waterline"),
    26.0,
)
_kind(
    "blush",
    "Blush",
    "Colour on the cheeks, soft, with the skin's texture and light.",
    (*_colour(35.0, 34.0), _OWN, _STRONGER, _EVEN),
    ("amount", "stronger", "even"),
    PAIRS["blush"],
    12.0,
    _pair("blush"),
)
_kind(
    "contour",
    "Contour",
    "Shade below the cheekbones.",
    (amount("darker", "Darker", "The shade."), *_colour(60.0, 22.0)),
    ("darker", "amount"),
    ("hollow",),
    12.0,
)
_kind(
    "highlight",
    "Highlight",
    "Light on the cheekbones and along the nose.",
    (amount("lighter", "Lighter", "The light."), *_colour(75.0, 14.0), _TONES),
    ("lighter", "amount"),
    ("cheekbone", "bridge"),
    12.0,
)

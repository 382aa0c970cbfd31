"""Irises, with rim, pupil and catchlight: a pass on features."""

from __future__ import annotations

from retouch.colour.arrays import Lab, Working
from retouch.edit.values import FAR
from retouch.features import irises
from retouch.passes.on_features import BEYOND, amount, on_features
from retouch.passes.readings import Reading, chroma_of, light_of
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import part
from retouch.passes.ways import Array, Place, Values

_AMOUNTS = (
    "lighter", "richer", "depth", "crisp", "rim", "pupil", "catchlight", "even", "recolour",
)  # fmt: skip
_SIDES = ("right", "left")
_FITTED = (
    Setting("white_l", "Whites L*", "Lightness of this person's whites.", default=70.0, step=0.1,
            auto="white_l"),
    *(
        setting
        for s in _SIDES
        for setting in (
            *(
                Setting(f"iris_{s}_{axis}", f"{s.capitalize()} iris {axis}", "Its middle.", low=-FAR,
                        high=FAR, step=0.1, unit="px", auto=f"iris_{s}_{axis}")
                for axis in "xy"
            ),
            Setting(f"iris_{s}_r", f"{s.capitalize()} iris radius", "0 where none is seen.", low=0.0,
                    high=20000.0, step=0.1, unit="px", auto=f"iris_{s}_r"),
            Setting(f"iris_{s}_pupil", f"{s.capitalize()} pupil", "Its part of the iris' radius.",
                    low=0.0, high=1.0, default=0.36, step=0.01, auto=f"iris_{s}_pupil"),
            *(
                Setting(f"iris_{s}_{c}", f"{s.capitalize()} iris {c}", "CIELAB of its pattern.",
                        low=-100.0, high=100.0, step=0.1, auto=f"iris_{s}_{c}")
                for c in ("l", "ca", "cb")
            ),
        )
    ),
)  # fmt: skip


def places(values: Values) -> list[irises.IrisPlace]:
    """The irises that are seen."""
    out = []
    for s in _SIDES:
        x, y, r, pupil, light, a, b = (
            float(values[f"iris_{s}_{n}"]) for n in ("x", "y", "r", "pupil", "l", "ca", "cb")
        )
        if r > 0:
            out.append(irises.IrisPlace(x, y, r, pupil, (light, a, b)))
    return out


def limit(values: Values) -> float:
    """The lightness that irises stay below, L*."""
    return float(values["ceiling"]) / 100 * float(values["white_l"])


def _made(image: Working, values: Values, place: Place, scale: float) -> Array:
    most = 100.0 if values["beyond"] else limit(values)
    look = irises.IrisLook(
        **{n: part(values, n) for n in _AMOUNTS},
        hue=float(values["hue"]),
        ceiling=most,
        beyond=bool(values["beyond"]),
    )
    return place.own(irises.changed(image, place.rect, place.scale, look, places(values)))


def _reads(before: Lab, after: Lab, values: Values) -> tuple[Reading, ...]:
    return (
        Reading(
            "light", "Irises", "Lightness of most of the irises. The ceiling is a part of that of the "
            "whites: beyond it eyes look lit from within (common practice).", "L*",
            light_of(before, 0.6), light_of(after, 0.6), limit(values),
        ),
        Reading(
            "chroma", "Their colour", "Median chroma. The ceiling is a "
            "part of that of the person's own irises: beyond it they look painted (common practice).",
            "C*", chroma_of(before), chroma_of(after),
            max((irises.most_chroma(p) for p in places(values)), default=None),
        ),
    )  # fmt: skip


def _lacks(values: Values) -> str | None:
    if places(values):
        return None
    return (
        "No iris of this person is known. Measure one in the stage Look, then add this pass anew."
    )


IRISES = on_features(
    "irises",
    "Irises",
    "Irises lighter, richer, deeper and crisper; the ring at the rim stays.",
    (
        amount("lighter", "Lighter", "Up to the ceiling; rim, pupil and catchlight stay."),
        amount("richer", "Richer", "More of their own colour."),
        amount("depth", "Depth", "Contrast of the pattern.", low=-100.0),
        amount("crisp", "Crisp", "Sharper, coarse more than fine."),
        amount("rim", "Ring", "The dark ring at the rim, deeper or fainter.", low=-100.0),
        amount("pupil", "Pupil", "Darker and neutral."),
        amount("catchlight", "Catchlight", "Brighter."),
        amount("even", "Even both", "Both irises brought to each other's colour."),
        amount("recolour", "Recolour", "How far the hue is turned; pattern and light stay."),
        Setting("hue", "Its hue", "In CIELAB: 70 brown, 100 green-brown, 150 green, 250 blue.",
                low=0.0, high=360.0, default=250.0, unit="°"),
        Setting("ceiling", "Ceiling", "Part of the whites' lightness that irises stay below.",
                low=20.0, high=100.0, default=100 * irises.CEILING_OF_WHITES, unit="%"),
        BEYOND,
    ),
    _FITTED,
    _made,
    acts=_AMOUNTS,
    zones=("irises", "pupils"),
    reach=lambda v: max((irises.reach(p.radius) for p in places(v)), default=0),
    reads=_reads,
    lacks=_lacks,
)  # fmt: skip

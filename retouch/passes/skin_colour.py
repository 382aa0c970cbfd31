"""Redness, shine and shadows: passes on skin that know the person's own colour."""

from __future__ import annotations

from retouch.colour.arrays import Working
from retouch.passes.on_skin import on_skin
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import FITTED_SKIN, ROUGE, own_skin, part, px_per_mm
from retouch.passes.ways import Array, Place, Values, broad_look
from retouch.skin import light, redness

_REDNESS = (
    Setting("amount", "Amount", "How much of the redness goes.", default=50.0, unit="%"),
    Setting("tolerance", "Own variety", "Redness that belongs to this skin and stays.",
            low=0.0, high=15.0, default=7.0, step=0.1),
    Setting("floor", "Grey guard", "Part of the skin's own saturation that always stays.",
            default=60.0, unit="%"),
    Setting("size_mm", "From size", "Redness of smaller places stays as it is.", low=0.3,
            high=10.0, default=2.0, step=0.1, unit="mm"),
    Setting("cheeks", "Keep cheeks", "How much of what both cheeks have alike stays: rouge, a living "
            "flush.", default=100.0, unit="%"),
    Setting("lift", "Lighten", "How much of the dark that comes with redness goes with it.",
            default=0.0, unit="%"),
)  # fmt: skip
_SHINE = (
    Setting("amount", "Amount", "How much of the shine goes; some is needed for form.",
            default=30.0, unit="%"),
    Setting("threshold", "From", "How much lighter than light skin counts as shine; dark skin in "
            "proportion.", low=2.0, high=40.0, default=14.0, step=0.5, unit="L*"),
)  # fmt: skip
_SHADOWS = (
    Setting("amount", "Amount", "The most of a shadow that goes; about half looks rested.",
            default=50.0, unit="%"),
    Setting("least", "From", "How much darker than the skin around counts as shadow.",
            low=0.0, high=20.0, default=1.0, step=0.5, unit="L*"),
    Setting("cast", "Violet cast", "How much of a bluish or violet cast goes, with its dark.",
            default=50.0, unit="%"),
)  # fmt: skip


def _less_red(image: Working, settings: Values, place: Place, scale: float) -> Array:
    own = own_skin(settings, place.scale, part(settings, "cheeks"))
    return redness.less_red(
        image, place.rect, scale, own, part(settings, "amount"),
        float(settings["tolerance"]), part(settings, "floor"), float(settings["size_mm"]),
        inner=place.inner, lift=part(settings, "lift"), around=place.around,
    )  # fmt: skip


def _less_shine(image: Working, settings: Values, place: Place, scale: float) -> Array:
    return light.less_shine(
        image, place.rect, scale, own_skin(settings, place.scale), part(settings, "amount"),
        float(settings["threshold"]), inner=place.inner, around=place.around,
    )  # fmt: skip


def _lifted(image: Working, settings: Values, place: Place, scale: float) -> Array:
    return light.lifted(
        image, place.rect, scale, own_skin(settings, place.scale), part(settings, "amount"),
        float(settings["least"]), inner=place.inner, cast=part(settings, "cast"),
        around=place.around,
    )  # fmt: skip


on_skin(
    "redness",
    "Redness",
    "Redness taken back towards the person's own skin colour.",
    _REDNESS,
    (*FITTED_SKIN, *ROUGE),
    _less_red,
    reach=lambda s: redness.reach(px_per_mm(s), float(s["size_mm"])),
    broad=lambda s: broad_look(redness.cell(px_per_mm(s), float(s["size_mm"]))),
    # Ears and lids are redder than the face by nature, and dark circles are no redness.
    besides=("ears", "eyelids", "under_eye_right", "under_eye_left"),
    finds=True,
)
on_skin(
    "shine",
    "Shine",
    "Highlights dulled and given the skin's colour.",
    _SHINE,
    FITTED_SKIN,
    _less_shine,
    reach=lambda s: light.shine_reach(px_per_mm(s)),
    broad=lambda s: broad_look(light.shine_cell(px_per_mm(s)), light.shine_near(px_per_mm(s))),
    finds=True,
)
on_skin(
    "shadows",
    "Shadows",
    "Dark circles under the eyes and deep shadows lifted.",
    _SHADOWS,
    FITTED_SKIN,
    _lifted,
    reach=lambda s: light.shade_reach(px_per_mm(s)),
    broad=lambda s: broad_look(light.shade_cell(px_per_mm(s))),
    acts=("amount", "cast"),
    zones=("under_eye_right", "under_eye_left"),
    finds=True,
)

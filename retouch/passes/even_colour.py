"""Even colour, and living colour brought back: passes on skin."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Working
from retouch.passes.on_skin import on_skin
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import FITTED_SKIN, lab_of, own_skin, part, px_per_mm, skin_lab
from retouch.passes.ways import Array, Place, Values
from retouch.skin import even

_PULLS = ("hue", "saturation", "lightness")
_EVEN = (
    Setting("hue", "Hue", "How far the hue is pulled to the skin's own.", default=40.0, unit="%"),
    Setting("saturation", "Saturation", "How far the saturation is pulled.", default=20.0,
            unit="%"),
    Setting("lightness", "Lightness", "How far the lightness is pulled.", default=0.0, unit="%"),
    Setting("variety", "Own variety", "Differences that are natural and stay.", low=0.0,
            high=20.0, default=4.0, step=0.5),
    Setting("size_mm", "From size", "Finer differences stay as they are.", low=0.5, high=60.0,
            default=4.0, step=0.5, unit="mm"),
)  # fmt: skip
# Of lips, from memory, where no face is known.
LIPS = (
    Setting("lip_l", "Lips L*", "Lightness of this person's lips.", default=50.0, step=0.1,
            auto="lip_l"),
    Setting("lip_a", "Lips a*", "Their place between green and red.", default=24.0, low=-60.0,
            high=60.0, step=0.1, auto="lip_a"),
    Setting("lip_b", "Lips b*", "Their place between blue and yellow.", default=12.0, low=-60.0,
            high=60.0, step=0.1, auto="lip_b"),
)  # fmt: skip
_LIVING = (
    Setting("amount", "Amount", "Part of the way from the skin's colour to that of the lips.",
            default=25.0, unit="%"),
)  # fmt: skip


def _sigma(settings: Values) -> float:
    return 0.5 * float(settings["size_mm"]) * px_per_mm(settings)


def _evened(image: Working, settings: Values, place: Place, scale: float) -> Array:
    hue, saturation, lightness = (part(settings, n) for n in _PULLS)
    return even.evened(
        image, place.rect, _sigma(settings) * place.scale, own_skin(settings, place.scale), hue,
        saturation, lightness, float(settings["variety"]), inner=place.inner,
    )  # fmt: skip


def _enlivened(image: Working, settings: Values, place: Place, scale: float) -> Array:
    lips = np.array(lab_of(settings, "lip"), np.float32)
    return even.enlivened(place.own(image), skin_lab(settings), lips, part(settings, "amount"))


on_skin(
    "even_colour",
    "Even colour",
    "Red, yellow and pale patches pulled to the person's own skin colour.",
    _EVEN,
    FITTED_SKIN,
    _evened,
    reach=lambda s: even.reach(_sigma(s)),
    acts=_PULLS,
)
on_skin(
    "living_colour",
    "Bring back colour",
    "Living colour on cheeks, nose and ears, from the person's own lips.",
    _LIVING,
    (*LIPS, *FITTED_SKIN),
    _enlivened,
    zones=("cheek_right", "cheek_left", "nose", "ears"),
)

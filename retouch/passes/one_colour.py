"""One colour: pressed on in the picture, changed there and in all alike places."""

from __future__ import annotations

import numpy as np

from retouch.colour.arrays import Working
from retouch.passes.on_skin import on_skin
from retouch.passes.settings import Setting
from retouch.passes.skin_settings import FITTED_SKIN, lab_of, part, px_per_mm, skin_lab
from retouch.passes.ways import Array, Place, Values
from retouch.skin import alike

_SETTINGS = (
    Setting("towards", "To the skin's colour", "Above 0 hue and saturation come nearer to the "
            "skin's own, below 0 they go further away.", low=-100.0, high=100.0, unit="%"),
    Setting("light", "Light", "Lighter or darker.", low=-20.0, high=20.0, step=0.5, unit="L*"),
    Setting("tolerance", "Tolerance", "How unlike a colour may be and still be changed.",
            low=1.0, high=40.0, default=9.0, step=0.5),
    Setting("from_l", "Colour L*", "Lightness of the colour that was pressed on.", default=60.0,
            step=0.1),
    Setting("from_a", "Colour a*", "Its place between green and red.", low=-100.0, default=20.0,
            step=0.1),
    Setting("from_b", "Colour b*", "Its place between blue and yellow.", low=-100.0,
            default=18.0, step=0.1),
)  # fmt: skip


def _shifted(image: Working, settings: Values, place: Place, scale: float) -> Array:
    colour = np.array(lab_of(settings, "from"), np.float32)
    return alike.shifted(
        image, place.rect, scale, skin_lab(settings), colour, float(settings["tolerance"]),
        part(settings, "towards"), float(settings["light"]), inner=place.inner,
    )  # fmt: skip


on_skin(
    "one_colour",
    "One colour",
    "A colour pressed on in the picture, changed in all alike places of the skin.",
    _SETTINGS,
    FITTED_SKIN,
    _shifted,
    reach=lambda s: alike.reach(px_per_mm(s)),
    acts=("towards", "light"),
)

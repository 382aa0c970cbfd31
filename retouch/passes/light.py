"""Light: exposure in linear light, contrast about a pivot, blacks lifted to matte."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from retouch.colour.curve import ramp
from retouch.look.curves import contrasted, exposed, lifted
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Curve, Values

# The pivot in L*: that of an 18 % grey card.
_GREY_CARD = 50.0


@lru_cache(maxsize=32)
def curve(
    stops: float, contrast: float = 0.0, pivot: float = 50.0, lift: float = 0.0, wide: bool = False
) -> Array:
    """Encoded values for encoded ones, as a table (`retouch.colour.curve`)."""
    values = ramp(wide)
    if stops:
        values = exposed(values, stops)
    if contrast:
        # L* and encoded values rise almost alike: 50 of 100 is 0.466.
        values = contrasted(values, contrast / 100, pivot / 100 * 0.932)
    if lift:
        values = lifted(values, lift / 100)
    return np.asarray(values if wide else np.clip(values, 0, 1), np.float32)


def _curve(settings: Values, wide: bool) -> Array | None:
    """Values above white are clipped, unless the picture has room for them."""
    usual = {s.name: s.default for s in LIGHT.settings}
    stops, contrast, pivot, lift = (float(settings.get(n, v)) for n, v in usual.items())  # type: ignore[arg-type]
    return curve(stops, contrast, pivot, lift, wide) if stops or contrast or lift else None


LIGHT = register(
    PassKind(
        name="light",
        title="Light",
        meaning="Exposure and contrast of the whole picture.",
        stage="look",
        settings=(
            Setting(
                "exposure_ev", "Exposure", "Brighter or darker by this many stops of light.",
                low=-5.0, high=5.0, step=0.05, unit="EV",
            ),
            Setting("contrast", "Contrast", "Lights and darks further apart, or nearer.", low=-100.0),
            Setting(
                "pivot", "Pivot", "The lightness (L*) that stays while contrast changes.",
                low=10.0, high=90.0, default=_GREY_CARD, unit="L*",
            ),
            Setting("lift", "Matte blacks", "Blacks lifted to a soft grey.", unit="%"),
        ),
        way=Curve(_curve),
    )
)  # fmt: skip

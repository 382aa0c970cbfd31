"""Light: exposure of the whole picture, in linear light."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from retouch.colour.curve import ramp
from retouch.colour.transfer import to_encoded, to_linear
from retouch.passes.registry import PassKind, register
from retouch.passes.settings import Setting
from retouch.passes.ways import Array, Curve, Values


@lru_cache(maxsize=32)
def curve(gain: float, wide: bool = False) -> Array:
    """Encoded values for encoded ones, as a table (`retouch.colour.curve`)."""
    brighter = to_encoded(to_linear(ramp(wide)) * np.float32(gain))
    return brighter if wide else np.clip(brighter, 0, 1)


def _curve(settings: Values, wide: bool) -> Array | None:
    """Multiply the light by a power of two; values above white are clipped."""
    stops = float(settings["exposure_ev"])
    return curve(2.0**stops, wide) if stops else None


LIGHT = register(
    PassKind(
        name="light",
        title="Light",
        meaning="Exposure of the whole picture.",
        stage="look",
        settings=(
            Setting(
                "exposure_ev",
                "Exposure",
                "Brighter or darker by this many stops of light.",
                low=-3.0,
                high=3.0,
                step=0.05,
                unit="EV",
            ),
        ),
        way=Curve(_curve),
    )
)

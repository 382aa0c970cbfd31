"""Light: exposure of the whole picture, in linear light."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np

from retouch.colour.transfer import to_encoded, to_linear
from retouch.passes.registry import Array, PassKind, Place, Values, register
from retouch.passes.settings import Setting
from retouch.picture.model import to_integers

# Encoded values are looked up in a table this fine: steps of 1/65535 are below 16-bit rounding.
_STEPS = 65536


def pixels(image: Array, settings: Values, place: Place) -> Array:
    """Multiply the light by a power of two; values above white are clipped."""
    gain = 2.0 ** float(settings["exposure_ev"])
    own = place.own(image)
    return own if gain == 1.0 else np.asarray(cv2.LUT(to_integers(own, 16), _table(gain)))


@lru_cache(maxsize=32)
def _table(gain: float) -> Array:
    ramp = np.linspace(0, 1, _STEPS, dtype=np.float32)
    return np.clip(to_encoded(to_linear(ramp) * np.float32(gain)), 0, 1)


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
        pixels=pixels,
    )
)

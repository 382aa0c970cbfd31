"""Moving skin's colour and light in CIELAB while everything that isn't moved stays to the bit."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import MOST_PICKED, moving, shifted, to_lab

Array = NDArray[np.float32]

# Skin in shade is less saturated, but not without end; lit skin is hardly more so.
SHADE, LIT = 0.35, 1.15
# Amounts in CIELAB are stated for light skin of this L*.
LIGHT_SKIN = 70.0


def moved(image: Working, change: Array, lab: Lab | None = None) -> Array:
    """The image with its colours moved by ``change`` in CIELAB; ``lab``: what they are, if known.

    What is added is the difference of two conversions, so a pixel whose change is 0 stays exactly
    as it was.
    """
    h, w, _ = image.shape
    if lab is None:
        where = moving(change)
        if len(where) <= MOST_PICKED * h * w:
            out = np.array(image, np.float32)
            there, by = (
                np.ascontiguousarray(a).reshape(-1, 3)[where][None] for a in (image, change)
            )
            known = to_lab(there) if len(where) else there
            out.reshape(-1, 3)[where] = shifted(there, known, known + by, held=True)[0]
            return out
        lab = to_lab(image)
    return shifted(image, lab, lab + change, held=True)


def shade(light: Array, skin: Array) -> Array:
    """The part of the person's own a* and b* that their skin has at each lightness.

    ``light`` is L* of any shape, ``skin`` CIELAB of the person's clean skin, (3,) or of a shape that
    goes with it and (…, 3); the result is `SHADE` to `LIT`.
    """
    return np.asarray(np.clip(light / np.maximum(skin[..., 0], 1), SHADE, LIT), np.float32)


def beside_light_skin(light: Any) -> Any:
    """How much CIELAB moves at this L* by what moves it by 1 at `LIGHT_SKIN`.

    A like part of the light is more L* on light skin: in proportion to (L* + 16), as CIE 15:2018
    defines L* above 8.
    """
    return (light + 16) / (LIGHT_SKIN + 16)


def chroma(lab: Lab) -> Array:
    """C*, (h, w)."""
    return np.asarray(np.hypot(lab[..., 1], lab[..., 2]), np.float32)

"""Pictures of one colour, and the colour of a picture."""

from __future__ import annotations

import numpy as np

from retouch.colour.lab import from_lab, to_lab


def flat(lab: tuple[float, float, float], grain: float = 0.0, size: int = 64) -> np.ndarray:
    """Working values of one colour, with lightness that varies by ``grain`` (L*)."""
    out = np.tile(np.array(lab, np.float32), (size, size, 1))
    out[..., 0] += grain * np.random.default_rng(5).standard_normal((size, size))
    return from_lab(out)


def median(image: np.ndarray) -> np.ndarray:
    """The median colour of a picture, CIELAB."""
    return np.median(to_lab(image).reshape(-1, 3), 0)

"""The smooth step that masks, edges and shares fade by."""

from __future__ import annotations

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

Floats = TypeVar("Floats", bound=NDArray[np.floating[Any]])


def smooth_step(t: Floats) -> Floats:
    """0 at 0 and below, 1 at 1 and above, 3 t² - 2 t³ between: its slope is 0 at both ends.

    The cubic Hermite polynomial (as in K. Perlin, *An Image Synthesizer*, SIGGRAPH 1985); of any shape, of ``t``'s
    own precision.
    """
    t = np.clip(t, 0, 1)  # type: ignore[assignment]
    return t * t * (3 - 2 * t)  # type: ignore[return-value, operator]


def step_between(values: NDArray[np.float32], low: float, high: float) -> NDArray[np.float32]:
    """0 at ``low`` and below, 1 at ``high`` and above, smooth between."""
    t = (values - np.float32(low)) / np.float32(high - low)
    return np.asarray(smooth_step(t), np.float32)

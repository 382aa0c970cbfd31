"""What a pass's card tells in numbers about what it acts on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from retouch.colour.arrays import Lab
from retouch.features.toning import tint_of
from retouch.passes.ways import Values

# Rounding of 8-bit pixels.
_NOISE = 0.3


@dataclass(frozen=True)
class Reading:
    """A number before and after a pass.

    ``limit`` is its ceiling, or its floor if it is a ``least``; None: it has none. ``meaning`` says in
    a sentence what is read and where the limit comes from. ``of`` names the settings that change it, where
    it belongs to single ones; ``usual`` is the range that it has as a rule.
    """

    name: str
    title: str
    meaning: str
    unit: str
    before: float
    after: float
    limit: float | None = None
    least: bool = False
    of: tuple[str, ...] = ()
    usual: tuple[float, float] | None = None

    @property
    def beyond(self) -> bool:
        """Whether it lies beyond its limit, and further than before."""
        if self.limit is None:
            return False
        if self.least:
            return self.after < self.limit - _NOISE and self.after < self.before - _NOISE
        return self.after > self.limit + _NOISE and self.after > self.before + _NOISE


def light_of(lab: Lab, part: float) -> float:
    """The lightness L* that ``part`` (0..1) of some colours (n, 3) are below."""
    return float(np.quantile(lab[:, 0], part))


def chroma_of(lab: Lab) -> float:
    """Median chroma C* of colours (n, 3)."""
    return float(np.median(np.hypot(lab[:, 1], lab[:, 2])))


def chroma_beside(lab: Lab, neutral: tuple[float, float, float]) -> float:
    """Median chroma C* of colours (n, 3) beside what is grey in a light (CIELAB)."""
    grey = np.stack(tint_of(np.asarray(lab[:, 0], np.float32), neutral), -1)
    return float(np.median(np.linalg.norm(lab[:, 1:] - grey, axis=-1)))


# (CIELAB before (n, 3), CIELAB after (n, 3), the pass's values) of all pixels that it surely acts on.
Reads = Callable[[Lab, Lab, Values], tuple[Reading, ...]]

"""How many pixels are a millimetre on a face."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from retouch.face.iris import Iris

# Horizontal visible iris diameter: 11.7 mm with a spread of about 0.4 mm between adults
# (F. Rüfer, A. Schröder, C. Erb, *White-to-white corneal diameter: normal values in healthy
# humans obtained with the Orbscan II topography system*, Cornea 24, 2005: 11.71 ± 0.42 mm).
IRIS_MM = 11.7
IRIS_SPREAD_MM = 0.42
# Distance of the pupils of adults: mean 63 mm, nearly everyone 52 to 78 (N. A. Dodgson,
# *Variation and extrema of human interpupillary distance*, SPIE 5291, 2004).
PUPILS_MM = 63.0
PUPILS_LEAST_MM, PUPILS_MOST_MM = 52.0, 78.0
PUPILS_SPREAD_MM = 3.8
# An iris that was only guessed by the mesh is good to this part.
_GUESSED = 0.1
_MEASURED = 0.02


@dataclass(frozen=True)
class Scale:
    """``px_per_mm`` with ``uncertainty`` (relative, one standard deviation).

    ``pupils_mm`` is the distance of the pupils that follows; ``plausible`` tells whether adults
    have such. ``source`` is ``iris``, ``pupils`` (no usable iris) or ``hand``.
    """

    px_per_mm: float
    uncertainty: float
    pupils_mm: float
    plausible: bool
    source: Literal["iris", "pupils", "hand"]


def from_irises(right: Iris, left: Iris, yaw: float = 0.0) -> Scale:
    """Scale from both irises, checked against the distance of the pupils.

    ``yaw`` in degrees corrects that distance for the turn of the head. An eye that disagrees
    with both the other and the pupils counts less.
    """
    apart = float(np.hypot(right.x - left.x, right.y - left.y)) / max(
        float(np.cos(np.radians(yaw))), 0.3
    )
    by_pupils = apart / PUPILS_MM
    votes = [
        (eye.radius * 2 / IRIS_MM, _MEASURED if eye.found else _GUESSED) for eye in (right, left)
    ]
    # The pupils' distance is a weak vote of its own: it differs more between people.
    votes.append((by_pupils, PUPILS_SPREAD_MM / PUPILS_MM * 2))
    weights = np.array([1 / e**2 for _, e in votes])
    values = np.array([v for v, _ in votes])
    value = float(np.exp((np.log(values) * weights).sum() / weights.sum()))
    spread = abs(np.log(votes[0][0] / votes[1][0])) / 2
    uncertainty = float(np.sqrt(1 / weights.sum() + spread**2 + (IRIS_SPREAD_MM / IRIS_MM) ** 2))
    pupils = apart / value
    return Scale(
        value, uncertainty, pupils, PUPILS_LEAST_MM <= pupils <= PUPILS_MOST_MM,
        "iris" if right.found or left.found else "pupils",
    )  # fmt: skip


def by_hand(radius_px: float, right: Iris, left: Iris, yaw: float = 0.0) -> Scale:
    """Scale from an iris ring that the user has laid on."""
    value = 2 * radius_px / IRIS_MM
    apart = float(np.hypot(right.x - left.x, right.y - left.y)) / max(
        float(np.cos(np.radians(yaw))), 0.3
    )
    pupils = apart / value
    plausible = PUPILS_LEAST_MM <= pupils <= PUPILS_MOST_MM
    return Scale(value, IRIS_SPREAD_MM / IRIS_MM, pupils, plausible, "hand")

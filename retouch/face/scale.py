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
# An iris that was only guessed by the mesh is good to this part; one whose rim was found to this
# part and to so many pixels of its radius.
_GUESSED = 0.1
_MEASURED, _RIM_PX = 0.02, 0.35
# Eyes that disagree by more than this: one of them was measured amiss.
_DISAGREE = 0.08


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
    """Scale from both irises and the distance of the pupils, each as far as it can be trusted.

    ``yaw`` in degrees corrects that distance for the turn of the head. On a small face the rim of
    an iris is known to a third of a pixel only, and the pupils' distance counts for more. Of eyes
    that disagree, the one further from the pupils' distance counts less.
    """
    apart = float(np.hypot(right.x - left.x, right.y - left.y)) / max(
        float(np.cos(np.radians(yaw))), 0.3
    )
    by_pupils = apart / PUPILS_MM
    votes = [(eye.radius * 2 / IRIS_MM, _error_of(eye)) for eye in (right, left)]
    if abs(np.log(votes[0][0] / votes[1][0])) > _DISAGREE:
        worse = int(np.argmax([abs(np.log(v / by_pupils)) for v, _ in votes]))
        votes[worse] = (votes[worse][0], 3 * votes[worse][1])
    votes.append((by_pupils, PUPILS_SPREAD_MM / PUPILS_MM))
    weights = np.array([1 / e**2 for _, e in votes])
    values = np.array([v for v, _ in votes])
    value = float(np.exp((np.log(values) * weights).sum() / weights.sum()))
    # What the votes disagree by is as much doubt as each one's own.
    spread = float((weights * (np.log(values) - np.log(value)) ** 2).sum() / weights.sum())
    uncertainty = float(np.sqrt(1 / weights.sum() + spread + (IRIS_SPREAD_MM / IRIS_MM) ** 2))
    pupils = apart / value
    return Scale(
        value, uncertainty, pupils, PUPILS_LEAST_MM <= pupils <= PUPILS_MOST_MM,
        "iris" if right.found or left.found else "pupils",
    )  # fmt: skip


def _error_of(eye: Iris) -> float:
    """How far off an iris' radius may be, as a part of it."""
    if not eye.found:
        return _GUESSED
    return float(np.hypot(_MEASURED, _RIM_PX / max(eye.radius, 1.0)))


def by_hand(radius_px: float, right: Iris, left: Iris, yaw: float = 0.0) -> Scale:
    """Scale from an iris ring that the user has laid on."""
    value = 2 * radius_px / IRIS_MM
    apart = float(np.hypot(right.x - left.x, right.y - left.y)) / max(
        float(np.cos(np.radians(yaw))), 0.3
    )
    pupils = apart / value
    plausible = PUPILS_LEAST_MM <= pupils <= PUPILS_MOST_MM
    return Scale(value, IRIS_SPREAD_MM / IRIS_MM, pupils, plausible, "hand")

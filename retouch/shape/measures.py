"""Measures of a face that proportions change, and between what they lie for most adults.

Ranges are from two standard deviations below the mean of young women to two above that of young men, of
North American adults of European descent (L. G. Farkas, *Anthropometry of the Head and Face*, 2nd ed.,
1994; the values are from memory). Other people differ: what lies beyond is told, never refused.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from retouch.shape.mesh import Mesh


@dataclass(frozen=True)
class Measure:
    """A distance between two points of the mesh, and its usual range in mm; ``by``: what changes it."""

    title: str
    ends: tuple[int, int]
    low: float
    high: float
    by: tuple[str, ...]

    def of(self, mesh: Mesh) -> float:
        """Its length in mm, as the picture shows it."""
        a, b = mesh.own[list(self.ends)]
        return float(np.hypot(*(a - b)))


MEASURES: tuple[Measure, ...] = (
    Measure("Right eye", (33, 133), 28.0, 34.0, ("eye_width_right", "eye_size_right")),
    Measure("Left eye", (263, 362), 28.0, 34.0, ("eye_width_left", "eye_size_left")),
    Measure("Between the eyes", (133, 362), 27.0, 39.0, ("eye_apart_right", "eye_apart_left")),
    Measure("Nose across its wings", (64, 294), 27.5, 39.0, ("nose_wings", "nose_width")),
    Measure("Nose's length", (168, 2), 44.0, 61.5, ("nose_length",)),
    Measure("Mouth's width", (61, 291), 43.0, 60.5, ("mouth_width",)),
    Measure("Upper lip", (0, 13), 5.5, 12.0, ("lip_upper", "mouth_height")),
    Measure("Lower lip", (14, 17), 6.5, 14.0, ("lip_lower", "mouth_height")),
    Measure("Face's width", (234, 454), 121.0, 146.0, ("face_cheeks", "face_width")),
    Measure("Jaw's width", (58, 288), 79.0, 109.0, ("face_jaw_corner", "face_jaw")),
    Measure("Nose to chin", (2, 152), 56.0, 82.0, ("face_chin",)),
)

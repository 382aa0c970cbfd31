"""The steps that a warp is composed of."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

# Places (n, 2): x, y in continuous coordinates, pixel centres at +0.5.
Points = NDArray[np.floating[Any]]
Matrix = NDArray[np.floating[Any]]


class Step(Protocol):
    """One change of geometry, both ways."""

    @property
    def key(self) -> str:
        """Fingerprint of all that it does."""
        ...

    @property
    def matrix(self) -> Matrix | None:
        """The whole of `back` as a (3, 3) matrix on homogeneous places; None: it isn't projective."""
        ...

    def back(self, points: Points) -> Points:
        """Where places (n, 2) after the step come from."""
        ...

    def forth(self, points: Points) -> Points:
        """Where places (n, 2) before the step go to."""
        ...


@dataclass(frozen=True, eq=False)
class Projective:
    """A projective map (a homography): moves, turns, mirrors, perspective.

    Parameters
    ----------
    matrix : ndarray (3, 3)
        From places after the step to places before it, homogeneous.

    References
    ----------
    R. Hartley and A. Zisserman, "Multiple View Geometry in Computer Vision", 2nd edition, 2004,
    section 2.3.
    """

    matrix: Matrix

    @cached_property
    def key(self) -> str:
        return self.matrix.tobytes().hex()

    @cached_property
    def inverse(self) -> Matrix:
        """From places before the step to those after it."""
        return np.linalg.inv(self.matrix)

    def back(self, points: Points) -> Points:
        return moved(self.matrix, points)

    def forth(self, points: Points) -> Points:
        return moved(self.inverse, points)


def moved(matrix: Matrix, points: Points) -> Points:
    """Places (n, 2) through a (3, 3) matrix."""
    ends = points @ matrix[:, :2].T + matrix[:, 2]
    return np.asarray(ends[:, :2] / ends[:, 2:])

"""The order in which many spots are best healed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

# Spots further apart than this many radii don't lie in each other's ring.
_NEIGHBOUR = 3.0


def outside_in(spots: Sequence[tuple[float, float, float]]) -> list[int]:
    """Indices of spots (x, y, radius), those with the clearest surroundings first.

    Retouchers clear a bad area from its outside inwards (common practice), so that every spot
    finds clean skin beside it when its turn comes. Healed spots no longer count as crowding.
    """
    left = list(range(len(spots)))
    data = np.asarray(spots, np.float64).reshape(-1, 3)
    gap = np.hypot(data[:, None, 0] - data[None, :, 0], data[:, None, 1] - data[None, :, 1])
    near = gap / (data[:, None, 2] + data[None, :, 2]) < _NEIGHBOUR / 2
    crowd = np.where(near, data[None, :, 2] ** 2 / np.maximum(gap, 1) ** 2, 0)
    np.fill_diagonal(crowd, 0)
    order: list[int] = []
    while left:
        best = min(left, key=lambda i: (round(float(crowd[i, left].sum()), 9), i))
        order.append(best)
        left.remove(best)
    return order

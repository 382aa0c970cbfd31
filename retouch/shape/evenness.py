"""How far the two sides of a face differ, and what would make them alike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.shape.mesh import Mesh
from retouch.warp.steps import Points

# Points of the right and left side that belong together, by feature.
PAIRS: dict[str, tuple[tuple[int, int], ...]] = {
    "eyes": tuple(zip(lm.EYE_R, lm.EYE_L, strict=True)),
    "brows": tuple(zip(lm.BROW_R, lm.BROW_L, strict=True)),
    "nose": ((98, 327), (97, 326), (64, 294), (48, 278), (49, 279), (129, 358), (198, 420), (209, 429)),
    "mouth": (
        (61, 291), (185, 409), (40, 270), (39, 269), (37, 267), (146, 375), (91, 321), (181, 405),
        (84, 314), (78, 308), (191, 415), (80, 310), (81, 311), (82, 312), (95, 324), (88, 318),
        (178, 402), (87, 317),
    ),
    "face": tuple((lm.OVAL[-k], lm.OVAL[k]) for k in range(4, 15)),
}  # fmt: skip
# The middle of a face, from the forehead to the chin.
_MIDDLE = (10, 151, 9, 8, 168, 6, 2, 164, 0, 17, 18, 200, 152)


def differences(mesh: Mesh, feature: str) -> tuple[NDArray[np.int64], Points]:
    """Points of a feature, and how far (mm) each would go to be as far from the middle and as high as
    the mean of itself and its partner.

    On a head that is turned the far side is narrower of itself: distances are compared as parts of
    their side's width at the outer corners of the eyes.
    """
    own = mesh.own
    slope = np.polynomial.Polynomial.fit(own[list(_MIDDLE), 1], own[list(_MIDDLE), 0], 1)
    pairs = np.array(PAIRS[feature])
    right, left = (own[pairs[:, k]] for k in (0, 1))
    wide = [
        abs(float(own[c, 0] - slope(own[c, 1]))) for c in (lm.CORNER_R, lm.CORNER_L)
    ]  # fmt: skip
    out = [(slope(right[:, 1]) - right[:, 0]) / wide[0], (left[:, 0] - slope(left[:, 1])) / wide[1]]
    mean_out, mean_down = (out[0] + out[1]) / 2, (right[:, 1] + left[:, 1]) / 2
    shifts = np.concatenate([
        np.stack([-(mean_out - out[0]) * wide[0], mean_down - right[:, 1]], 1),
        np.stack([(mean_out - out[1]) * wide[1], mean_down - left[:, 1]], 1),
    ])  # fmt: skip
    return np.concatenate([pairs[:, 0], pairs[:, 1]]), shifts


def unevenness(mesh: Mesh, feature: str) -> float:
    """How far the two sides of a feature differ, in mm: the mean over its points."""
    _, shifts = differences(mesh, feature)
    return float(2 * np.hypot(*shifts.T).mean())


def evened(mesh: Mesh, feature: str, share: float, around_mm: float) -> Points:
    """Shifts of all handles in mm that take a part of a feature's difference away, fading around it."""
    numbers, shifts = differences(mesh, feature)
    chosen = np.zeros(len(mesh.handles), np.bool_)
    chosen[numbers] = True
    away = np.linalg.norm(mesh.own[:, None] - mesh.own[numbers][None], axis=2)
    # Handles beside go as those of the feature that are nearest.
    weight = 1 / (away**2 + 1.0) ** 2
    smooth = (weight[..., None] * shifts[None]).sum(1) / weight.sum(1)[:, None]
    fade = np.exp(-((away.min(1) / around_mm) ** 2))
    fade[chosen] = 1
    for name, other in mesh.groups.items():
        if not (chosen & other).any() and name != feature:
            fade[other & ~chosen] = 0
    fade[mesh.outward > 1.4] = 0
    return np.asarray(share * smooth * fade[:, None])

"""What the parser says, held against what must be: a person hangs together, beards grow on chins."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.face.frame import distance, fill, ramp
from retouch.face.parser import BACKGROUND, BEARD, SKIN, THING

Array = NDArray[np.float32]

# Outline of where a beard begins: from one corner of the jaw over the upper lip to the other.
_CHIN = (172, 136, 150, 149, 176, 148, 152, 377, 400, 378, 379, 365, 397, 287, 410, 164, 186, 57)
# A beard covers at least this part of it; dark glasses at least this part around both eyes.
_LEAST_BEARD, _LEAST_GLASSES = 0.12, 0.45
# Around an eye, in face heights.
_AROUND_EYE = 0.035
# Pieces of a person that don't hang together with the face are still theirs from this part of it on,
# where the outline of the person says so, too.
_OUTLINE, _PIECE = 0.5, 0.02


def sensible(chances: Array, points: Array, unit: float, outline: Array) -> Array:
    """The chances of all classes, corrected where they can't be.

    Parameters
    ----------
    chances : ndarray (CLASSES, side, side) float32
    points : ndarray (478, 2)
        The mesh on the canvas.
    unit : float
        Height of the face on it.
    outline : ndarray (side, side) float32
        How surely each place belongs to a person.
    """
    out = _surely_a_person(chances, points, unit)
    out = _no_beard_without_chin(out, points)
    out = _no_half_glasses(out, points, unit)
    return _in_one_piece(out, points, outline)


def _surely_a_person(chances: Array, points: Array, unit: float) -> Array:
    """Within the mesh there is no background, even where a tight crop leaves nothing else."""
    shape = (chances.shape[1], chances.shape[2])
    oval = distance(fill(shape, points[list(lm.OVAL)])) / unit
    inside = ramp(oval - 0.04, 0.03)
    out = chances.copy()
    moved = out[BACKGROUND] * inside
    out[BACKGROUND] -= moved
    rest = out[1:].sum(0) + 1e-6
    unclear = rest < 0.05
    out[1:] *= 1 + moved / rest
    out[1:, unclear] = 0
    out[SKIN, unclear] = 1 - out[BACKGROUND, unclear]
    return out


def _no_beard_without_chin(chances: Array, points: Array) -> Array:
    """A wrinkled neck or a shadow below the jaw is no beard where the chin has none."""
    chin = fill((chances.shape[1], chances.shape[2]), points[list(_CHIN)])
    lips = fill((chances.shape[1], chances.shape[2]), points[list(lm.LIPS_OUT)])
    chin = chin * (1 - lips)
    if float((chances[BEARD] * chin).sum()) > _LEAST_BEARD * float(chin.sum()):
        return chances
    return _given(chances, BEARD, np.ones(chin.shape, np.float32))


def _no_half_glasses(chances: Array, points: Array, unit: float) -> Array:
    """Painted lids and closed eyes are no dark glasses: those cover both eyes and what is around."""
    shape = (chances.shape[1], chances.shape[2])
    reach = max(1, round(_AROUND_EYE * unit))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    eyes = [cv2.dilate(fill(shape, points[list(eye)]), disc) for eye in (lm.EYE_R, lm.EYE_L)]
    covered = [float((chances[THING] * e).sum() / max(float(e.sum()), 1e-6)) for e in eyes]
    if min(covered) > _LEAST_GLASSES:
        return chances
    return _given(chances, THING, np.clip(eyes[0] + eyes[1], 0, 1))


def _given(chances: Array, number: int, where: Array) -> Array:
    """A class taken away where it can't be; what else is likely there gets its part."""
    out = chances.copy()
    moved = out[number] * where
    out[number] -= moved
    others = [k for k in range(len(out)) if k != number]
    rest = out[others].sum(0)
    out[others] *= 1 + moved / np.maximum(rest, 1e-6)
    # Where there was nothing else, it is skin.
    out[SKIN] += np.where(rest < 1e-6, moved, 0)
    return np.asarray(out / (out.sum(0) + 1e-6), np.float32)


def _in_one_piece(chances: Array, points: Array, outline: Array) -> Array:
    """Pieces away from the person that the outline doesn't know either are background."""
    alive = (chances[BACKGROUND] < 0.5).astype(np.uint8)
    _, parts, stats, _ = cv2.connectedComponentsWithStats(alive)
    oval = fill((alive.shape[0], alive.shape[1]), points[list(lm.OVAL)]) > 0.5
    held = np.bincount(parts[oval], minlength=len(stats)) > 0
    known = np.bincount(parts.ravel(), outline.ravel(), len(stats)) / np.maximum(
        stats[:, cv2.CC_STAT_AREA], 1
    )
    large = stats[:, cv2.CC_STAT_AREA] > _PIECE * stats[1:, cv2.CC_STAT_AREA].max(initial=1)
    keep = held | ((known > _OUTLINE) & large)
    keep[0] = True
    away = ~keep[parts]
    if not away.any():
        return chances
    out = chances.copy()
    out[:, away] = 0
    out[BACKGROUND, away] = 1
    return out

"""What the parser says, held against what must be: a person hangs together, beards grow on chins."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.canvas import ALIKE, LIGHT, ROUGH, Canvas
from retouch.face.frame import distance, fill, ramp
from retouch.face.parser import BACKGROUND, BEARD, CLOTHING, HAIR, SKIN, THING

Array = NDArray[np.float32]

# Outline of where a beard begins: from one corner of the jaw over the upper lip to the other.
_CHIN = (172, 136, 150, 149, 176, 148, 152, 377, 400, 378, 379, 365, 397, 287, 410, 164, 186, 57)
# A beard covers at least this part of it, and of each of its sides; it differs from the skin by this
# much (in the canvas' clues, any one of them, or both by parts).
_LEAST_BEARD, _SIDE, _DARKER, _ROUGHER = 0.3, 0.25, 0.3, 0.06
# Dark glasses cover at least this part around both eyes.
_LEAST_GLASSES = 0.45
# How far a head goes to both sides of the eyes, and how much hair tells its colour, in face heights.
_HEAD, _LEAST_HAIR = 0.8, 0.04
# Skin is compared with the face's from so far beside it on, smoothed over this (in face heights); it is
# unlike with less than this likeness.
_BESIDE, _SMOOTH, _UNLIKE = 0.06, 0.02, 0.06
# With less than this part of the skin's chroma, and no darker than this (the canvas' clue), it is linen.
_PALE, _BRIGHT = 0.5, 0.0
# Pieces of skin smaller than this (mm²), where its chance is above this, are none; nor are those smaller
# than a hand that are hardly skin on average.
_LEAST_SKIN_MM2, _SPECK = 300.0, 0.12
# Hair, cloth and background inside the skin are as large as this at least, or longer than round: the
# part of the square around them that a round speck fills.
_LEAST_OTHER_MM2, _ROUND = 60.0, 0.3
_HAND_MM2, _HARDLY_SKIN = 4000.0, 0.6
# Around an eye, in face heights.
_AROUND_EYE = 0.035
# Pieces of a person that don't hang together with the face are still theirs from this part of it on,
# where the outline of the person says so, too.
_OUTLINE, _PIECE = 0.5, 0.02


def sensible(chances: Array, canvas: Canvas, outline: Array) -> Array:
    """The chances of all classes on a canvas, corrected where they can't be.

    Parameters
    ----------
    chances : ndarray (CLASSES, side, side) float32
    outline : ndarray (side, side) float32
        How surely each place belongs to a person.
    """
    points, unit = canvas.points, canvas.unit
    out = _surely_a_person(chances, points, unit)
    out = _no_skin_of_another_colour(out, canvas)
    out = _no_beard_without_chin(out, canvas)
    out = _no_half_glasses(out, points, unit)
    out = _no_cap_like_hair(out, canvas)
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


def _no_skin_of_another_colour(chances: Array, canvas: Canvas) -> Array:
    """Away from the face, what is nothing like this person's skin is cloth or hair.

    White linen is like skin in a highlight, but no highlight is as large: a collar. What surely is
    skin all the same, as in light of another colour, stays.
    """
    shape, unit = (chances.shape[1], chances.shape[2]), canvas.unit
    oval = distance(fill(shape, canvas.points[list(lm.OVAL)])) / unit
    sigma = max(_SMOOTH * unit, 0.8)
    likely = cv2.GaussianBlur(canvas.clues[ALIKE], (0, 0), sigma)
    unlike = ramp(_UNLIKE - likely, _UNLIKE)
    colour = cv2.GaussianBlur(np.hypot(canvas.clues[1], canvas.clues[2]), (0, 0), sigma)
    light = cv2.GaussianBlur(canvas.clues[LIGHT], (0, 0), sigma)
    face = (oval > 0.05) & (chances[SKIN] > 0.9)
    if face.any():
        usual = float(np.median(colour[face]))
        pale = ramp(_PALE - colour / max(usual, 1e-3), 0.1) * ramp(light - _BRIGHT, 0.1)
        unlike = np.maximum(unlike, pale)
    sure = ramp(chances[SKIN] - 0.96, 0.02)
    return _given(chances, SKIN, ramp(-oval - _BESIDE, 0.03) * unlike * (1 - sure))


def _no_beard_without_chin(chances: Array, canvas: Canvas) -> Array:
    """A wrinkled neck or a shadow at the jaw is no beard.

    A beard covers both sides of the chin, and is of another lightness than the skin or streaky.
    """
    shape, points = (chances.shape[1], chances.shape[2]), canvas.points
    chin = fill(shape, points[list(_CHIN)]) * (1 - fill(shape, points[list(lm.LIPS_OUT)]))
    above = fill(shape, points[list(lm.OVAL)]) * (1 - chin) * chances[SKIN]
    bearded = chances[BEARD] * chin
    # The line between both sides runs from between the eyes to the chin.
    (x0, y0), (x1, y1) = points[lm.BETWEEN_EYES], points[lm.CHIN]
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    right = (xs - x0) * (y1 - y0) - (ys - y0) * (x1 - x0) < 0
    parts = [
        float(bearded[side].sum() / max(float(chin[side].sum()), 1e-6)) for side in (right, ~right)
    ]
    darker, rougher = (
        _mean(canvas.clues[n], bearded) - _mean(canvas.clues[n], above) for n in (LIGHT, ROUGH)
    )
    seen = abs(darker) / _DARKER + max(rougher, 0.0) / _ROUGHER
    if float(bearded.sum()) > _LEAST_BEARD * float(chin.sum()) and min(parts) > _SIDE and seen > 1:
        return chances
    return _given(chances, BEARD, np.ones(shape, np.float32))


def _mean(values: Array, weight: Array) -> float:
    return float((values * weight).sum() / max(float(weight.sum()), 1e-6))


def _no_half_glasses(chances: Array, points: Array, unit: float) -> Array:
    """Painted lids and closed eyes are no dark glasses: those cover both eyes and what is around."""
    shape = (chances.shape[1], chances.shape[2])
    around = disc(_AROUND_EYE * unit)
    eyes = [cv2.dilate(fill(shape, points[list(eye)]), around) for eye in (lm.EYE_R, lm.EYE_L)]
    covered = [float((chances[THING] * e).sum() / max(float(e.sum()), 1e-6)) for e in eyes]
    if min(covered) > _LEAST_GLASSES:
        return chances
    return _given(chances, THING, np.clip(eyes[0] + eyes[1], 0, 1))


def _no_cap_like_hair(chances: Array, canvas: Canvas) -> Array:
    """Above the eyes, cloth that is coloured and streaked as the hair beside it is hair in a light."""
    points, unit = canvas.points, canvas.unit
    ys, xs = np.mgrid[: chances.shape[1], : chances.shape[2]].astype(np.float32)
    eyes = points[list(lm.CORNERS)].mean(0)
    head = (ys < eyes[1]) & (np.abs(xs - eyes[0]) < _HEAD * unit)
    hair = head & (chances[HAIR] > 0.6)
    if int(hair.sum()) < _LEAST_HAIR * unit**2:
        return chances
    sigma = max(_SMOOTH * unit, 0.8)
    away = np.zeros(head.shape, np.float32)
    for clue, least in ((0, 0.15), (1, 0.04), (2, 0.06), (ROUGH, 0.12)):
        value = cv2.GaussianBlur(canvas.clues[clue], (0, 0), sigma)
        away += (value - value[hair].mean()) ** 2 / (value[hair].var() + least**2)
    # Four clues: on average each is one spread off.
    like = np.where(head, ramp(8 - away, 3), 0).astype(np.float32)
    moved = chances[CLOTHING] * like
    out = chances.copy()
    out[CLOTHING] -= moved
    out[HAIR] += moved
    return out


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


def without_specks(chances: Array, px_per_mm: float) -> None:
    """Skin in pieces too small for a finger is no skin, other specks in the skin are skin; in place.

    The former are ribbons, buttons, prints, the latter highlights and moles: hair and cloth come
    in larger pieces or hang together with more of it. Beard and things worn are left: a stud is small.

    Parameters
    ----------
    chances : ndarray (CLASSES, h, w) float32
        Summing to 1.
    px_per_mm : float
        Of their pixels.
    """
    skin = (chances[SKIN] > _SPECK).astype(np.uint8)
    _, parts, stats, _ = cv2.connectedComponentsWithStats(skin)
    area = stats[:, cv2.CC_STAT_AREA] / px_per_mm**2
    sure = (
        np.bincount(parts.ravel(), chances[SKIN].ravel(), len(stats)) / stats[:, cv2.CC_STAT_AREA]
    )
    small = (area < _LEAST_SKIN_MM2) | ((area < _HAND_MM2) & (sure < _HARDLY_SKIN))
    small[0] = False
    here = small[parts]
    if here.any():
        _given_away(chances, here)
    _filled(chances, px_per_mm)


def _filled(chances: Array, px_per_mm: float) -> None:
    """Round specks of hair, cloth and background with skin all around become skin."""
    kept = chances[BEARD] + chances[THING]
    other = (chances[SKIN] + kept < 0.5).astype(np.uint8)
    _, parts, stats, _ = cv2.connectedComponentsWithStats(other)
    width, height = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]
    area = stats[:, cv2.CC_STAT_AREA]
    round_ = area > _ROUND * np.maximum(width, height) ** 2
    specks = (area < _LEAST_OTHER_MM2 * px_per_mm**2) & round_
    specks[0] = False
    # What touches the border may go on beyond it; what touches a beard or a thing isn't in the skin.
    for edge in (parts[0], parts[-1], parts[:, 0], parts[:, -1]):
        specks[edge] = False
    beside = cv2.dilate((kept >= 0.5).astype(np.uint8), np.ones((3, 3), np.uint8))
    specks[np.unique(parts[beside > 0])] = False
    here = specks[parts]
    if here.any():
        chances[:, here] = 0
        chances[SKIN, here] = 1


def _given_away(chances: Array, here: NDArray[np.bool_]) -> None:
    """What was skin there goes to the other classes, as likely as they are."""
    others = chances[:, here]
    moved = others[SKIN].copy()
    others[SKIN] = 0
    rest = others.sum(0)
    # What is nothing but skin stays, however small.
    only = rest < 1e-3
    others *= np.where(only, 1, 1 + moved / np.maximum(rest, 1e-6))
    others[SKIN] = np.where(only, moved, 0)
    chances[:, here] = others

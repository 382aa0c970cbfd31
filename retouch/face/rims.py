"""The rim of a lens: the clearest closed path around an eye."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.face.bars import (
    BEND,
    CLEAR,
    HALVES,
    JUMP,
    SEEN,
    THICKEST,
    WIRE,
    Rim,
    sampled,
    squared,
    steps_of,
)
from retouch.face.frame import Frame
from retouch.face.ridges import edges, path, ridges

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Directions from the eye, and how far a rim lies from it, in heights of the face.
_TURNS, _NEAR, _FAR = 360, 0.05, 0.25
# Lenses sit lower than eyes by this much; a rim is at least this far from the lids.
_LOWER, _OFF_LIDS = 0.03, 0.025
# Clearer ones count more up to here, by this part.
_CLEAREST, _MIDDLE = 45.0, 0.35
# Rims have so many waves around the eye, as few as this part of what is seen lies on; by so much they
# stray from them (heights of the face).
_WAVES, _ON_WAVES, _STRAY = (1, 2, 3, 4, 6), 0.75, 0.004
# A line is as clear as within so many pixels beside it.
_NEXT = 2
# A pane ends within this of where it is told (heights of the face), by such a step of lightness (L*); a line
# that close to it is the rim.
_END, _DROP, _AT_END = 0.02, 8.0, 0.01
# A path is looked for so often beside its own waves.
_ROUNDS = 3
# What brows cost, what lids and the other half of the face do, and what lies farthest: of two lines
# the rim is the nearer one.
_BROW, _NOWHERE, _FARTHER = 0.5, 0.5, 0.4
# What lashes cost at most, and how far they reach from the lids (heights of the face).
_LASHES, _LASHES_REACH = 0.3, 0.07
# Colours of a rim vary by so much at least, and rims are told by them when so many are seen.
_VARIES, _LEAST_SEEN = 10.0, 30


@dataclass(frozen=True, eq=False)
class _Rays:
    """Places in n directions from the middle of a lens: ``turn`` (n,) radians, ``away`` (k,) pixels, ``x`` and
    ``y`` (n, k)."""

    middle: NDArray[np.float64]
    turn: NDArray[np.float64]
    away: NDArray[np.int64]
    x: Array
    y: Array

    def at(self, away: NDArray[np.floating]) -> Array:  # type: ignore[type-arg]
        """Places (n, 2) so far from the middle (n,)."""
        ways = np.stack([np.cos(self.turn), np.sin(self.turn)], 1).astype(np.float32)
        return np.asarray(self.middle + ways * away[:, None], np.float32)


@dataclass(frozen=True, eq=False)
class Lines:
    """Lines across n directions: how ``clear`` (n, k) one is at each place (CIE76), where none can be seen
    (``hidden``), and where panes end (``ends`` (n,), NaN: none does)."""

    clear: Array
    hidden: Mask
    ends: NDArray[np.float64]


def rim_of(
    frame: Frame, lab: Array, unpainted: Array, panes: Array, brow: Array, right: bool
) -> Rim:
    """The rim around one eye.

    Parameters
    ----------
    lab, unpainted : ndarray (h, w, 3)
        CIELAB; in the first one what is reflected is painted over.
    panes : ndarray (h, w)
        Where that is, 0 or 1.
    brow : ndarray (h, w)
        The brow of this eye, 0..1.
    right : bool
        Whether it is the person's right eye.
    """
    unit = frame.unit
    roll = np.radians(frame.face.pose.roll)
    rays = _rays(frame, right, roll)
    x, y = rays.x, rays.y
    around = sampled(lab, x, y)
    lines = _lines(around, sampled(unpainted, x, y), panes, rays, unit)
    clear, rows = lines.clear, np.arange(_TURNS)
    lids = frame.polygon(lm.EYE_R if right else lm.EYE_L)
    off = sampled(cv2.distanceTransform((lids < 0.5).astype(np.uint8), cv2.DIST_L2, 3), x, y)
    cost = _BROW * sampled(brow, x, y)
    cost = cost + np.linspace(0, _FARTHER, len(rays.away), dtype=np.float32)
    # Lashes lie in rows as clear as a rim.
    cost = cost + _LASHES * np.clip(1 - off / (_LASHES_REACH * unit), 0, 1)
    nowhere = (off < _OFF_LIDS * unit) | (_beyond(frame, x, y) != right)

    def found(likely: Array | float) -> NDArray[np.int64]:
        # Along a rim's edge runs a line, too, where a camera sharpened it; its middle is clearer.
        middle_too = np.minimum(clear, np.float32(_CLEAREST)) / np.float32(_CLEAREST)
        scores = np.minimum(clear, np.float32(CLEAR)) / np.float32(CLEAR)
        scores = (scores + _MIDDLE * middle_too) / (1 + _MIDDLE) * likely - cost
        scores[nowhere] = -_NOWHERE
        return course(scores, lines, _STRAY * unit)

    at = found(1.0)
    # Where no brow is, below the eye, a rim tells its colour; then it isn't taken for a brow.
    below = (np.sin(rays.turn - roll) > 0) & (clear[rows, at] > SEEN)
    colour, varies = np.zeros(3, np.float32), 100.0
    if np.count_nonzero(below) > _LEAST_SEEN:
        colours = around[rows, at]
        colour = np.median(colours[below], axis=0)
        off_colour = np.linalg.norm(colours[below] - colour, axis=1)
        varies = max(_VARIES, 2 * float(np.median(off_colour)))
        at = found(np.exp(-0.5 * squared(around, colour, varies)))
    told, free = clear[rows, at] > SEEN, ~lines.hidden[rows, at]
    inner, outer = (
        # Along a pane it is as thick as elsewhere.
        np.where(free, side, np.median(side[free])) if free.any() else side
        for side in edges(around, at, round(THICKEST * unit))
    )
    r = rays.away[at].astype(np.float32)
    # The path may run along the gloss of a rim: its middle lies between its edges.
    return Rim(
        rays.at(r - inner), rays.at(r + (outer - inner) / 2), rays.at(r + outer),
        float(np.median(inner + outer)) / 2,
        told, float(told[free].mean()) if free.any() else 0.0, colour, varies,
    )  # fmt: skip


def _rays(frame: Frame, right: bool, roll: float) -> _Rays:
    outline = frame.points[list(lm.EYE_R if right else lm.EYE_L)]
    unit, down = frame.unit, np.array([-np.sin(roll), np.cos(roll)])
    middle = (outline.max(0) + outline.min(0)) / 2 + _LOWER * unit * down
    turn = np.linspace(0, 2 * np.pi, _TURNS, endpoint=False)
    away = np.arange(int(_NEAR * unit), max(int(_FAR * unit), int(_NEAR * unit) + 8))
    x = (middle[0] + np.cos(turn)[:, None] * away).astype(np.float32)
    y = (middle[1] + np.sin(turn)[:, None] * away).astype(np.float32)
    return _Rays(middle, turn, away, x, y)


def _lines(around: Array, unpainted: Array, panes: Array, rays: _Rays, unit: float) -> Lines:
    """The lines across directions, with and without what is painted over."""
    steps = steps_of(unit)
    clear = ridges(around, steps)
    # Where a reflection was painted over, its edge is none of the picture's.
    side = 2 * round(HALVES[1] * unit) + 1
    beside_panes = cv2.morphologyEx(panes, cv2.MORPH_GRADIENT, np.ones((side, side), np.uint8))
    hidden = sampled(beside_panes, rays.x, rays.y) > 0.3
    clear[hidden] = 0
    # But a pane ends at the rim, and a line there is the rim.
    ends = pane_ends(unpainted[..., 0], sampled(panes, rays.x, rays.y) > 0.5, round(_END * unit))
    ends += WIRE / 2 * unit
    there = ridges(unpainted, steps)
    beyond = np.arange(len(rays.away)) - ends[:, None]
    at_end = hidden & (there > SEEN) & (beyond > -_NEXT) & (beyond < _AT_END * unit)
    clear[at_end], hidden[at_end] = there[at_end], False
    return Lines(clear, hidden, ends)


def pane_ends(light: Array, panes: Mask, near: int) -> NDArray[np.float64]:
    """Where the outermost pane of each direction ends (n,): in what is reflected at a lens, that is at its
    rim.

    Parameters
    ----------
    light : ndarray (n, k)
        L* along each direction.
    panes : ndarray (n, k) bool
        Where panes are, about.
    near : int
        How much farther out one may end than it is told.

    Returns
    -------
    ndarray (n,)
        Columns; NaN where none is, or no edge is seen there.
    """
    out = np.full(len(light), np.nan)
    drop = np.zeros_like(light)
    drop[:, 1:-1] = light[:, :-2] - light[:, 2:]
    for n in np.flatnonzero(panes.any(1)):
        last = int(np.flatnonzero(panes[n])[-1])
        low = max(last - near // 2, 0)
        window = drop[n, low : last + near]
        if len(window) and window.max() > _DROP:
            out[n] = low + int(window.argmax())
    return out


def course(scores: Array, lines: Lines, stray: float) -> NDArray[np.int64]:
    """The closed path of the highest scores (n, k) that lies on few waves, (n,) columns.

    It keeps within twice ``stray`` (pixels) of the waves, and lies on them where no line is seen.
    """
    rows, columns = np.arange(len(scores)), np.arange(scores.shape[1])
    at, known = _around(scores), np.full(len(scores), np.nan)
    for _ in range(_ROUNDS):
        steady = _steady(at, lines, known, stray)
        whole = np.round(steady).astype(np.int64)
        detour = np.abs(columns - steady[:, None]) > 2 * stray
        at = _around(np.where(detour, np.float32(-_NOWHERE), scores))
        at = np.where(lines.hidden[rows, whole] | (lines.clear[rows, at] < SEEN), whole, at)
        known = np.where(np.abs(lines.ends - steady) < 4 * stray, lines.ends, np.nan)
    return at


def _around(scores: Array) -> NDArray[np.int64]:
    """The closed path of the highest scores (n, k), one column for each of the n directions."""
    # Three times around: the middle one closes.
    thrice = np.ascontiguousarray(np.concatenate([scores] * 3), np.float32)
    return path(thrice, JUMP, BEND)[len(scores) : 2 * len(scores)]


def _steady(
    at: NDArray[np.int64], lines: Lines, known: NDArray[np.float64], usual: float
) -> NDArray[np.float64]:
    """Where a path lies (n,) without its detours: to a brow above it, or around a pad.

    Rims are smooth: a few waves around the eye describe them, as few as do, fitted so that what strays
    doesn't count (iteratively reweighted least squares with Cauchy's weights; P. Holland, R. Welsch,
    1977), and what is hardly seen little. ``known`` (n,): where the rim lies for sure; NaN: not known.
    """
    rows, last = np.arange(len(at)), lines.clear.shape[1] - 1
    line = np.minimum(lines.clear / np.float32(_CLEAREST), 1)

    def clearness(columns: NDArray[np.int64]) -> float:
        near = [np.clip(columns + k, 0, last) for k in range(-_NEXT, _NEXT + 1)]
        free = ~lines.hidden[rows, columns]
        best = np.maximum.reduce([line[rows, k] for k in near])
        return float(best[free].mean()) if free.any() else 0.0

    least, sure = clearness(at), ~np.isnan(known)
    places = np.where(sure, known, at)
    seen = np.where(sure, 1, np.minimum(lines.clear[rows, at] / np.float32(CLEAR), 1))
    turn = np.linspace(0, 2 * np.pi, len(at), endpoint=False)[:, None]
    fitted = places
    for count in _WAVES:
        steps = turn * np.arange(1, count + 1)
        waves = np.concatenate([np.ones((len(at), 1)), np.cos(steps), np.sin(steps)], 1)
        weight = seen
        for _ in range(12):
            found = np.linalg.lstsq(waves * weight[:, None], places * weight, rcond=None)[0]
            fitted = waves @ found
            weight = seen / np.sqrt(1 + ((places - fitted) / usual) ** 2)
        # Most of what is clearly seen lies on it, or it is as clear all along as the path with its detours.
        close = np.abs(places - fitted) < usual
        whole = np.clip(np.round(fitted), 0, last).astype(np.int64)
        if (seen * close).sum() > _ON_WAVES * seen.sum() or clearness(whole) >= least:
            break
    return np.clip(fitted, 0, last)


def _beyond(frame: Frame, x: Array, y: Array) -> Mask:
    """Whether places lie on the person's right of the bridge of the nose."""
    top, tip = frame.points[lm.BETWEEN_EYES], frame.points[lm.BRIDGE]
    ax, ay = (tip - top) / max(float(np.linalg.norm(tip - top)), 1e-6)
    away = (x - top[0]) * ay - (y - top[1]) * ax
    eye = frame.points[lm.CORNER_R]
    return np.asarray((away > 0) == ((eye[0] - top[0]) * ay - (eye[1] - top[1]) * ax > 0))

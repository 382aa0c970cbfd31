"""A hole filled with what should be behind it, structure first, texture after."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.errors import EditError
from retouch.fill import match, poisson
from retouch.fill.levels import LEAST_SIDE, MOST_LEVELS, Level, levels_of
from retouch.fill.removed import like_removed
from retouch.fill.width import usual_half

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Rounds of matching and voting: many where pictures are small, few where they are large.
_COARSE_ROUNDS, _FINE_ROUNDS = 8, 2
_SWEEPS = 2
# Below the coarsest scale a source is looked for within this many pixels of the one it has.
_NEAR = 12
# Sources lie within so many pixels, or so many times the hole's depth: a thin hole that goes through
# skin, hair and background is filled with what is beside each of its places.
_NEAREST, _FAR = 120.0, 5.0
# Anything goes; and what is so many times as deep as half the usual width of a hole is thick.
_ANYWHERE, _THICK = 1 << 30, 3.0
# A hole of more pixels than this is searched at half its size and only touched up at full size.
_MANY = 30_000
# On coarser levels a source has at least this part of its patch allowed.
_MOSTLY = 0.8
# How far a pixel of the hole is believed before anything was found for it.
_UNKNOWN = 1e-3
# How much less each pixel further from the rim is believed.
_FADE = 1.3
_FADE_MOST = 12.0
# At so many of the finest levels detail comes from single pixels; below this many pixels (sigma).
_SHARP_LEVELS = 2
_DETAIL = 2.0
# There neighbours share their sources, in so many sweeps, at this cost at most.
_SHARING = 6
_TOLERANCE = 4.0
# A model is registered on a ring so wide, softened so much (both per depth of the hole), and is
# moved over the hole by at most this part of its side. What is mirrored onto itself lies nearly right already.
_REGISTER_REACH, _REGISTER_SOFT, _REGISTER_MOST = 3.0, 0.06, 0.35
_OWN_REACH, _OWN_MOST = 2.0, 0.1
# It is found on a picture reduced by a whole number, whose shorter side is no less than this.
_REGISTER_SIDE = 150
# Keeps ratios of the darkest values within reason (encoded).
_DARK = 0.02
# Surroundings that go along with a model, per depth of the hole.
_MODEL_RIM = 2.5


def fill(
    area: Array,
    hole: Mask,
    refused: Mask | None = None,
    seed: int = 0,
    progress: Callable[[float], None] = lambda done: None,
    model: Array | None = None,
    doubtful: Mask | None = None,
) -> Array:
    """Fill a hole from its surroundings.

    Exemplar-based completion at several scales (Y. Wexler, E. Shechtman, M. Irani, PAMI 2007,
    with the matching of Barnes et al. 2009): at each scale patches over the hole are matched
    with patches outside of it, and the hole voted from them. At the end the matched pixels
    themselves are copied, not their mean, so that grain and pores stay, and their gradients are
    joined to the rim (Perez et al. 2003), so that no tone is dragged in. What looks like the
    things that go (`removed.like_removed`) isn't drawn from.

    Parameters
    ----------
    area : ndarray (h, w, 3) float32
        Encoded 0..1; the hole with enough around it to draw from.
    hole : ndarray (h, w) bool
        What is to be replaced.
    refused : ndarray (h, w) bool, optional
        What must not be drawn from.
    seed : int
        Another number gives another plausible result; the same one the same.
    progress : callable
        Told how much is done, 0..1; may raise `Cancelled`.
    model : ndarray (h, w, 3) float32, optional
        What the area should look like, such as the mirrored other side of a face. It is drawn
        from as the surroundings are, and the search begins with it.
    doubtful : ndarray (h, w) bool, optional
        Where the model shows what is to be replaced, or must not be drawn from: it isn't registered
        there, nor drawn from.

    Returns
    -------
    ndarray (h, w, 3) float32
        The area with the hole filled, all else as it was.

    Raises
    ------
    EditError
        When nothing is left to draw from.
    """
    if not hole.any():
        return area.copy()
    allowed = ~hole if refused is None else ~hole & ~refused
    if model is not None:
        # The model lies beside the area, an even number of halvings wide, so that a place and
        # its like in the model stay the same distance apart on every level.
        return _beside(area, hole, allowed, seed, progress, model, doubtful)
    allowed &= ~like_removed(area, hole, allowed)
    return _filled(area, hole, allowed, seed, progress, 0)


def _beside(
    area: Array, hole: Mask, allowed: Mask, seed: int, progress: Callable[[float], None],
    model: Array, doubtful: Mask | None,
) -> Array:  # fmt: skip
    """The area filled with a model laid beside it."""
    h, w = hole.shape
    step = 1 << MOST_LEVELS
    wide = -(-w // step) * step
    model, doubtful = _registered(model, area, hole, doubtful)
    # Tone and light of the model are brought to those around the hole.
    # As a ratio, for shade dims a dark brow in the same proportion as the skin around it.
    ratio = np.log((area + _DARK) / (np.maximum(model, 0) + _DARK))
    # What isn't drawn from may stand in front of them, such as the rim of glasses beside a lens.
    ratio = poisson.membrane(ratio, ~allowed)
    fitted = np.clip((model + _DARK) * np.exp(ratio) - _DARK, 0, 1)
    if doubtful.any():
        fitted = np.where(doubtful[..., None], poisson.membrane(fitted, doubtful & hole), fitted)
    both = np.zeros((h, wide + w, 3), np.float32)
    both[:, :w], both[:, wide:] = area, np.where(hole[..., None], fitted, model)
    holes, free = np.zeros((2, h, wide + w), np.bool_)
    holes[:, :w], free[:, :w] = hole, allowed
    # The area's own surroundings go along, deep enough to be seen on the coarsest level: there a
    # place and its like in the model match exactly.
    depth = float(cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5).max())
    away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 5)
    near = away < _MODEL_RIM * depth + 4 * match.REACH
    free[:, wide:] = near & ~(doubtful & hole)
    both[:, wide:][near & ~hole] = area[near & ~hole]
    return _filled(both, holes, free, seed, progress, wide)[:, :w]


def _registered(model: Array, area: Array, hole: Mask, doubtful: Mask | None) -> tuple[Array, Mask]:
    """The model moved and bent (affinely) so that it meets the area around the hole; with what is
    doubtful in it.

    G. D. Evangelidis, E. Z. Psarakis, *Parametric Image Alignment Using Enhanced Correlation
    Coefficient Maximization*, PAMI 2008. It is moved first, then bent, each only as far as that is found.
    """
    depth = float(cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5).max())
    sigma = max(1.0, depth * _REGISTER_SOFT)
    away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 5)
    itself = doubtful is not None and bool(doubtful.any())
    # What is mirrored onto itself is alike near its axis alone: an eye, not what lies around it.
    reach, part = (_OWN_REACH, _OWN_MOST) if itself else (_REGISTER_REACH, _REGISTER_MOST)
    ring = ((away > 1) & (away < reach * depth + 8)).astype(np.uint8)
    if doubtful is not None:
        ring[cv2.dilate(doubtful.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0] = 0
    greys = []
    for image in (area, model):
        # Forms without light: one side of a face is often the darker one.
        grey = np.log(cv2.cvtColor(np.ascontiguousarray(image), cv2.COLOR_RGB2GRAY) + 0.05)
        soft = cv2.GaussianBlur(grey, (0, 0), sigma)
        greys.append(soft - cv2.GaussianBlur(grey, (0, 0), 6 * sigma))
    # The forms are softened: at a smaller size they are found as well, and sooner.
    k = max(1, min(hole.shape) // _REGISTER_SIDE)
    size = hole.shape[1] // k, hole.shape[0] // k
    greys = [cv2.resize(a, size, interpolation=cv2.INTER_AREA) for a in greys]
    ring = cv2.resize(ring, size, interpolation=cv2.INTER_NEAREST)
    warp = np.eye(2, 3, dtype=np.float32)
    stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 80, 1e-5)
    ys, xs = np.nonzero(hole)
    corners = np.array(
        [[x / k, y / k, 1] for x in (xs.min(), xs.max()) for y in (ys.min(), ys.max())]
    )
    most = part * max(int(xs.max() - xs.min()), int(ys.max() - ys.min()), 1) / k
    # Near an axis hardly anything tells how what is mirrored onto itself would be bent: it is turned.
    last = cv2.MOTION_EUCLIDEAN if itself else cv2.MOTION_AFFINE
    for motion in (cv2.MOTION_TRANSLATION, last):
        try:
            _, found = cv2.findTransformECC(greys[0], greys[1], warp.copy(), motion, stop, ring, 1)
        except cv2.error:
            break
        if np.abs(corners @ found.T - corners[:, :2]).max() > most:
            break
        warp = found
    # Middles of pixels of the smaller size lie further in.
    bend = warp[:, :2]
    warp[:, 2] = k * warp[:, 2] - (bend - np.eye(2, dtype=np.float32)).sum(1) * (k - 1) / 2
    size = hole.shape[1], hole.shape[0]
    moved = cv2.warpAffine(
        model, warp, size, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REFLECT,
    )  # fmt: skip
    if doubtful is None:
        return moved, np.zeros(hole.shape, np.bool_)
    unsure = cv2.warpAffine(
        doubtful.astype(np.float32), warp, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    )
    return moved, unsure > 0.01


def _filled(
    area: Array, hole: Mask, allowed: Mask, seed: int, progress: Callable[[float], None],
    model_at: int,
) -> Array:  # fmt: skip
    """The area with its hole filled; a model lies ``model_at`` columns beside it, if not 0."""
    levels = levels_of(area, hole, allowed)
    if _middles(levels[0].allowed).sum() < 1:
        raise EditError(
            "Nothing is left around this place to fill it from: make it smaller, "
            "or leave more of its surroundings free."
        )
    while len(levels) > 1 and _mostly_allowed(levels[-1]).sum() < 30:
        levels.pop()
    state = np.array([(seed * 2654435761 + 88172645463325252) % 2**63 + 1], np.uint64)
    # Beside a model everything lies far away.
    reach = np.full(hole.shape, _ANYWHERE, np.int32) if model_at else _reach(hole)
    work = [lv.hole.sum() * _rounds(i, len(levels)) for i, lv in enumerate(levels)]
    whole, done = float(sum(work)), 0.0
    field: NDArray[np.int32] | None = None
    guess: Array | None = None
    for i in reversed(range(len(levels))):
        level = levels[i]
        target = cv2.dilate(
            level.hole.astype(np.uint8), np.ones((2 * match.REACH + 1,) * 2, np.uint8)
        ).astype(bool)
        usable = _middles(level.allowed) if i == 0 else _mostly_allowed(level)
        sources = np.flatnonzero(usable)
        weight = _belief(level.hole)
        belief = match.Belief(weight)
        widest, sweeps = max(level.hole.shape), _SWEEPS
        if guess is None:
            if model_at:
                image = level.image.copy()
                rows, cols = np.nonzero(level.hole)
                image[rows, cols] = level.image[rows, cols + (model_at >> i)]
                trust = belief
            else:
                image = poisson.membrane(level.image, level.hole)
                # What is known decides alone at first: the membrane is smoother than anything.
                trust = match.Belief(np.where(level.hole, np.float32(_UNKNOWN), weight))
        else:
            size = level.hole.shape[::-1]
            larger = cv2.resize(guess, size, interpolation=cv2.INTER_LINEAR)
            image = np.where(level.hole[..., None], larger, level.image)
            trust = belief
            widest = min(widest, _NEAR)
        if field is None:
            field = np.full((*level.hole.shape, 2), -1, np.int32)
            if model_at:
                rows, cols = np.nonzero(target)
                there = np.minimum(cols + (model_at >> i), level.hole.shape[1] - 1)
                good = usable[rows, there]
                field[rows[good], cols[good]] = np.stack([rows, there], 1)[good]
        else:
            field = match.finer(field, target, usable)
        cost = np.full(level.hole.shape, np.inf, np.float32)
        h, w = level.hole.shape
        spaced = reach[:: 1 << i, :: 1 << i][:h, :w] >> i
        far = np.maximum(spaced, LEAST_SIDE // 2)
        match.scatter(field, cost, target, sources, state, far)
        rounds = _rounds(i, len(levels))
        if i == 0 and len(levels) > 1 and int(level.hole.sum()) > _MANY:
            # What was found at half the size is good; only its seams are looked at again.
            rounds, sweeps, widest = 1, 1, _NEAR // 3
        for _ in range(rounds):
            match.search(image, trust, target, usable, field, cost, sweeps, widest, state, far)
            trust = belief
            if i < _SHARP_LEVELS:
                match.smooth_out(image, trust, target, usable, field, cost, _SHARING, _TOLERANCE)
            match.vote(image, level.hole, target, weight, field, cost)
            if i < _SHARP_LEVELS:
                _sharpen(image, level.hole, field)
            done += work[i] / rounds
            progress(0.95 * done / whole)
        guess = image
    assert guess is not None
    assert field is not None
    out = _joined(levels[0], guess[..., :3], field)
    progress(1.0)
    return out


def _reach(hole: Mask) -> NDArray[np.int32]:
    """How far from each place its sources may lie, pixels: by how thick the hole is there."""
    deep = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5)
    half = usual_half(hole)
    reach = np.full(hole.shape, max(_NEAREST, _FAR * half), np.float32)
    deepest = float(deep.max())
    if deepest > _THICK * half:
        # Where a thin one widens: what is that deep, and all around it that belongs to it.
        shallow = (deep <= _THICK * half).astype(np.uint8)
        away = cv2.distanceTransform(shallow, cv2.DIST_L2, 5)
        reach[away <= 2 * _THICK * half] = max(_NEAREST, _FAR * deepest)
    else:
        reach[:] = max(_NEAREST, _FAR * deepest)
    return reach.astype(np.int32)


def _rounds(i: int, count: int) -> int:
    """Rounds at a level (0 is the finest)."""
    if count == 1:
        return _COARSE_ROUNDS
    return round(_FINE_ROUNDS + (_COARSE_ROUNDS - _FINE_ROUNDS) * i / (count - 1))


def _middles(allowed: Mask) -> Mask:
    """Where the middle of a source may lie: its whole patch is allowed."""
    side = 2 * match.REACH + 1
    return cv2.erode(
        allowed.astype(np.uint8), np.ones((side, side), np.uint8), borderValue=0
    ).astype(bool)


def _mostly_allowed(level: Level) -> Mask:
    """Where the middle of a source may lie on a coarse level: most of its patch is allowed.

    A patch is large there: all of a cheek with a few spots would be lost, and hair left alone.
    """
    side = 2 * match.REACH + 1
    part = cv2.boxFilter(
        level.allowed.astype(np.float32), -1, (side, side), borderType=cv2.BORDER_CONSTANT
    )
    return np.asarray((part > _MOSTLY) & level.allowed & _middles(~level.hole))


def _belief(hole: Mask) -> Array:
    """How far each pixel is believed, falling inwards from the rim."""
    deep = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5)
    weight = np.float32(_FADE) ** -np.minimum(deep, np.float32(_FADE_MOST))
    return weight.astype(np.float32)


def _sharpen(voted: Array, hole: Mask, field: NDArray[np.int32]) -> None:
    """The broad tone that was voted gets the fine detail of the matched pixels themselves, in place.

    A mean of patches is smooth, and would be matched by ever smoother ones.
    """
    x, y, w, h = cv2.boundingRect(hole.astype(np.uint8))
    wide = math.ceil(4 * _DETAIL)
    here = np.s_[max(y - wide, 0) : y + h + wide, max(x - wide, 0) : x + w + wide]
    own, sources = hole[here], field[hole]
    copies = voted[here][..., :3].copy()
    copies[own] = voted[sources[:, 0], sources[:, 1], :3]
    # Blurring is linear: what was voted and what was copied go through it together.
    broad = cv2.GaussianBlur(voted[here][..., :3] - copies, (0, 0), _DETAIL)
    np.copyto(voted[here][..., :3], copies + broad, where=own[..., None])


def _joined(level: Level, guess: Array, field: NDArray[np.int32]) -> Array:
    """The matched pixels themselves, their gradients joined to the rim."""
    hole = level.hole
    image = np.ascontiguousarray(level.image[..., :3])
    wanted = poisson.copied_laplacian(image, hole, field, np.ascontiguousarray(guess))
    return np.clip(poisson.guided(guess, wanted, hole), 0, 1)

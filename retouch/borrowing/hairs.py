"""The hairs of another place laid over the skin of this one."""

from __future__ import annotations

from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.fill import poisson
from retouch.steps import step_between

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Keeps ratios of the darkest values within reason (encoded).
_DARK = 0.02
# Skin is worked out where the place is so deep, in pixels.
_DEEP = 24.0
# What is darker than its skin by less than the first part is skin, by more than the second wholly hair.
_SKIN, _HAIR = 0.1, 0.28
# Wholly hair are so many of the darkest (parts of the place). Colours are told in so many steps of
# darkness, each by so many pixels.
_DARKEST, _TONES, _LEAST = 0.1, 8, 6
# How many times as dark as those a hair may come out.
_MOST = 1.15


def _skin(image: Array, inside: Mask, k: float) -> Array:
    """The skin below the hairs of a place: what lies around it goes on as smoothly as can be."""
    size = (max(8, round(image.shape[1] * k)), max(8, round(image.shape[0] * k)))
    small = cv2.resize(np.log(image + _DARK), size, interpolation=cv2.INTER_AREA)
    hole = cv2.resize(inside.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.02
    away = cv2.distanceTransform((~hole).astype(np.uint8), cv2.DIST_L2, 3)
    ring = ~hole & (away <= 4)
    if ring.any():
        # Hairs beside the place (of the head, lashes) aren't its skin; each colour's usual value stands
        # for them. Light that falls off along the place stays.
        rows, columns = np.nonzero(ring)
        flat = np.stack([np.ones(len(rows)), rows / size[1], columns / size[0]], 1)
        for c in range(3):
            own = small[..., c][ring]
            plane = np.full(len(own), float(np.median(own)))
            keep = np.ones(len(own), np.bool_)
            for _ in range(3):
                solved = np.linalg.lstsq(flat[keep], own[keep], rcond=None)[0]
                plane = flat @ solved
                off = own - plane
                keep = np.abs(off) <= max(2.0 * float(np.median(np.abs(off))), 0.02)
            small[rows, columns, c] = np.clip(own, plane - 0.12, plane + 0.12)
    # Softened along the border, so that no pore pulls tone in.
    weight = (~hole).astype(np.float32) + 1e-4
    soft = cv2.GaussianBlur(small * weight[..., None], (0, 0), 1.6)
    small = soft / cv2.GaussianBlur(weight, (0, 0), 1.6)[..., None]
    even = poisson.membrane(small, hole)
    wide = cv2.resize(even, (image.shape[1], image.shape[0]), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.maximum(np.exp(wide) - _DARK, 1e-3), np.float32)


def _bared(image: Array, inside: Mask, k: float, soft: float) -> Array:
    """The skin of a place: as it is between hairs and beside them, gone on below them."""
    rough = _skin(image, inside, k)
    hairy = (inside & (_darkness(image / rough) > _SKIN)).astype(np.uint8)
    hairy = cv2.morphologyEx(hairy, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    hairy = cv2.dilate(hairy, disc(soft))
    hole = inside & (hairy > 0)
    return _skin(image, hole, k) if hole.any() else rough


def _tones(ratio: Array, dark: Array, inside: Mask, full: float) -> tuple[Array, Array]:
    """How dark (n,), and the colours (n, 3) that hairs of a place have there beside its skin.

    Skin shines through between and through hairs, so half a hair isn't half of a hair's colour.
    """
    steps, colours = [0.0], [np.ones(3, np.float32)]
    edges = np.linspace(0.5 * _SKIN, full, _TONES + 1)
    for low, high in pairwise(edges):
        own = inside & (dark >= low) & (dark < (high if high < full else np.inf))
        if own.sum() < _LEAST:
            continue
        steps.append(float(dark[own].mean()))
        colours.append(ratio[own].mean(0))
    darkest, last = steps[-1], colours[-1]
    beyond = min(_MOST * darkest, 0.98)
    steps.append(beyond)
    colours.append(last * (1 - beyond) / max(1 - darkest, 0.02))
    return np.array(steps, np.float32), np.array(colours, np.float32)


def _darkness(ratio: Array) -> Array:
    return np.asarray(1 - ratio @ np.array([0.299, 0.587, 0.114], np.float32), np.float32)


def hairs_laid(area: Array, there: Array, inside: Mask, grain_px: float) -> tuple[Array, Array]:
    """The other place's hairs over this place's skin, in place of its own.

    Below the hairs of both places skin goes on from around them (a membrane in logarithms, see
    `joined`), so light and colour are this place's. How dark each pixel of the other is beside its
    skin says how much of it is hair; hairs get the colour that this place's own have where they are
    as dark beside its skin. Grain is the other's; what it has that is broader (marks, a crease) stays behind.

    Parameters
    ----------
    area, there : ndarray (h, w, 3) float32
        This picture and the other one over it, encoded 0..1, with surroundings of the place.
    inside : ndarray (h, w) bool
        The place.
    grain_px : float
        What is finer than this is grain.

    Returns
    -------
    result : ndarray (h, w, 3) float32
    share : ndarray (h, w) float32
        Where it is needed, 0..1: hairs of either, and little around them.
    """
    if not inside.any() or inside.all():
        return there, inside.astype(np.float32)
    deep = float(cv2.distanceTransform(inside.astype(np.uint8), cv2.DIST_L2, 3).max())
    k = min(1.0, _DEEP / deep)
    soft = max(grain_px, 0.8)
    own_skin, other_skin = (_bared(image, inside, k, soft) for image in (area, there))
    own, other = area / own_skin, there / other_skin
    own_dark, other_dark = _darkness(own), _darkness(other)
    full = max(float(np.quantile(other_dark[inside], 1 - _DARKEST / 2)), _HAIR)
    own_full = float(np.quantile(own_dark[inside], 1 - _DARKEST / 2))
    # A bald brow has no colour of its own: then it is the other's.
    bald = own_full <= _HAIR
    steps, colours = (
        _tones(other, other_dark, inside, full) if bald
        else _tones(own, own_dark, inside, own_full)
    )  # fmt: skip
    hair = np.clip(other_dark / np.float32(full), 0, _MOST) * step_between(other_dark, _SKIN, _HAIR)
    bare = 1 - step_between(other_dark, 0.4 * _SKIN, _SKIN)
    level = cv2.GaussianBlur(bare, (0, 0), soft) + np.float32(1e-3)
    mean = cv2.GaussianBlur(other * bare[..., None], (0, 0), soft) / level[..., None]
    grain = 1 + bare[..., None] * (other / np.maximum(mean, 0.05) - 1)
    dark = hair * np.float32(full if bald else own_full)
    tone = np.stack([np.interp(dark, steps, colours[:, c]) for c in range(3)], 2)
    out = own_skin * tone.astype(np.float32) * np.clip(grain, 0.8, 1.2)
    need = np.maximum(
        step_between(own_dark, 0.5 * _SKIN, _SKIN), step_between(other_dark, 0.5 * _SKIN, _SKIN)
    )
    need = cv2.morphologyEx(
        (need > 0.3).astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8)
    )
    wide = cv2.dilate(need, disc(2 * round(soft), least=2))
    share = cv2.GaussianBlur(wide.astype(np.float32), (0, 0), soft)
    return np.asarray(np.clip(out, 0, 1), np.float32), np.asarray(share, np.float32)

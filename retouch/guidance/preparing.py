"""What a fill or heal should keep from, and begin with, as the analysis of the face tells."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Touch
from retouch.face import Analysis
from retouch.face.mirror import mirrored_place
from retouch.fill.width import usual_half
from retouch.geometry import Rect
from retouch.guidance.groups import APART, GROUPS, beside
from retouch.heal import Footprint, ring_rect
from retouch.picture import Pyramid

Array = NDArray[np.float32]

# The zones around a heal are looked at in so many cells along its longer side.
_RING_SIDE = 48
# Features that the other side of the face has too, and that nothing else could stand for.
_PAIRED = ("eyes", "lashes", "brows")
# The mask of what to keep from is worked out on so many pixels, and cut into so many tiles.
_SIDE, _TILES = 256, 4
_MOST_OUTLINES = 60
# A group belongs to a hole when it has this part of the hole, or of its rim.
_HOLE_PART, _RIM_PART = 0.05, 0.25
# Or when it has this part of the rim within so many depths of one of its places, and so many cells of it.
_STRETCH_PART, _STRETCH, _LEAST_STRETCH = 0.6, 3.0, 8
# What lies around a face reaches into a hole along its edge, and has no more than the outer rim there.
_AROUND, _AT_EDGE = ("hair", "background"), 0.35
_PAIRED_PART = 0.12
_SURE = 0.5
# Reflections blown out to white are drawn from only where they surround the hole.
_BLOWN, _BLOWN_PART = 0.93, 0.2
# The other side is no model where more of it than this is blown out.
_BLOWN_MODEL = 0.02


@dataclass(frozen=True)
class OtherSide:
    """The mirrored place on a face: the offset to it, how it is turned (degrees) and enlarged."""

    source: tuple[int, int]
    degrees: float
    size: float


def prepare(
    analysis: Analysis, touch: Touch, place: Footprint, rect: Rect, pyramid: Pyramid
) -> tuple[Touch, OtherSide | None]:
    """A fill that keeps from other zones, from marks and from glare.

    Parameters
    ----------
    place : Footprint
        Where it fills.
    rect : Rect
        What it looks at around that.

    Returns
    -------
    Touch
        With outlines of what it keeps from.
    OtherSide or None
        Where it should begin with: where it fills a brow or an eye that the other side has, too.
    """
    if rect.empty or not analysis.faces:
        return touch, None
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    x = _middles(rect.x0, rect.width, shape[1])
    y = _middles(rect.y0, rect.height, shape[0])
    beyond = place.distance(x[None], y[:, None]) - np.float32(place.radius)
    hole = beyond <= 2
    rim = beyond <= max(4.0, 0.25 * place.radius)
    groups = {g: analysis.mask(names, rect, shape) for g, names in GROUPS.items()}
    half = usual_half(hole)
    own = {
        g for g, m in groups.items()
        if m[hole].mean() > _HOLE_PART or m[rim & ~hole].mean() > _RIM_PART
        or _is_beside_a_stretch(m, rim & ~hole, half, _AT_EDGE if g in _AROUND else _STRETCH_PART)
    }  # fmt: skip
    if "lenses" in own:
        # Behind a lens there is skin.
        own.add("skin")
    spared = np.zeros(shape, np.uint8)
    blown = pyramid.sampled(rect, shape).min(2) > _BLOWN
    if blown[rim & ~hole].mean() < _BLOWN_PART if (rim & ~hole).any() else True:
        spared[cv2.dilate(blown.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0] = 1
    for group, mask in groups.items():
        if group not in own:
            spared[mask > _SURE] = 1
    _draw_marks(analysis, rect, shape, spared)
    spared[hole] = 0
    touch = replace(touch, spare=(*touch.spare, *_outlines(spared, rect))[:_MOST_OUTLINES])
    paired = max(float(groups[g][hole].mean()) for g in _PAIRED) if hole.any() else 0.0
    if touch.source is None and paired > _PAIRED_PART:
        return touch, _other_side(analysis, touch, hole, x, pyramid)
    return touch, None


def _is_beside_a_stretch(mask: Array, rim: NDArray[np.bool_], depth: float, part: float) -> bool:
    """Whether a long hole lies in a group at one of its places, as a bar does that ends in hair."""
    side = 2 * max(1, round(_STRETCH * depth)) + 1
    there = (mask > _SURE) & rim
    if np.count_nonzero(there) < _LEAST_STRETCH:
        return False
    own, whole = (
        cv2.boxFilter(m.astype(np.float32), -1, (side, side), normalize=False,
                      borderType=cv2.BORDER_CONSTANT) for m in (there, rim)
    )  # fmt: skip
    around = there & (own > part * whole)
    return int(np.count_nonzero(around)) >= _LEAST_STRETCH


def keep_to_zone(analysis: Analysis, touch: Touch, place: Footprint, bounds: Rect) -> Touch:
    """A heal whose tone comes from its own zone: skin beside a lip stays skin, a tooth stays a tooth.

    ``place`` is where it heals.
    """
    rect = ring_rect(place, bounds)
    if rect.empty or not analysis.faces:
        return touch
    scale = min(1.0, _RING_SIDE / max(rect.width, rect.height))
    shape = (max(2, round(rect.height * scale)), max(2, round(rect.width * scale)))
    groups = {g: analysis.mask(GROUPS[g], rect, shape) for g in ("skin", *APART)}
    if all(groups[g].max() < _SURE for g in APART):
        return touch
    x, y = _middles(rect.x0, rect.width, shape[1]), _middles(rect.y0, rect.height, shape[0])
    core = place.distance(x[None], y[:, None]) <= 0.5 * place.radius
    if not core.any():
        return touch
    own = max(groups, key=lambda g: float(groups[g][core].mean()))
    if groups[own][core].mean() < _SURE:
        return touch
    other = beside(own) if own in APART else tuple(z for g in APART for z in GROUPS[g])
    spared = analysis.mask(other, rect, shape) > _SURE
    found = _outlines(spared.astype(np.uint8), rect)
    return replace(touch, spare=(*touch.spare, *found)[:_MOST_OUTLINES])


def _middles(start: int, length: int, count: int) -> NDArray[np.float32]:
    """Middles of so many cells."""
    return (start + (np.arange(count) + 0.5) * length / count).astype(np.float32)


def _draw_marks(
    analysis: Analysis, rect: Rect, shape: tuple[int, int], spared: NDArray[np.uint8]
) -> None:
    """Marks that are to go: nothing is drawn from them."""
    k = shape[1] / rect.width
    for mark in (m for of_face in analysis.marks for m in of_face if m.proposal != "keep"):
        spot = Rect(int(mark.x), int(mark.y), int(mark.x) + 1, int(mark.y) + 1)
        if rect.grow(math.ceil(mark.reach)).meets(spot):
            at = (round((mark.x - rect.x0) * k), round((mark.y - rect.y0) * k))
            cv2.circle(spared, at, max(1, math.ceil(mark.reach * k)), 1, -1)


def _outlines(spared: NDArray[np.uint8], rect: Rect) -> list[tuple[tuple[float, float], ...]]:
    """The mask as closed outlines, the largest first. Cut into tiles, so that none can lie around
    something that is free.
    """
    h, w = spared.shape
    kx, ky = rect.width / w, rect.height / h
    found: list[tuple[float, tuple[tuple[float, float], ...]]] = []
    for rows in np.array_split(np.arange(h), _TILES):
        for cols in np.array_split(np.arange(w), _TILES):
            tile = spared[rows[0] : rows[-1] + 1, cols[0] : cols[-1] + 1]
            contours, _ = cv2.findContours(tile, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
            for contour in contours:
                thin = cv2.approxPolyDP(contour, 1.0, closed=True)[:, 0]
                if len(thin) < 3:
                    continue
                points = tuple(
                    (
                        round(float(rect.x0 + (px + cols[0] + 0.5) * kx), 1),
                        round(float(rect.y0 + (py + rows[0] + 0.5) * ky), 1),
                    )
                    for px, py in thin
                )
                found.append((float(cv2.contourArea(contour)), points))
    found.sort(key=lambda pair: -pair[0])
    return [points for _, points in found]


def _other_side(
    analysis: Analysis,
    touch: Touch,
    hole: NDArray[np.bool_],
    across: NDArray[np.float32],
    pyramid: Pyramid,
) -> OtherSide | None:
    """The other side of the face as a fill's model, if that isn't in the hole itself."""
    xs, ys = [p[0] for p in touch.path], [p[1] for p in touch.path]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    face, _ = analysis.zone_at(*middle)
    found = mirrored_place(analysis.faces[max(face, 0)], *middle)
    if found is None:
        return None
    x, y, degrees, size = found
    cols = np.flatnonzero(hole.any(0))
    width = float(across[cols[-1]] - across[cols[0]]) if len(cols) else 0.0
    if math.hypot(x - middle[0], y - middle[1]) < width:
        return None
    half = max(4, round(width / 2))
    there = Rect(round(x) - half, round(y) - half, round(x) + half, round(y) + half)
    if (pyramid.sampled(there, (64, 64)).min(2) > _BLOWN).mean() > _BLOWN_MODEL:
        return None
    return OtherSide((round(x - middle[0]), round(y - middle[1])), degrees, size)

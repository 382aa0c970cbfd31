"""What a fill should keep from, and begin with, as the analysis of the face tells."""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.edit import Touch
from retouch.face import ALL_SKIN, Analysis
from retouch.face.mirror import mirrored_place
from retouch.geometry import Rect
from retouch.passes.fill import place_of, reads
from retouch.picture import Pyramid
from studio.portraits.services.operations.touches import mirrored_values

# What is alike enough to be drawn from for each other.
_GROUPS: dict[str, tuple[str, ...]] = {
    "skin": ALL_SKIN,
    "lips": ("lip_upper", "lip_lower"),
    "teeth": ("teeth",),
    "eyes": ("eye_whites", "irises", "pupils"),
    "lashes": ("lashes",),
    "brows": ("brows",),
    "lenses": ("lenses",),
    "hair": ("hair",),
    "clothing": ("clothing",),
    "background": ("background",),
}
# Features that the other side of the face has too, and that nothing else could stand for.
_PAIRED = ("eyes", "lashes", "brows")
# The mask of what to keep from is worked out on so many pixels, and cut into so many tiles.
_SIDE, _TILES = 256, 4
_MOST_OUTLINES = 60
# A group belongs to a hole when it has this part of the hole and its rim.
_PART = 0.02
_PAIRED_PART = 0.12
_SURE = 0.5
# Reflections blown out to white are drawn from only where they surround the hole.
_BLOWN, _BLOWN_PART = 0.93, 0.2
# The other side is no model where more of it than this is blown out.
_BLOWN_MODEL = 0.02


def prepare(analysis: Analysis, touch: Touch, pyramid: Pyramid) -> Touch:
    """A fill that keeps from other zones, from marks and from glare, and begins with the other side of the
    face where it fills a brow or an eye that the other side has, too.
    """
    (rect, *_) = reads(touch, {}, pyramid.picture.bounds) or [Rect(0, 0, 0, 0)]
    if rect.empty or not analysis.faces:
        return touch
    scale = min(1.0, _SIDE / max(rect.width, rect.height))
    shape = (max(8, round(rect.height * scale)), max(8, round(rect.width * scale)))
    x = _middles(rect.x0, rect.width, shape[1])
    y = _middles(rect.y0, rect.height, shape[0])
    place = place_of(touch)
    beyond = place.distance(x[None], y[:, None]) - np.float32(place.radius)
    hole = beyond <= 2
    rim = beyond <= max(4.0, 0.25 * place.radius)
    groups = {g: analysis.mask(names, rect, shape) for g, names in _GROUPS.items()}
    own = {g for g, mask in groups.items() if mask[rim].mean() > _PART}
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
        return _mirrored(analysis, touch, hole, x, pyramid)
    return touch


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


def _mirrored(
    analysis: Analysis,
    touch: Touch,
    hole: NDArray[np.bool_],
    across: NDArray[np.float32],
    pyramid: Pyramid,
) -> Touch:
    """The fill with the other side of the face as its model, if that isn't in the hole itself."""
    xs, ys = [p[0] for p in touch.path], [p[1] for p in touch.path]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    face, _ = analysis.zone_at(*middle)
    found = mirrored_place(analysis.faces[max(face, 0)], *middle)
    if found is None:
        return touch
    x, y, degrees, size = found
    cols = np.flatnonzero(hole.any(0))
    width = float(across[cols[-1]] - across[cols[0]]) if len(cols) else 0.0
    if math.hypot(x - middle[0], y - middle[1]) < width:
        return touch
    half = max(4, round(width / 2))
    there = Rect(round(x) - half, round(y) - half, round(x) + half, round(y) + half)
    if (pyramid.sampled(there, (64, 64)).min(2) > _BLOWN).mean() > _BLOWN_MODEL:
        return touch
    values = {**touch.values, **mirrored_values(degrees, size)}
    source = (round(x - middle[0]), round(y - middle[1]))
    return replace(touch, values=values, source=source)

"""Gaps and partings: where skin shows between hair."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.discs import disc, grown
from retouch.face import landmarks as lm
from retouch.face.complexion import complexion
from retouch.face.cover import FaceZones
from retouch.face.feature_colours import hair_of
from retouch.face.outlines import Points, outlines
from retouch.geometry import Rect

Mask = NDArray[np.bool_]

# Looked at with so many pixels per mm.
_FINE = 2.0
# A gap is up to so wide (mm), and so large at least (mm²).
_WIDE_MM, _LEAST_MM2 = 16.0, 12.0
# Of what surrounds it within so many mm so much is hair.
_AROUND_MM, _HAIRY = 4.0, 0.6
# It begins so far behind the hairline (mm) and reaches so deep.
_HAIRLINE_MM, _DEEP_MM = 3.0, 9.0
# Its outline lies so far in the hair (mm), so that no bright rim stays.
_RIM_MM, _LITTLE_MM = 7.0, 1.0
# A parting opens onto the forehead within so much of itself, up to where a disc so wide touches the
# hairline on both sides (mm).
_MOUTH_MM, _HAIRLINE_WIDE_MM = 9.0, 60.0
# A scalp's colour is the skin's within so much (a*, b*).
_LIKE = 18.0
# The copy that stands for it comes from beside it, so many of its widths aside and further back, of which
# so much is hair; from the second on it is all hair. It ends over so many mm.
_PLACES = ((1.0, 0.0), (1.0, 0.3), (1.15, 0.0), (1.0, 0.6), (1.15, 0.6), (1.4, 0.0), (1.4, 0.6))
_ENOUGH, _ALL, _SOFT_MM = 0.85, 0.95, 4.5
# The hairline itself is none: a gap begins so far above the brows (parts of the face's height).
_ABOVE = 0.1


@dataclass(frozen=True)
class Gap:
    """A gap's closed outline, how far beside it hair lies that can stand for it, and how softly that ends
    (pixels of the original).
    """

    outline: Points
    source: tuple[int, int]
    soft: float


def gaps(zones: FaceZones, n: int) -> list[Gap]:
    """The gaps in a person's hair, the largest first: skin that a closing of the hair's zone covers
    (J. Serra, *Image Analysis and Mathematical Morphology*, 1982), with hair on all sides.
    """
    assert zones.analysis is not None
    face = zones.analysis.faces[n]
    mm = face.scale.px_per_mm
    tall = face.height
    oval = face.points[list(lm.OVAL), :2]
    low, high = oval.min(0), oval.max(0)
    rect = Rect(
        int(low[0] - 0.7 * tall), int(low[1] - 0.9 * tall), int(high[0] + 0.7 * tall), int(high[1])
    ).clip(zones.pyramid.picture.bounds)
    if rect.empty:
        return []
    k = min(1.0, _FINE / mm)
    fine = mm * k
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    hair = zones.cover("hair", face.anchor, rect, shape) > 0.5
    # What is open is no gap, and the hairline beside it stays as it grows.
    wide = cv2.morphologyEx((~hair).astype(np.uint8), cv2.MORPH_OPEN, disc(_WIDE_MM * fine / 2))
    depth = cv2.distanceTransform(1 - wide, cv2.DIST_L2, 5) / np.float32(fine)
    found = _closed(hair, _WIDE_MM * fine) & ~hair & _bare(zones, n, rect, shape)
    found &= depth > _HAIRLINE_MM
    brows = face.points[[*lm.BROW_R, *lm.BROW_L], 1].min() - _ABOVE * tall
    found[max(0, round((brows - rect.y0) * k)) :] = False
    count, labels, stats, _ = cv2.connectedComponentsWithStats(found.astype(np.uint8))
    kept = np.zeros_like(found)
    for i in range(1, count):
        if stats[i, cv2.CC_STAT_AREA] < _LEAST_MM2 * fine * fine:
            continue
        one = labels == i
        ring = grown(one, _AROUND_MM * fine) & ~one
        if hair[ring].mean() > _HAIRY and depth[one].max() > _DEEP_MM:
            kept |= one
    # Where a parting opens onto the forehead hair goes on to the hairline beside it.
    mouth = grown(kept, _MOUTH_MM * fine) & _closed(hair, _HAIRLINE_WIDE_MM * fine) & ~hair
    kept |= mouth
    # Far into the hair, beyond roots between which skin shines through; little beyond its outline.
    beyond = grown(kept, _RIM_MM * fine) & (hair | grown(kept, _LITTLE_MM * fine))
    out = []
    for line in outlines(beyond, rect, 4.0, 0.4):
        source = _beside(np.asarray(line), hair, rect, k, oval.mean(0).astype(np.float64))
        if source is not None:
            out.append(Gap(line, source, round(2 * _SOFT_MM * mm) / 2))
    return out


def _beside(
    line: NDArray[np.float64], hair: Mask, rect: Rect, k: float, face: NDArray[np.float64]
) -> tuple[int, int] | None:
    """The shift across a gap's long way to the side that has more hair; None: neither has enough."""
    middle = line.mean(0)
    along, axis = np.linalg.svd(line - middle, full_matrices=False)[2]
    # Towards the crown: there no forehead lies beside the hair.
    along = along * np.sign((middle - face) @ along)
    far = float(np.ptp((line - middle) @ axis))
    best = None
    for aside, up in _PLACES:
        for sign in (1, -1):
            shift = np.round(far * (sign * aside * axis + up * along)).astype(int)
            place = np.zeros(hair.shape, np.uint8)
            at = np.round((line + shift - (rect.x0, rect.y0)) * k).astype(np.int32)
            cv2.fillPoly(place, [at], 1)
            share = float(hair[place > 0].mean()) if place.any() else 0.0
            if share > _ENOUGH and (best is None or share > best[0]):
                best = share, (int(shift[0]), int(shift[1]))
        # The nearest that is all hair: further away it lies otherwise.
        if best is not None and best[0] > _ALL:
            break
    return best[1] if best is not None else None


def _bare(zones: FaceZones, n: int, rect: Rect, shape: tuple[int, int]) -> Mask:
    """What is nearer to the skin's colour than to the hair's: a scalp is seldom told as skin."""
    analysis, pyramid = zones.analysis, zones.pyramid
    assert analysis is not None
    of_hair = hair_of(analysis, pyramid, n)
    if of_hair is None:
        return np.zeros(shape, np.bool_)
    lab = to_lab(pyramid.sampled(rect, shape))
    skin = np.asarray(complexion(analysis, pyramid, n), np.float32)
    away, hairy = (
        np.linalg.norm(lab - np.asarray(c, np.float32), axis=-1) for c in (skin, of_hair)
    )
    # The scalp lies in the hair's shade: lightness counts less.
    colour = np.hypot(lab[..., 1] - skin[1], lab[..., 2] - skin[2])
    return np.asarray((away < hairy) & (colour < _LIKE))


def _closed(mask: Mask, wide: float) -> Mask:
    if not mask.any():
        return mask
    # By distances: as fast for large discs.
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    whole = (away <= wide / 2).astype(np.uint8)
    inside = cv2.distanceTransform(whole, cv2.DIST_L2, 5) if not whole.all() else away + np.inf
    return np.asarray(mask | (inside > wide / 2))

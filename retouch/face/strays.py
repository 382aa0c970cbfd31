"""Stray hairs around brows: single dark hairs on the skin beside them."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.find import Face
from retouch.face.outlines import Points
from retouch.face.thin import thin_lines
from retouch.geometry import Rect

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Hairs are looked for at so many pixels per mm at most: a hair is 0.05 to 0.1 mm wide (from memory).
_FINE = 14.0
# Around a brow: so far out, and this far beside its own hairs, whose tips belong to its edge (mm).
_OUT_MM, _BESIDE_MM, _TIPS_MM = 8.0, 0.35, 1.2
# Eyes and lashes, the hair of the head and beards are kept this far away from (mm).
_FROM_EYES_MM, _FROM_HAIR_MM = 1.5, 3.0
# Lashes reach up from the eye: what is a stray lies nearer to the brow than this part of its way to
# the eye.
_LASHES = 0.6
# What a closing by a disc so wide fills in may be a hair (mm); darkness counts along lines so long,
# in so many directions.
_WIDE_MM, _LINE_MM, _WAYS = 0.45, 1.1, 12
# So much darker than usual within so many mm around it may be a hair, and surely is one; less than
# this part of the skin's light it isn't.
_FAINT, _SURE, _USUAL_MM = 2.6, 4.5, 3.0
_LEAST_DARK = 0.07
# A hair is what has this part of its full darkness.
_ITSELF = 0.35
# It is healed with so much beside it (mm), where it still darkens a little.
_BESIDE = 0.3
# A hair is so long at least, so thin (mm, or pixels of what is looked at), and so many times longer than wide; a piece of one between
# crossings has this part of that length.
_LONG_MM, _THIN_MM, _THIN_PX, _LONGER, _PIECE = 1.2, 0.38, 3.2, 3.0, 0.4


@dataclass(frozen=True)
class Stray:
    """A stray hair: its path in pixels of the original, and half its width there."""

    path: Points
    radius: float


def strays(zones: FaceZones, n: int) -> list[Stray]:
    """Stray hairs around both brows of a face, the longest first."""
    analysis = zones.analysis
    assert analysis is not None
    face = analysis.faces[n]
    return [
        stray
        for side in (lm.BROW_R, lm.BROW_L)
        for stray in _around(zones, face, face.points[list(side), :2].astype(np.float64))
    ]


def _around(zones: FaceZones, face: Face, brow: NDArray[np.float64]) -> list[Stray]:
    mm = face.scale.px_per_mm
    margin = _OUT_MM * mm
    whole = np.concatenate([brow, *_eyes(face)])
    low = np.minimum(brow.min(0) - margin, whole.min(0))
    high = np.maximum(brow.max(0) + margin, whole.max(0))
    rect = Rect(int(low[0]), int(low[1]), int(high[0]) + 1, int(high[1]) + 1)
    rect = rect.clip(zones.pyramid.picture.bounds)
    if rect.width < 16 or rect.height < 16:
        return []
    k = min(1.0, _FINE / mm)
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    fine = mm * k
    free = _free(zones, face, rect, shape, fine)
    own = zones.cover("brows", face.anchor, rect, shape) > 0.3
    away = cv2.distanceTransform((~own).astype(np.uint8), cv2.DIST_L2, 3) / fine
    # The brow that this one is about, not the other one across the nose.
    from_brow, from_eyes = (_away(lines, rect, k, shape) / fine for lines in ([brow], _eyes(face)))
    free &= (from_brow < _OUT_MM) & (away < _LASHES * from_eyes)
    if not free.any():
        return []
    image = np.clip(zones.pyramid.sampled(rect, shape), 0, 1)
    light = cv2.cvtColor(np.ascontiguousarray(image, np.float32), cv2.COLOR_RGB2GRAY)
    out: list[Stray] = []
    for part in _parts(*_darkness(light, fine), free, fine):
        if float(np.median(away[part[:, 0], part[:, 1]])) > _TIPS_MM:
            out += _hairs(part, rect, k, fine)
    return sorted(out, key=_length, reverse=True)


def _eyes(face: Face) -> list[NDArray[np.float64]]:
    return [face.points[list(eye), :2].astype(np.float64) for eye in (lm.EYE_R, lm.EYE_L)]


def _away(lines: list[NDArray[np.float64]], rect: Rect, k: float, shape: tuple[int, int]) -> Array:
    """How far each place lies from the hulls of points of the mesh (pixels of the grid)."""
    inside = np.zeros(shape, np.uint8)
    for line in lines:
        at = np.round((line - (rect.x0, rect.y0)) * k - 0.5).astype(np.int32)
        cv2.fillConvexPoly(inside, cv2.convexHull(at), 1)
    return np.asarray(cv2.distanceTransform(1 - inside, cv2.DIST_L2, 3), np.float32)


def _length(stray: Stray) -> float:
    (x, y), (u, v) = stray.path[0], stray.path[-1]
    return float(np.hypot(u - x, v - y))


def _free(zones: FaceZones, face: Face, rect: Rect, shape: tuple[int, int], fine: float) -> Mask:
    """Skin beside the brow, away from eyes and other hair."""
    who = face.anchor

    def far(zone: str, mm: float, share: float = 0.3) -> Mask:
        cover = zones.cover(zone, who, rect, shape) > share
        if not cover.any():
            return np.ones(shape, np.bool_)
        away = cv2.distanceTransform((~cover).astype(np.uint8), cv2.DIST_L2, 3)
        return np.asarray(away > mm * fine)

    free = far("brows", _BESIDE_MM) & far("hair", _FROM_HAIR_MM) & far("glasses", 1.0)
    free &= far("worn", 1.0) & far("lenses", 1.0)
    for zone in ("lashes", "eye_whites", "irises"):
        free &= far(zone, _FROM_EYES_MM)
    skin = zones.cover("skin", who, rect, shape) > 0.3
    # Hairs may count as no skin themselves.
    wide = 2 * max(1, round(0.3 * fine)) + 1
    closed = cv2.morphologyEx(
        skin.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((wide, wide), np.uint8)
    )
    return free & (closed > 0)


def _darkness(light: Array, fine: float) -> tuple[Array, Array]:
    """How much darker what is thin, and what is thin and long, is than beside it, as parts of its light.

    The black top-hat (J. Serra, *Image Analysis and Mathematical Morphology*, 1982), averaged along
    the line through each place on which it is darkest: grain and pores have no length.
    """
    dark = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, disc(_WIDE_MM * fine / 2)) / (
        light + np.float32(0.05)
    )
    side = 2 * max(2, round(_LINE_MM * fine / 2)) + 1
    best = np.zeros_like(light)
    for way in range(_WAYS):
        angle = np.pi * way / _WAYS
        kernel = np.zeros((side, side), np.float32)
        half = side // 2
        x, y = round(half * np.cos(angle)), round(half * np.sin(angle))
        cv2.line(kernel, (half - x, half - y), (half + x, half + y), (1.0,))
        best = np.maximum(best, cv2.filter2D(dark, -1, kernel / kernel.sum()))
    return np.asarray(dark, np.float32), best


def _parts(thin: Array, dark: Array, free: Mask, fine: float) -> list[NDArray[np.int64]]:
    """Places (y, x) of each dark part that is clearly one, by two thresholds (J. Canny, PAMI 1986)."""
    sigma = _USUAL_MM * fine
    weight = free.astype(np.float32)
    usual = cv2.GaussianBlur(np.minimum(dark, 0.2) * weight, (0, 0), sigma)
    usual = usual / np.maximum(cv2.GaussianBlur(weight, (0, 0), sigma), 1e-3)
    usual = np.maximum(usual, np.float32(_LEAST_DARK / _FAINT))
    may = free & (dark > _FAINT * usual)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(may.astype(np.uint8), connectivity=8)
    sure = np.zeros(count, np.bool_)
    sure[np.unique(parts[may & (dark > _SURE * usual)])] = True
    least = _LONG_MM * fine
    # Along lines darkness spreads beyond a hair's ends and sides; it is where it is thin itself.
    found = []
    for n in range(1, count):
        if sure[n] and stats[n, cv2.CC_STAT_AREA] >= least:
            x, y, w, h = stats[n, : cv2.CC_STAT_AREA]
            box = np.s_[y : y + h, x : x + w]
            own = thin[box] * (parts[box] == n)
            if not own.any():
                continue
            found.append(np.argwhere(own > _ITSELF * np.quantile(own[own > 0], 0.9)) + (y, x))
    return found


def _hairs(part: NDArray[np.int64], rect: Rect, k: float, fine: float) -> list[Stray]:
    """The hairs that a dark part is, crossing ones apart; none if it is something else."""
    wide = max(_THIN_MM * fine, _THIN_PX)
    out = []
    for line, width in thin_lines(part, _LONG_MM * fine, wide, _LONGER, _PIECE):
        whole = line / k + (rect.x0, rect.y0)
        path = tuple((round(float(x), 1), round(float(y), 1)) for x, y in whole)
        out.append(Stray(path, (0.5 * width + _BESIDE * fine) / k))
    return out

"""Lint on cloth: threads, hairs and specks that lie on it and don't belong to its weave or print."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.face.cover import FaceZones
from retouch.face.outlines import Points
from retouch.face.thin import thin_lines
from retouch.face.threads import is_ridge, length, strongest
from retouch.geometry import Rect

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Reader = Callable[[Rect, tuple[int, int]], Array]

# Cloth is looked at with so many pixels per mm at most, away from its edges (mm).
_FINE, _INSIDE_MM = 7.0, 1.8
# Smaller holes in the cloth (mm across) may be lint that was taken for something else.
_HOLE_MM = 6.0
# Lint differs from the cloth around it over this width (mm).
_WIDE_MM = 0.7
# Usual is what the cloth shows over so many mm; lint is so many times that at a sensitivity of 50, twice
# as much at 0 and half at 100. Less than this (CIELAB) is grain.
_USUAL_MM, _TIMES, _GRAIN = 8.0, 4.2, 0.5
# A thread is so long at least, so thick at most, and so many times longer than wide; a piece of one
# between crossings has this part of that length. Seams and stripes are longer than this (mm).
_LONG_MM, _THICK_MM, _LONGER, _PIECE, _LONGEST_MM = 2.0, 3.0, 2.0, 0.5, 35.0
# Along half of such a stretch (mm) lint counts from this part of its times, where it is so many times usual
# itself.
_STRETCH_MM, _ALONG, _FAINT = 0.7, 0.8, 2.0
# Both its sides are looked at so far beyond it (mm); it differs from both, in squares, by this part.
_SIDE_MM, _BOTH = 0.35, 0.4
# A speck is so large at most and at least (mm across, pixels), and round: its box is filled by this part.
_SPECK_MM, _SPECK_PX, _FILLED = 2.6, 3, 0.35
# Its clearest place is so many times as clear as lint has to be, and it differs from what lies on each of
# so many sides by this part of what it differs from all of them.
_CLEAR, _SIDES, _EACH = 1.4, 8, 0.5
# More than so many places within so many mm are a print, a seam or a weave.
_MANY, _NEAR_MM = 3, 12.0
# What is cleared reaches so many pixels of what is looked at beyond it.
_HALF, _BEYOND = 1.3, 1.6


@dataclass(frozen=True)
class Lint:
    """A thread (a path) or a speck (one point), and the radius it takes up: pixels of the original."""

    path: Points
    radius: float


def lint(zones: FaceZones, sensitivity: float = 50.0, read: Reader | None = None) -> list[Lint]:
    """Threads and specks on the clothing of everyone, the longest threads first.

    Parameters
    ----------
    sensitivity : float
        0..100; more finds what is fainter.
    read : callable, optional
        Gives working values of a rectangle on (rows, cols); without it those of the original.
    """
    bounds = zones.pyramid.picture.bounds
    mm = zones.px_per_mm(None)
    coarse = (max(1, round(bounds.height / mm)), max(1, round(bounds.width / mm)))
    ys, xs = np.nonzero(zones.cover("clothing", None, bounds, coarse) > 0.5)
    if len(ys) < 100:
        return []
    rect = Rect(
        int(xs.min() * mm), int(ys.min() * mm), int((xs.max() + 1) * mm) + 1, int((ys.max() + 1) * mm) + 1
    ).clip(bounds)  # fmt: skip
    k = min(1.0, _FINE / mm)
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    fine = mm * k
    cloth = zones.cover("clothing", None, rect, shape) > 0.5
    # Lint itself may count as none: holes as small as it is are closed.
    _, parts, stats, _ = cv2.connectedComponentsWithStats((~cloth).astype(np.uint8))
    small = stats[:, cv2.CC_STAT_AREA] < (_HOLE_MM * fine) ** 2
    small[0] = False
    cloth |= small[parts]
    # The picture's own border is an edge, too.
    inside = np.pad(cloth.astype(np.uint8), 1)
    may = cv2.distanceTransform(inside, cv2.DIST_L2, 3)[1:-1, 1:-1] > _INSIDE_MM * fine
    for zone in ("hair", "worn", "skin"):
        other = zones.cover(zone, None, rect, shape) > 0.5
        if other.any():
            far = cv2.distanceTransform((~other).astype(np.uint8), cv2.DIST_L2, 3)
            may &= far > _INSIDE_MM * fine
    if not may.any():
        return []
    lab = to_lab(np.clip((read or zones.pyramid.sampled)(rect, shape), 0, 1))
    away = cv2.GaussianBlur(lab, (0, 0), 0.6) - cv2.GaussianBlur(lab, (0, 0), _WIDE_MM * fine)
    times = _TIMES * 2 ** ((50 - sensitivity) / 50)
    threads, along = _threads(lab, away, may, times, fine)
    specks = _specks(lab, away, may & ~along, times, fine)
    found = [
        *(Lint(_placed(line - 0.5, rect, k), (0.5 * w + _HALF) / k) for line, w in threads),
        *(Lint(_placed(at[None], rect, k), (radius + _BEYOND) / k) for at, radius in specks),
    ]
    return _scattered(found, _NEAR_MM * mm)


def _scattered(found: list[Lint], near: float) -> list[Lint]:
    """What lies by itself: many places close together are letters, seams, a weave."""
    middles = np.asarray([np.mean(one.path, 0) for one in found]).reshape(-1, 2)
    away = np.hypot(*(middles[:, None] - middles[None]).transpose(2, 0, 1))
    beside = (away < near).sum(1)
    return [one for one, count in zip(found, beside, strict=True) if count <= _MANY]


def _placed(at: NDArray[np.float64], rect: Rect, k: float) -> Points:
    whole = (at + 0.5) / k + (rect.x0, rect.y0)
    return tuple((round(float(x), 1), round(float(y), 1)) for x, y in whole)


def _usual(size: Array, may: Mask, fine: float) -> Array:
    """What cloth shows around each place: the mean of what isn't far beyond the middle."""
    most = 2 * float(np.median(size[may]))
    cell = max(1, round(fine))
    h, w = size.shape
    small = (max(1, w // cell), max(1, h // cell))
    weight = cv2.resize(may.astype(np.float32), small, interpolation=cv2.INTER_AREA)
    values = cv2.resize(np.minimum(size, most) * may, small, interpolation=cv2.INTER_AREA)
    sigma = _USUAL_MM * fine / cell
    mean = cv2.GaussianBlur(values, (0, 0), sigma) / np.maximum(
        cv2.GaussianBlur(weight, (0, 0), sigma), 1e-3
    )
    whole = cv2.resize(mean, (w, h), interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.maximum(whole, _GRAIN), np.float32)


def _threads(
    lab: Array, away: Array, may: Mask, times: float, fine: float
) -> tuple[list[tuple[NDArray[np.float64], float]], Mask]:
    """Threads (x, y) with their widths, the longest first, and what they cover."""
    size = np.sqrt((away * away).sum(-1))
    none = np.full(may.shape, np.nan, np.float32)
    strength, _ = strongest(away, may, none, max(2, round(_STRETCH_MM * fine)), 0.0)
    # Along a stretch grain is evened out: what is usual there is told there.
    seen = may & (strength > 0)
    if not seen.any():
        return [], np.zeros(may.shape, np.bool_)
    long = strength > _ALONG * times * _usual(strength, seen, fine)
    lying = may & (size > _FAINT * _usual(size, may, fine)) & long
    # Grain pierces what is thick and frays its sides.
    whole = cv2.morphologyEx(lying.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8))
    count, parts, stats, _ = cv2.connectedComponentsWithStats(whole, connectivity=8)
    found = []
    covered = np.zeros(may.shape, np.uint8)
    for n in range(1, count):
        x, y, w, h, area = stats[n]
        if area < _LONG_MM * fine or max(w, h) > _LONGEST_MM * fine:
            continue
        places = np.argwhere(parts[y : y + h, x : x + w] == n) + (y, x)
        lines = thin_lines(places, _LONG_MM * fine, _THICK_MM * fine, _LONGER, _PIECE)
        for line, width in lines:
            if is_ridge(line[:, ::-1] - 0.5, lab, 0.5 * width + _SIDE_MM * fine, _BOTH):
                found.append((line, width))
                points = np.round(line - 0.5).astype(np.int32)
                cv2.polylines(covered, [points], False, 1, round(width) + 5)
    found.sort(key=lambda one: length(one[0]), reverse=True)
    return found, covered > 0


def _specks(
    lab: Array, away: Array, may: Mask, times: float, fine: float
) -> list[tuple[NDArray[np.float64], float]]:
    """Middles (x, y) of specks and their radii."""
    size = np.sqrt((away * away).sum(-1))
    usual = _usual(size, may, fine)
    count, parts, stats, middles = cv2.connectedComponentsWithStats(
        (may & (size > times * usual)).astype(np.uint8), connectivity=8
    )
    peak = np.zeros(count, np.float32)
    np.maximum.at(peak, parts.ravel(), (size / usual).ravel())
    found = []
    for n in range(1, count):
        _, _, w, h, area = stats[n]
        small = max(w, h) <= _SPECK_MM * fine and area >= _SPECK_PX
        if not small or area < _FILLED * w * h or peak[n] < _CLEAR * times:
            continue
        radius = 0.5 * max(w, h)
        if _apart(lab, middles[n], radius + _SIDE_MM * fine + 1):
            found.append((middles[n], radius))
    return found


def _apart(lab: Array, at: NDArray[np.float64], radius: float) -> bool:
    """Whether a speck differs from what lies around it on every side, in one direction of colour."""
    angles = 2 * np.pi * np.arange(_SIDES) / _SIDES
    ring = at + radius * np.stack([np.cos(angles), np.sin(angles)], 1)
    x, y = (ring[:, c].astype(np.float32)[None] for c in (0, 1))
    around = cv2.remap(lab, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)[0]
    j, k = round(float(at[1])), round(float(at[0]))
    own = lab[max(j - 1, 0) : j + 2, max(k - 1, 0) : k + 2].reshape(-1, 3).mean(0)
    away = own - around
    mean = away.mean(0)
    return bool(((away * mean).sum(1) > _EACH * float((mean * mean).sum())).all())

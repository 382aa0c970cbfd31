"""Skin's grain: how much is left zone by zone, where it went, where it repeats."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.natural.pairs import LEAST_PIXELS, Array, Mask, Pair, broad
from retouch.natural.texture import fine_energy

# Cells in which grain is looked at (mm), and the part of its amplitude below which it is gone.
_CELL_MM, _GONE = 2.0, 0.5
# Pixels that changed by more than this (0..1) were worked on; grain repeats where a piece so large
# (mm) is so alike (correlation) to another one so near (mm) that wasn't like it before by so much.
_WORKED, _PIECE_MM, _ALIKE, _REACH_MM, _NEWLY = 0.002, 2.6, 0.8, 22.0, 0.35
_MOST_PIECES = 160
# Places that were healed: changed by more than this (L* against what is broad), so wide (mm), and beside skin so
# far around them (mm) whose grain they are compared with.
_SPOT, _SPOT_MM, _BESIDE_MM = 2.0, (0.8, 9.0), 3.0
_MOST_SPOTS = 400
# What is so near to its border (mm) isn't looked at, if this part of it is left then.
_OVER_MM, _CORE = 0.4, 0.15
# A piece that varies by less (0..1) has no grain.
_FLAT = 0.0015
# Every so many pixels are enough for a median.
_EACH = 7


def left(pair: Pair, where: Mask) -> float | None:
    """The amplitude of the fine band in a zone, per cent of before; None where too little is seen.

    Medians of cells: what is healed doesn't count, whatever was there.
    """
    if int(where.sum()) < LEAST_PIXELS:
        return None
    ratios = _ratios(pair)[where][::_EACH]
    return float(100 * np.median(ratios))


def gone(pair: Pair) -> tuple[float, Mask]:
    """The part of the face's skin that lost its grain, per cent, and where that is."""
    skin = pair.skin
    where = skin & (_ratios(pair) < _GONE)
    return 100 * float(where.sum()) / max(int(skin.sum()), 1), where


def _ratios(pair: Pair) -> Array:
    """Amplitude after over before, in cells around each pixel."""
    if "ratios" not in pair.kept:
        pair.kept["ratios"] = _ratios_of(pair)
    return pair.kept["ratios"]


def _ratios_of(pair: Pair) -> Array:
    size = max(1.0, _CELL_MM * pair.px_per_mm / 2)
    sums = [broad(fine_energy(grey, pair.px_per_mm), size) for grey in pair.greys]
    # 8-bit rounding has an energy of its own: what is below it is no grain.
    floor = np.float32(1e-7)
    return np.asarray(np.sqrt((sums[1] + floor) / (sums[0] + floor)), np.float32)


def repeats(pair: Pair) -> tuple[float, Mask]:
    """How much of the skin that was worked on looks like another place beside it, per cent of the face's
    skin, and where: pieces that are alike now and weren't before (normalised correlation of the fine band).
    """
    skin = pair.skin
    out = np.zeros(skin.shape, np.bool_)
    changed = np.abs(pair.after - pair.before).max(-1) > _WORKED
    size = max(8, round(_PIECE_MM * pair.px_per_mm))
    whole = cv2.erode((skin & changed).astype(np.uint8), np.ones((3, 3), np.uint8))
    places = _places(whole > 0, size)
    if not len(places):
        return 0.0, out
    fine = [_fine(grey, pair.px_per_mm) for grey in pair.greys]
    reach = round(_REACH_MM * pair.px_per_mm)
    height, width = skin.shape
    for y, x in places:
        # What has no grain is like everything; that is told by `gone`.
        if float(fine[1][y : y + size, x : x + size].std()) < _FLAT:
            continue
        y0, x0 = max(y - reach, 0), max(x - reach, 0)
        y1, x1 = min(y + size + reach, height), min(x + size + reach, width)
        now = _likeness(fine[1], (y, x), size, (y0, x0, y1, x1))
        _, best, _, at = cv2.minMaxLoc(now)
        if best < _ALIKE:
            continue
        was = _likeness(fine[0], (y, x), size, (y0, x0, y1, x1))
        if best - float(was[at[1], at[0]]) > _NEWLY:
            out[y : y + size, x : x + size] = True
    return 100 * float((out & skin).sum()) / max(int(skin.sum()), 1), out


def healed(pair: Pair) -> tuple[int, float, Mask]:
    """How many places of the face's skin were healed, the median of their grain in per cent of that beside
    them, and where the one is that differs most.

    A healed place is told by its change: a small spot in which light or colour moved and around which it
    didn't. Amplitudes are of the result's fine band, inside and in a ring. One place alone says little, since grain
    varies by a third from place to place.
    """
    skin, mm = pair.skin, pair.px_per_mm
    bad = np.zeros(skin.shape, np.bool_)
    move = pair.labs[1] - pair.labs[0]
    local = cv2.GaussianBlur(move, (0, 0), 0.25 * mm) - broad(move, _SPOT_MM[1] * mm)
    spots = ((np.abs(local).max(-1) > _SPOT) & skin).astype(np.uint8)
    n, labels, stats, _ = cv2.connectedComponentsWithStats(spots)
    energy = _fine(pair.greys[1], mm) ** 2
    ring = max(2, round(_BESIDE_MM * mm))
    over = np.ones((2 * max(1, round(_OVER_MM * mm)) + 1,) * 2, np.uint8)
    least, most = (round(np.pi / 4 * (w * mm) ** 2) for w in _SPOT_MM)
    ratios: list[float] = []
    worst = 0.0
    for k in range(1, min(n, _MOST_SPOTS + 1)):
        x, y, w, h, area = stats[k]
        if not least <= area <= most:
            continue
        rows, columns = slice(max(y - ring, 0), y + h + ring), slice(max(x - ring, 0), x + w + ring)
        inside = labels[rows, columns] == k
        near = cv2.dilate(inside.astype(np.uint8), np.ones((2 * ring + 1,) * 2, np.uint8)) > 0
        # Where one goes over into the other is neither.
        border = cv2.dilate(inside.astype(np.uint8), over) > 0
        core = cv2.erode(inside.astype(np.uint8), over) > 0
        if int(core.sum()) >= _CORE * area:
            inside = core
        beside = near & ~border & (labels[rows, columns] == 0) & skin[rows, columns]
        if int(beside.sum()) < area:
            continue
        own, other = (
            float(np.sqrt(energy[rows, columns][m].mean() + 1e-8)) for m in (inside, beside)
        )
        ratios.append(own / other)
        if abs(np.log(ratios[-1])) > worst:
            worst = abs(float(np.log(ratios[-1])))
            bad[:] = False
            bad[rows, columns] = inside
    return len(ratios), 100 * float(np.median(ratios)) if ratios else 100.0, bad


def _fine(grey: Array, px_per_mm: float) -> Array:
    return np.asarray(
        cv2.GaussianBlur(grey, (0, 0), 0.5) - cv2.GaussianBlur(grey, (0, 0), 0.35 * px_per_mm),
        np.float32,
    )


def _likeness(
    fine: Array, at: tuple[int, int], size: int, area: tuple[int, int, int, int]
) -> NDArray[np.float32]:
    """Correlation of a piece with all places of an area; itself and what overlaps it left out."""
    y, x = at
    y0, x0, y1, x1 = area
    found = cv2.matchTemplate(
        fine[y0:y1, x0:x1], fine[y : y + size, x : x + size], cv2.TM_CCOEFF_NORMED
    )
    own = np.s_[max(y - y0 - size, 0) : y - y0 + size, max(x - x0 - size, 0) : x - x0 + size]
    found[own] = -1
    return np.asarray(found, np.float32)


def _places(where: Mask, size: int) -> list[tuple[int, int]]:
    """Corners of pieces that lie in what was worked on for most of their part, spread evenly."""
    share = cv2.boxFilter(where.astype(np.float32), -1, (size, size), anchor=(0, 0))
    step = max(1, size // 2)
    ys, xs = np.nonzero(share[:-size:step, :-size:step] > 0.75)
    found = [(int(y) * step, int(x) * step) for y, x in zip(ys, xs, strict=True)]
    if len(found) <= _MOST_PIECES:
        return found
    chosen = np.linspace(0, len(found) - 1, _MOST_PIECES).astype(int)
    return [found[n] for n in chosen]

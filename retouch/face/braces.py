"""Braces on teeth: the wire that runs across them, and what is fixed to it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.outlines import Points, outlines
from retouch.face.ridges import path, ridges
from retouch.geometry import Rect

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Pixels per mm that braces are looked for with at most.
_FINE = 9.0
# Darker than this part of the teeth is a gap or the mouth behind.
_DARK = 0.35
# Unlike the tooth by this (CIE76) may belong to braces.
_FAINT = 5.0
# Light and shade vary on a tooth, so lightness has less say.
_WEIGHT = np.array([0.6, 1, 1], np.float32)
# A bracket is where it is unlike by this part of what is most so near the wire.
_CLEAR = 0.5
# A wire is looked for by what it is so far from both its sides (mm), is at most so thick, and is seen
# on this part of the width on which teeth are, which is so large at least.
_WIRE_STEPS_MM, _THICK_MM, _ACROSS, _LEAST_WIDTH_MM = (0.45, 0.7, 0.95), 1.3, 0.35, 12.0
# Brackets are so high and wide (mm); fewer are no braces.
_HIGH_MM, _WIDE_MM, _LEAST = 1.5, (1.2, 7.0), 3
# So many outlines of what is no tooth are enough.
_MOST_BESIDE = 8
# Their parts lie so near to the wire; there the tooth begins, and up to here it tells its colour; they
# go with so much around them (mm).
_NEAR_MM, _BEYOND_MM, _RIM_MM = 2.3, 3.4, 0.45
# A bracket's middle, and how far its edge may lie beside where it is clear (mm).
_CORE_MM, _MARGIN_MM = 0.8, 0.5


@dataclass(frozen=True)
class Braces:
    """What is found on a face's teeth: an outline for each bracket and each piece of wire.

    ``beside`` are outlines of what is no tooth around them: lips, and the mouth behind.
    """

    brackets: tuple[Points, ...]
    wires: tuple[Points, ...]
    beside: tuple[Points, ...]


def braces(zones: FaceZones, n: int) -> Braces | None:
    """Braces of a face; None where none are seen."""
    analysis = zones.analysis
    assert analysis is not None
    face = analysis.faces[n]
    lips = face.points[list(lm.LIPS_IN), :2].astype(np.float64)
    mm = face.scale.px_per_mm
    low, high = lips.min(0) - 2 * mm, lips.max(0) + 2 * mm
    rect = Rect(int(low[0]), int(low[1]), int(high[0]) + 1, int(high[1]) + 1)
    rect = rect.clip(zones.pyramid.picture.bounds)
    if rect.width < 16 or rect.height < 8:
        return None
    k = min(1.0, _FINE / mm)
    shape = (max(8, round(rect.height * k)), max(8, round(rect.width * k)))
    fine = mm * k
    teeth = zones.cover("teeth", face.anchor, rect, shape) > 0.4
    if not teeth.any():
        return None
    image = np.clip(zones.pyramid.sampled(rect, shape), 0, 1).astype(np.float32)
    lab = to_lab(np.ascontiguousarray(image))
    field = _field(teeth, lab, fine)
    wire = _wire(lab, field, fine)
    if wire is None:
        return None
    away = _unlike(lab, field, wire, fine)
    return _pieces(image, away, field, wire, rect, fine)


def _field(teeth: Mask, lab: Array, fine: float) -> Mask:
    """Where teeth are seen, with what covers them."""
    high = 2 * max(1, round(0.5 * 4.0 * fine)) + 1
    wide = 2 * max(1, round(0.5 * 1.5 * fine)) + 1
    padded = cv2.copyMakeBorder(teeth.astype(np.uint8), high, high, wide, wide, cv2.BORDER_CONSTANT)
    closed = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, np.ones((high, 1), np.uint8))
    closed = cv2.morphologyEx(closed, cv2.MORPH_CLOSE, np.ones((1, wide), np.uint8))
    inside = closed[high:-high, wide:-wide] > 0
    usual = float(np.median(lab[teeth][:, 0]))
    return np.asarray(inside & (lab[..., 0] > _DARK * usual))


def _wire(lab: Array, field: Mask, fine: float) -> NDArray[np.int64] | None:
    """The row of the wire in each column, -1 where no teeth are; None without a wire."""
    columns = np.flatnonzero(field.sum(0) > 1.5 * fine)
    if len(columns) < _LEAST_WIDTH_MM * fine:
        return None
    first, last = int(columns[0]), int(columns[-1]) + 1
    steps = tuple(sorted({max(1, round(mm * fine)) for mm in _WIRE_STEPS_MM}))
    across = np.ascontiguousarray(lab[:, first:last].transpose(1, 0, 2))
    inside = cv2.erode(field.astype(np.uint8), np.ones((2 * steps[0] + 1, 1), np.uint8))
    line = np.minimum(ridges(across, steps), 20.0) * inside[:, first:last].T
    # Along the wire grain evens out.
    line = cv2.blur(line, (1, max(1, round(0.8 * fine))))
    score = np.where(inside[:, first:last].T > 0, line, -4.0).astype(np.float32)
    rows = path(np.ascontiguousarray(score), 1, 1.2)
    seen = line[np.arange(last - first), rows] > _FAINT
    if seen.mean() < _ACROSS:
        return None
    out = np.full(field.shape[1], -1, np.int64)
    out[first:last] = rows
    return out


def _unlike(lab: Array, field: Mask, wire: NDArray[np.int64], fine: float) -> Array:
    """How far places near the wire are from the colour of their tooth (CIE76), 0 elsewhere.

    The tooth's colour is that above and below of what may be a bracket, and between them evenly.
    """
    h, w = field.shape
    near, far = _NEAR_MM * fine, _BEYOND_MM * fine
    soft = cv2.blur(lab, (1, max(1, round(0.6 * fine))))
    out = np.zeros((h, w), np.float32)
    for x in np.flatnonzero(wire >= 0):
        y = int(wire[x])
        ends: list[tuple[float, Array]] = []
        for low, high in ((y - far, y - near), (y + near, y + far)):
            rows = np.arange(max(round(low), 0), min(round(high) + 1, h))
            rows = rows[field[rows, x]] if len(rows) else rows
            if len(rows):
                ends.append((float(rows.mean()), np.median(soft[rows, x], axis=0)))
        if not ends:
            continue
        (a, top), (b, bottom) = ends[0], ends[-1]
        rows = np.arange(max(round(y - near), 0), min(round(y + near) + 1, h))
        t = np.clip((rows - a) / max(b - a, 1.0), 0, 1)[:, None].astype(np.float32)
        own = top + t * (bottom - top)
        out[rows, x] = np.linalg.norm((lab[rows, x] - own) * _WEIGHT, axis=1)
    # Gaps between teeth are thin across: no bracket is.
    thin = 2 * max(1, round(0.5 * fine)) + 1
    opened = cv2.morphologyEx(out, cv2.MORPH_OPEN, np.ones((1, thin), np.uint8))
    return np.asarray(opened * field, np.float32)


def _pieces(
    image: Array, away: Array, field: Mask, wire: NDArray[np.int64], rect: Rect, fine: float
) -> Braces | None:
    """Brackets and the wire between them."""
    h, w = field.shape
    off = np.abs(np.arange(h)[:, None] - wire[None])
    near = (wire >= 0)[None] & (off < _NEAR_MM * fine)
    # Metal differs more than light and shade do on a tooth.
    clear = max(_FAINT, _CLEAR * float(np.quantile(away[near & field], 0.9)))
    found = (away > clear) & near & field
    found = cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)) > 0
    high = cv2.blur(found.sum(0).astype(np.float32)[None], (max(1, round(0.4 * fine)), 1))[0]
    count, runs = cv2.connectedComponents((high > _HIGH_MM * fine).astype(np.uint8)[None])
    spans = [np.flatnonzero(runs[0] == n) for n in range(1, count)]
    spans = [s for s in spans if _WIDE_MM[0] * fine <= len(s) <= _WIDE_MM[1] * fine]
    if len(spans) < _LEAST:
        return None
    block = np.zeros((1, w), np.bool_)
    block[0, np.concatenate(spans)] = True
    core = (off < _CORE_MM * fine) & found
    metal = _cut(image, near & field, (core & block) | ((off < 1) & field & ~block), found & block)
    disc = _disc(_RIM_MM * fine)
    brackets, taken = [], np.zeros((h, w), np.bool_)
    for span in spans:
        margin = round(_MARGIN_MM * fine)
        columns = slice(max(span[0] - margin, 0), span[-1] + 1 + margin)
        own = np.zeros((h, w), np.uint8)
        own[:, columns] = metal[:, columns]
        own = cv2.morphologyEx(own, cv2.MORPH_OPEN, _disc(0.25 * fine))
        whole = (cv2.dilate(own, disc) > 0) & field & ~taken
        parts = outlines(whole, rect, 4.0)
        if parts:
            brackets.append(parts[0])
            taken |= whole
    band = (wire >= 0)[None] & (off <= max(1.0, _THICK_MM * fine / 2)) & field & ~taken
    band &= cv2.dilate(((metal > 0) & band).astype(np.uint8), _disc(_RIM_MM * fine)) > 0
    wires = outlines(band, rect, 0.3 * fine * fine)
    beside = outlines(cv2.dilate((~field).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0, rect)
    return Braces(tuple(brackets), tuple(wires), tuple(beside[:_MOST_BESIDE]))


def _disc(radius: float) -> NDArray[np.uint8]:
    side = 2 * max(1, round(radius)) + 1
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)), np.uint8)


def _cut(image: Array, near: Mask, sure: Mask, likely: Mask) -> NDArray[np.uint8]:
    """What is metal by its colour and edges (C. Rother, V. Kolmogorov, A. Blake, *GrabCut*, 2004)."""
    labels = np.full(near.shape, cv2.GC_BGD, np.uint8)
    labels[near] = cv2.GC_PR_BGD
    labels[likely & near] = cv2.GC_PR_FGD
    labels[sure & near] = cv2.GC_FGD
    pixels = np.ascontiguousarray(np.round(image * 255), np.uint8)
    cv2.setRNGSeed(1)
    found, *_ = cv2.grabCut(
        pixels, labels, None, np.zeros((1, 65)), np.zeros((1, 65)), 3, cv2.GC_INIT_WITH_MASK
    )
    return np.asarray((found == cv2.GC_FGD) | (found == cv2.GC_PR_FGD), np.uint8)

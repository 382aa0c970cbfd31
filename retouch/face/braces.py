"""Braces on teeth: the wire that runs across them, and what is fixed to it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.discs import disc, grown
from retouch.face import landmarks as lm
from retouch.face.cover import FaceZones
from retouch.face.outlines import Points, outlines
from retouch.face.ridges import path, ridges
from retouch.geometry import Rect

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Pixels per mm that braces are looked for with at most.
_FINE = 9.0
# Darker than this part of the teeth is a gap or the mouth behind; redder by this (the logarithm of red
# to green, so shade makes no difference) a lip, a gum or the tongue.
_DARK, _RED = 0.3, 0.3
# Unlike the tooth by this (CIE76) may belong to braces.
_FAINT = 5.0
# Colour is told by the logarithms of red to blue and of red to green, in which shade makes no difference,
# so often. Light and shade vary on a tooth, so lightness has little say; but in cool light teeth are as
# grey as metal, and what is darker than they has to do. A bracket is where it is unlike by this part of
# what is most so near the wire: (weight of lightness, that part).
_TINT = 25.0
_WAYS = ((0.15, 0.65), (0.6, 0.5))
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
# A bracket's edge may lie so far beside where it is clear (mm), and is where this part of a row or
# column is unlike the tooth. Its shade falls so far below it, that of
# the wire so far beside it (mm).
_MARGIN_MM, _FILLED, _SHADE_MM, _FALL_MM = 0.5, 0.3, 0.4, 0.2
# What is as far from a surface through all teeth counts half in it.
_USUAL = 3.0
# An arch is a polynomial of this degree, fitted so often, with less and less of what lies off it.
_BENDS, _FITS = 4, 4
# It reaches so far above and below the wire (mm).
_SITS_MM = 0.4
# What is left beside brackets and wire and is as unlike as most of them is a piece from this size (mm2).
_REST, _REST_MM2 = 0.85, 0.4


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
    lips_in = np.zeros(shape, np.uint8)
    inner = (lips - (rect.x0, rect.y0)) * k
    cv2.fillPoly(lips_in, [np.round(inner).astype(np.int32)], 1)
    opening = (lips_in > 0) & (zones.cover("lips", face.anchor, rect, shape) < 0.5)
    # A pixel at the edge is half a lip's.
    opening = cv2.erode(opening.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    field = _field(opening, teeth, image, lab, fine)
    best: Braces | None = None
    for weight, clear in _WAYS:
        told = _told(image, lab, weight)
        wire = _wire(told, field, fine)
        if wire is None:
            continue
        away = _unlike(told - _usual(told, field), field, wire, fine)
        found = _pieces(away, field, wire, rect, fine, clear)
        if found and (best is None or len(found.brackets) > len(best.brackets)):
            best = found
    return best


def _field(opening: Mask, teeth: Mask, image: Array, lab: Array, fine: float) -> Mask:
    """Where teeth are seen, with what covers them: what in the mouth is neither dark nor red."""
    usual = float(np.median(lab[teeth][:, 0]))
    red = _log(image[..., 0]) - _log(image[..., 1])
    own = float(np.median(red[teeth]))
    field = opening & (lab[..., 0] > _DARK * usual) & (cv2.blur(red, (3, 3)) < own + _RED)
    # Gaps between teeth are thin, and go on behind a wire as teeth do.
    wide = 2 * max(1, round(0.5 * fine)) + 1
    padded = cv2.copyMakeBorder(
        (field | teeth).astype(np.uint8), 0, 0, wide, wide, cv2.BORDER_CONSTANT
    )
    closed = cv2.morphologyEx(padded, cv2.MORPH_CLOSE, np.ones((1, wide), np.uint8))
    closed = cv2.morphologyEx(closed, cv2.MORPH_OPEN, disc(0.4 * fine))
    return np.asarray((closed[:, wide:-wide] > 0) & opening)


def _log(values: Array) -> Array:
    return np.log(values + np.float32(0.03))


def _told(image: Array, lab: Array, weight: float) -> Array:
    """What tells metal from teeth, (h, w, 3) about as large as CIE76 differences are."""
    red, green, blue = (_log(image[..., c]) for c in range(3))
    told = np.stack([weight * lab[..., 0], _TINT * (red - blue), _TINT * (red - green)], 2)
    return np.ascontiguousarray(told, np.float32)


def _wire(told: Array, field: Mask, fine: float) -> NDArray[np.int64] | None:
    """The row of the wire in each column, -1 where no teeth are; None without a wire."""
    columns = np.flatnonzero(field.sum(0) > 1.5 * fine)
    if len(columns) < _LEAST_WIDTH_MM * fine:
        return None
    first, last = int(columns[0]), int(columns[-1]) + 1
    steps = tuple(sorted({max(1, round(mm * fine)) for mm in _WIRE_STEPS_MM}))
    across = np.ascontiguousarray(told[:, first:last].transpose(1, 0, 2))
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


def _usual(told: Array, field: Mask) -> Array:
    """What teeth are told by across a mouth, shade and all: a smooth surface most of it lies near."""
    h, w = field.shape
    y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j]
    terms = np.stack([np.ones_like(x), x, x * x, x**3, x**4, y, y * y, x * y, x * x * y], 2)
    own, values = terms[field], told[field].astype(np.float64)
    weight = np.ones(len(own))
    held = 1e-3 * len(own) * np.eye(own.shape[1])
    for _ in range(_FITS):
        even = own * weight[:, None]
        factors = np.linalg.solve(own.T @ even + held, even.T @ values)
        off = np.linalg.norm(values - own @ factors, axis=1)
        weight = 1 / (1 + (off / _USUAL) ** 2)
    return np.asarray(terms @ factors, np.float32)


def _unlike(told: Array, field: Mask, wire: NDArray[np.int64], fine: float) -> Array:
    """How far places near the wire are from the colour of their tooth (CIE76), 0 elsewhere.

    The tooth's colour is that above and below of what may be a bracket, and between them evenly.
    """
    h, w = field.shape
    near, far = _NEAR_MM * fine, _BEYOND_MM * fine
    soft = cv2.blur(told, (1, max(1, round(0.6 * fine))))
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
        out[rows, x] = np.linalg.norm(told[rows, x] - own, axis=1)
    # Gaps between teeth are thin across: no bracket is.
    thin = 2 * max(1, round(0.5 * fine)) + 1
    opened = cv2.morphologyEx(out, cv2.MORPH_OPEN, np.ones((1, thin), np.uint8))
    return np.asarray(opened * field, np.float32)


def _pieces(
    away: Array, field: Mask, wire: NDArray[np.int64], rect: Rect, fine: float, part: float
) -> Braces | None:
    """Brackets, the wire between them, and what else is metal."""
    h, w = field.shape
    off = np.abs(np.arange(h)[:, None] - wire[None])
    near = (wire >= 0)[None] & (off < _NEAR_MM * fine)
    # Metal differs more than light and shade do on a tooth.
    most = float(np.quantile(away[near & field], 0.95))
    clear = max(_FAINT, part * most)
    found = (away > clear) & near & field
    found = cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)) > 0
    high = cv2.blur(found.sum(0).astype(np.float32)[None], (max(1, round(0.4 * fine)), 1))[0]
    count, runs = cv2.connectedComponents((high > _HIGH_MM * fine).astype(np.uint8)[None])
    spans = [np.flatnonzero(runs[0] == n) for n in range(1, count)]
    spans = [s for s in spans if _WIDE_MM[0] * fine <= len(s) <= _WIDE_MM[1] * fine]
    below = np.arange(h)[:, None] - _arch(wire, found)[None]
    brackets, taken = [], np.zeros((h, w), np.bool_)
    margin, rim, shade = (round(mm * fine) for mm in (_MARGIN_MM, _RIM_MM, _SHADE_MM))
    for span in spans:
        columns = np.arange(max(span[0] - margin, 0), min(span[-1] + 1 + margin, w))
        extent = _block(found, below, columns, fine)
        if extent is None:
            continue
        left, right, top, bottom = extent
        # A tooth's shade under the lip ends at the wire: a bracket sits on it.
        if min(-top, bottom) < _SITS_MM * fine:
            continue
        # Brackets are blocks along the wire.
        whole = (below >= top - rim) & (below <= bottom + rim + shade) & field & ~taken
        whole[:, : max(left - rim, 0)] = False
        whole[:, right + rim + 1 :] = False
        parts = outlines(whole, rect, 4.0)
        if parts:
            brackets.append(parts[0])
            taken |= whole
    if len(brackets) < _LEAST:
        return None
    band = (wire >= 0)[None] & (off <= max(1.0, (_THICK_MM / 2 + _FALL_MM) * fine)) & field & ~taken
    thin = (away > _FAINT) & band
    band &= grown(thin, _RIM_MM * fine)
    wires = outlines(band, rect, 0.3 * fine * fine)
    rest = found & (away > _REST * most) & ~taken & ~band
    rest = cv2.morphologyEx(rest.astype(np.uint8), cv2.MORPH_OPEN, disc(1))
    rest = (cv2.dilate(rest, disc(rim)) > 0) & field & ~taken & ~band
    wires += outlines(rest, rect, _REST_MM2 * fine * fine)
    beside = outlines(cv2.dilate((~field).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0, rect)
    return Braces(tuple(brackets), tuple(wires), tuple(beside[:_MOST_BESIDE]))


def _arch(wire: NDArray[np.int64], found: Mask) -> NDArray[np.int64]:
    """The row of the arch that a wire follows, in every column: a wire as found jumps at brackets."""
    columns = np.flatnonzero(wire >= 0)
    rows = wire[columns].astype(np.float64)
    weight = 0.1 + found[wire[columns], columns]
    for _ in range(_FITS):
        arch = np.polynomial.Polynomial.fit(columns, rows, _BENDS, w=np.sqrt(weight))
        off = np.abs(rows - arch(columns))
        weight = (0.1 + found[wire[columns], columns]) / np.maximum(off, 1.0)
    return np.asarray(np.round(arch(np.arange(len(wire)))), np.int64)


def _block(
    found: Mask, below: NDArray[np.int64], columns: NDArray[np.int64], fine: float
) -> tuple[int, int, int, int] | None:
    """First and last column, and first and last row below the wire, of a block in these columns."""
    most = int(_NEAR_MM * fine) + 1
    upright = np.zeros((2 * most + 1, len(columns)), np.bool_)
    for n, x in enumerate(columns):
        rows = np.flatnonzero(found[:, x])
        rows = rows[np.abs(below[rows, x]) <= most]
        upright[below[rows, x] + most, n] = True
    rows = np.flatnonzero(upright.mean(1) > _FILLED)
    if not len(rows):
        return None
    inside = np.flatnonzero(upright[rows[0] : rows[-1] + 1].mean(0) > _FILLED)
    if not len(inside):
        return None
    return (
        int(columns[inside[0]]), int(columns[inside[-1]]), int(rows[0]) - most, int(rows[-1]) - most,
    )  # fmt: skip

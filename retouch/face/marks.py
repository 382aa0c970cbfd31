"""Marks: spots on the skin, what they are made of, and whether they are likely to stay."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float
from retouch.colour.transfer import to_linear
from retouch.discs import disc
from retouch.face.blobs import LEAST_CERTAINTY, blobs
from retouch.face.judging import LEAST_SCALE, RIM_MM, Mark, judge
from retouch.geometry import Rect

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]

# The picture is judged at no more than this many pixels per millimetre.
_WORKING_PX_PER_MM = 4.2
_DARK = 0.004
_ROOM_MM = 6.0
# A pigmented spot with at least so many like it within this distance, of a contrast within this
# factor, is one of a field of freckles (common practice: they belong to the person).
_COMPANY, _COMPANY_MM, _ALIKE, _COMPANY_BLOOD = 6, 14.0, 2.2, 0.72

# An inflamed spot that is raised mirrors the light on one side and is red in its own shade on the
# other: a highlight and a bloody spot, each so clear, so near to each other. Such a pair is said with
# less than what its parts are seen with, so that it is never beyond doubt.
_CLEAR, _GLINT, _BLOODY, _PAIR_MM, _PAIRED = 0.85, 0.3, 0.45, 2.2, 0.8
# A spot stands out among what lies around it, so far (millimetres from its edge): where light
# changes there by this part of its contrast and more (from the darkest to the brightest tenth),
# hair, cloth or a fold is as near, and it is asked about. Of blemishes on the demo people 5 in 100 have
# so much around them.
_AROUND_MM, _RESTLESS = 3.0, 1.65
# So sure a spot is a blemish in a doubtful place, too.
_BEYOND_DOUBT = 0.85


def find_marks(
    picture: Pixels, rect: Rect, skin: Array, px_per_mm: float, doubt: Array | None = None
) -> list[Mark]:
    """Marks on the skin inside a rectangle, the clearest first.

    Parameters
    ----------
    picture : ndarray (h, w, 3) uint8
        sRGB at full size.
    rect : Rect
        Part of the picture, inside it.
    skin : ndarray (rows, cols) float32
        Mask of the skin over ``rect``, any size, 0..1.
    px_per_mm : float
        Of the original.
    doubt : ndarray (rows, cols) float32, optional
        Where what looks like a blemish may be a fold or an edge, over ``rect``: there it is asked.

    Returns
    -------
    list of Mark
        All there are; `visible` thins them by sensitivity.
    """
    scale = min(1.0, _WORKING_PX_PER_MM / px_per_mm)
    size = (max(1, round(rect.width * scale)), max(1, round(rect.height * scale)))
    mask = cv2.resize(skin, size, interpolation=cv2.INTER_LINEAR)
    unit = px_per_mm * scale
    # The rim of the skin is no place for marks: hairs, lids and lips begin there.
    mask = cv2.erode(np.clip(mask * 1.4 - 0.3, 0, 1), disc(RIM_MM * unit))
    if mask.max() < 0.5 or unit < 0.8:
        return []
    part = picture[rect.y0 : rect.y1, rect.x0 : rect.x1]
    if scale < 1:
        part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
    # Only where there is skin, with room for what is compared with it.
    x0, y0, x1, y1 = _around(mask > 0.5, round(_ROOM_MM * unit))
    part, mask = part[y0:y1, x0:x1], np.ascontiguousarray(mask[y0:y1, x0:x1])
    logs = np.log(to_linear(to_float(part)) + np.float32(_DARK))
    logs = cv2.GaussianBlur(logs, (0, 0), max(0.12 * unit, 0.5))
    red, green = logs[..., 0], logs[..., 1]
    found = blobs(np.ascontiguousarray(red - green), np.ascontiguousarray(green), mask, unit)
    judged = [one for blob in found if (one := judge(logs, mask, blob, unit)) is not None]
    judged = [m for m in judged if m.confidence >= LEAST_CERTAINTY]

    def settled(marks: list[Mark]) -> list[Mark]:
        calm = [_if_calm(m, green, unit) for m in marks]
        return [replace(m, x=m.x + x0, y=m.y + y0) for m in calm]

    wholes, others = (settled(marks) for marks in _joined(judged, unit))
    judged = [_where_seen(m, doubt, size, unit) for m in wholes]
    judged += [_doubted(m, others, doubt, size, unit) for m in others]
    back = rect.width / size[0]
    placed = [
        replace(
            m, x=m.x * back + rect.x0, y=m.y * back + rect.y0, radius=m.radius * back,
            reach=m.reach * back,
        )
        for m in judged
    ]  # fmt: skip
    return sorted(placed, key=lambda m: -m.confidence)


def _around(mask: NDArray[np.bool_], room: int) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what holds a mask, with some room."""
    x, y, w, h = cv2.boundingRect(mask.view(np.uint8))
    rows, cols = mask.shape
    return max(x - room, 0), max(y - room, 0), min(x + w + room, cols), min(y + h + room, rows)


def _if_calm(mark: Mark, green: Array, unit: float) -> Mark:
    """The mark, asked about where as much as itself goes on around it."""
    if mark.proposal != "clear":
        return mark
    far = mark.radius + _AROUND_MM * unit
    x0, y0 = max(int(mark.x - far), 0), max(int(mark.y - far), 0)
    patch = green[y0 : int(mark.y + far) + 2, x0 : int(mark.x + far) + 2]
    smooth = cv2.GaussianBlur(patch, (0, 0), max(0.3 * mark.radius, 0.5))
    ys, xs = np.mgrid[: patch.shape[0], : patch.shape[1]] + 0.5
    d = np.hypot(xs + x0 - mark.x, ys + y0 - mark.y)
    dark, bright = np.quantile(smooth[(d > 1.3 * mark.radius) & (d < far)], (0.1, 0.9))
    return replace(mark, proposal="ask") if bright - dark > _RESTLESS * mark.contrast else mark


def _joined(marks: list[Mark], unit: float) -> tuple[list[Mark], list[Mark]]:
    """Raised spots, each in one, and all marks that are no part of one."""
    wholes, parts = [], set()
    for i, mark in enumerate(marks):
        if mark.proposal != "ask" or mark.kind not in ("red", "dark"):
            continue
        if mark.blood < _BLOODY or mark.contrast < _GLINT or mark.confidence < _CLEAR:
            continue
        for j, lit in enumerate(marks):
            apart = float(np.hypot(lit.x - mark.x, lit.y - mark.y))
            near = apart <= min(_PAIR_MM * unit, 1.4 * (lit.radius + mark.radius))
            clear = lit.contrast > _GLINT and lit.confidence > _CLEAR
            if lit.kind == "light" and clear and near and j not in parts:
                wholes.append(_whole(mark, lit, apart))
                parts |= {i, j}
                break
    return wholes, [m for i, m in enumerate(marks) if i not in parts]


def _whole(mark: Mark, lit: Mark, apart: float) -> Mark:
    """A raised spot of its red side and its highlight."""
    radius = (apart + lit.radius + mark.radius) / 2
    toward = (radius - mark.radius) / max(apart, 1e-6)
    return replace(
        mark, kind="red", proposal="clear",
        x=mark.x + toward * (lit.x - mark.x), y=mark.y + toward * (lit.y - mark.y),
        radius=radius, reach=max(mark.reach, 1.3 * radius),
        confidence=_PAIRED * min(mark.confidence, lit.confidence),
    )  # fmt: skip


def _doubted(
    mark: Mark, others: list[Mark], doubt: Array | None, size: tuple[int, int], unit: float
) -> Mark:
    """The mark, asked about or kept where its place or its company says so."""
    if mark.proposal != "clear":
        return mark
    if mark.blood < _COMPANY_BLOOD and mark.kind == "red":
        alike = sum(
            o is not mark
            and o.blood < _COMPANY_BLOOD
            and np.hypot(o.x - mark.x, o.y - mark.y) < _COMPANY_MM * unit
            and mark.contrast / _ALIKE < o.contrast < mark.contrast * _ALIKE
            for o in others
        )
        if alike >= _COMPANY:
            return replace(mark, proposal="ask")
    # The rim of a mole is redder than its middle: it goes with the mole.
    if any(
        o.proposal == "keep"
        and o.contrast > mark.contrast
        and np.hypot(o.x - mark.x, o.y - mark.y) < o.reach + mark.radius
        for o in others
    ):
        return replace(mark, proposal="ask")
    return _where_seen(mark, doubt, size, unit)


def _where_seen(mark: Mark, doubt: Array | None, size: tuple[int, int], unit: float) -> Mark:
    """The mark, asked about where too few pixels or a doubtful place show it."""
    if unit < LEAST_SCALE:
        return replace(mark, proposal="ask")
    if doubt is not None:
        row = min(int(mark.y / size[1] * doubt.shape[0]), doubt.shape[0] - 1)
        col = min(int(mark.x / size[0] * doubt.shape[1]), doubt.shape[1] - 1)
        if doubt[row, col] > 0.5 and mark.confidence < _BEYOND_DOUBT:
            return replace(mark, proposal="ask")
    return mark


def visible(marks: list[Mark], sensitivity: float) -> list[Mark]:
    """The marks that count at a sensitivity of 0..100; 50 is the default."""
    least = 1 - min(max(sensitivity, 0.0), 100.0) / 100
    return [m for m in marks if m.confidence >= max(least, LEAST_CERTAINTY)]

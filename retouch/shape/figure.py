"""Shoulders and waist of a figure, by its outline below the chin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

_Line = Sequence[tuple[float, float]]

# Above the shoulder's line the background gives way over so many mm, below it the cloth.
_ABOVE_MM, _BELOW_MM = 50.0, 140.0
# Beside the figure the background gives way over so many mm.
_BESIDE_MM = 70.0
# A waist is looked for from so far below the shoulders on (mm), and reaches so far up and down.
_LOWEST_MM, _TALL_MM = 180.0, 90.0
# It is narrower by so much (a part of the width at the shoulders) than what lies above it and below it.
_NARROWER = 0.03
# A figure is cut off where its outline runs straight along its end for so many mm.
_CUT_MM = 15.0
_NODE_MM = 3.0


@dataclass(frozen=True)
class Moves:
    """Millimetres: shoulders up on the person's right and left, their width, and the waist's."""

    right: float
    left: float
    width: float
    waist: float

    @property
    def none(self) -> bool:
        """Whether nothing is moved."""
        return not (self.right or self.left or self.width or self.waist)


@dataclass(frozen=True)
class Figure:
    """Where a figure's shoulders are (x, y), right and left as the person has them, the root of the
    neck between them, and the waist's height with both its sides; None: no waist is seen.
    """

    right: tuple[float, float]
    left: tuple[float, float]
    neck: float
    waist: tuple[float, float, float] | None


def figure_of(body: _Line, face: _Line, px_per_mm: float) -> Figure:
    """The figure of an outline of the body below the chin (pixels).

    A shoulder is the place of the outline that lies furthest up and out at once.
    """
    line, oval = np.asarray(body, np.float64), np.asarray(face, np.float64)
    neck = float(oval[oval[:, 1].argmax(), 0])
    right = line[(-line[:, 0] - line[:, 1]).argmax()]
    left = line[(line[:, 0] - line[:, 1]).argmax()]
    return Figure(
        (float(right[0]), float(right[1])), (float(left[0]), float(left[1])), neck,
        _waist(line, float(max(right[1], left[1])), px_per_mm),
    )  # fmt: skip


def _waist(line: Points, shoulders: float, px_per_mm: float) -> tuple[float, float, float] | None:
    """The narrowest place below the shoulders, if the figure is wider again below it."""
    low, high = shoulders + _LOWEST_MM * px_per_mm, float(line[:, 1].max())
    heights = np.arange(low, high, 4 * px_per_mm)
    if len(heights) < 8:
        return None
    ends = np.roll(line, -1, axis=0)
    sides = []
    for y in heights:
        cross = (line[:, 1] <= y) != (ends[:, 1] <= y)
        a, b = line[cross], ends[cross]
        x = a[:, 0] + (b[:, 0] - a[:, 0]) * (y - a[:, 1]) / (b[:, 1] - a[:, 1])
        sides.append((x.min(), x.max()) if len(x) >= 2 else (np.nan, np.nan))
    widths = np.array([b - a for a, b in sides])
    if np.isnan(widths).all():
        return None
    n = int(np.nanargmin(widths))
    limit = widths[n] * (1 + _NARROWER)
    if not (np.nanmax(widths[: n + 1]) > limit and np.nanmax(widths[n:]) > limit):
        return None
    return float(heights[n]), float(sides[n][0]), float(sides[n][1])


def figure_field(
    body: _Line, face: _Line, px_per_mm: float, moves: Moves, below: Composed
) -> Field | None:
    """The field of a figure's moves on top of what was moved before; None: nothing moves.

    Parameters
    ----------
    body, face : closed lines of (x, y)
        Outlines in pixels of the original; the face stays where it is.
    """
    if moves.none:
        return None
    own, oval = (below.forth(np.asarray(line, np.float64)) for line in (body, face))
    found = figure_of(own.tolist(), oval.tolist(), px_per_mm)
    mm = px_per_mm
    low = own.min(0) - (_BESIDE_MM * mm, _ABOVE_MM * mm)
    high = own.max(0) + (_BESIDE_MM * mm, _BESIDE_MM * mm)
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    step = float(2.0 ** max(0, np.floor(np.log2(max(_NODE_MM * mm, 1.0)))))
    x, y, places = nodes_of(rect, step)
    px, py = places[..., 0], places[..., 1]
    # Above the chin nothing moves.
    free = smooth_step((py - (oval[:, 1].max() - 10 * mm)) / (25 * mm))
    shift = np.zeros_like(places)
    for (tip_x, tip_y), up in ((found.right, moves.right), (found.left, moves.left)):
        reach = tip_x - found.neck
        t = (px - found.neck) / (reach if abs(reach) > 1 else np.sign(reach) or 1.0)
        # From the neck out to the tip, and as far again beyond it, where the background gives way.
        along = smooth_step(t) * smooth_step(1 - (t - 1) * abs(reach) / (_BESIDE_MM * mm))
        # The shoulder's line falls from the neck to the tip; what lies on it goes in full.
        over = np.where(py < tip_y, (tip_y - py) / (_ABOVE_MM * mm + 0.5 * abs(reach)), (py - tip_y) / (_BELOW_MM * mm))  # fmt: skip
        weight = along * smooth_step(1 - over) * free
        shift[..., 1] -= up * mm * weight
        shift[..., 0] += np.sign(reach) * 0.5 * moves.width * mm * weight
    if moves.waist and found.waist is not None:
        at, one, other = found.waist
        middle, half = (one + other) / 2, max((other - one) / 2, 1.0)
        t = (px - middle) / half
        beyond = smooth_step(1 - (np.abs(t) - 1) * half / (_BESIDE_MM * mm))
        tall = np.exp(-(((py - at) / (_TALL_MM * mm)) ** 2))
        shift[..., 0] += np.clip(t, -1, 1) * 0.5 * moves.waist * mm * beyond * tall * free
    # Where the picture cuts the figure off, nothing comes from outside.
    shift[..., 0] *= _inside(own, px, 0, mm)
    shift[..., 1] *= _inside(own, py, 1, mm)
    return from_places(x, y, step, places - shift)


def _inside(line: Points, at: Points, axis: int, mm: float) -> Points:
    """1 within the figure's extent, 0 on those ends of it that the picture cuts off."""
    out = np.ones_like(at)
    ends = np.roll(line, -1, axis=0)
    for end, sign in ((float(line[:, axis].min()), 1.0), (float(line[:, axis].max()), -1.0)):
        along = (np.abs(line[:, axis] - end) < 2) & (np.abs(ends[:, axis] - end) < 2)
        if float(np.hypot(*(ends - line)[along].T).sum()) > _CUT_MM * mm:
            out = out * smooth_step(sign * (at - end) / (_BESIDE_MM * mm))
    return out

"""What was moved, as readings: how far, how much skin is stretched, what straight lines are bent."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.face.cover import FaceZones
from retouch.geometry import Rect
from retouch.natural.finding import PRACTICE, Finding
from retouch.natural.moves import everything_moved
from retouch.render import Renderer
from retouch.shape.composed import Composed
from retouch.shape.lines import bend, lines_beside
from retouch.warp.steps import Points
from retouch.zone_names import SKIN_OF_FACE

# The readings of moves.
MOVES = ("moved", "stretched", "bent")
# What moves further (per cent of the face's height, some 5 mm) makes another person; common practice.
_MOST_MOVED = 2.5
# Skin is looked at on a grid so fine (mm).
_GRID_MM = 2.0
# A line is bent over so many parts of its length at least to be seen; what moves less isn't asked about.
_LEAST_SHIFT_PX = 0.5


def of_moves(renderer: Renderer, edit: Edit, analysis: Analysis | None) -> Iterator[Finding]:
    """Readings of all passes of Shape; none where nothing is moved."""
    shape = renderer.plan(edit).shape
    if not shape.fields:
        return
    zones = FaceZones(analysis, edit, renderer.pyramid) if analysis is not None else None
    for one in everything_moved(renderer, edit, zones):
        size = f"{one.most_mm:.1f} mm" if one.most_mm is not None else f"{one.most_px:.0f} px"
        numbers = f"; {', '.join(one.what)}" if one.what else ""
        yield Finding(
            "moved", "Moved", "The largest shift, per cent of the face's height; what moves further changes who it is. " + PRACTICE,
            "", one.of_head or 0.0, _MOST_MOVED, "%", "told" if one.of_head is None or one.where in ("hair", "clothing") else "most",
            words=f"{one.name}, {one.where}: {size}{numbers}",
        )  # fmt: skip
    for n in range(len(analysis.faces) if analysis is not None else 0):
        assert analysis is not None
        found = _stretched(shape, analysis, n)
        if found is not None:
            value, place = found
            yield Finding(
                "stretched", "Skin stretched", "How much longer or shorter pores and hairs of the face became; up to a quarter their grain is as before. " + PRACTICE,
                "", value, 25.0, "%", face=n, place=place,
            )  # fmt: skip
    bent = _bent(renderer, shape, zones)
    if bent is not None:
        value, place = bent
        yield Finding(
            "bent", "Lines bent", "How far a straight line behind the person is off its way, per cent of its length. " + PRACTICE,
            "", value, 0.5, "%", place=place,
        )  # fmt: skip


def _stretched(shape: Composed, analysis: Analysis, face: int) -> tuple[float, Rect] | None:
    """The 99th percentile of a face's skin by which lengths changed, per cent, and where it is most."""
    one = analysis.faces[face]
    x, y, w, h = one.box
    step = _GRID_MM * one.scale.px_per_mm
    gx, gy = np.meshgrid(np.arange(x, x + w, step), np.arange(y, y + h, step))
    at: Points = np.stack([gx.ravel(), gy.ravel()], axis=1)
    on = np.array([analysis.zone_at(float(px), float(py)) for px, py in at], object)
    at = at[[f == face and z in SKIN_OF_FACE for f, z in on]]
    if len(at) < 30:
        return None
    d = 0.5
    dx = (shape.forth(at + [d, 0]) - shape.forth(at - [d, 0])) / (2 * d)
    dy = (shape.forth(at + [0, d]) - shape.forth(at - [0, d])) / (2 * d)
    lengths = np.linalg.svd(np.stack([dx, dy], axis=2), compute_uv=False)
    change = 100 * np.maximum(lengths[:, 0] - 1, 1 - lengths[:, 1])
    value = float(np.quantile(change, 0.99))
    if value < 1:
        return None
    px, py = at[int(change.argmax())]
    reach = 6 * step
    return value, Rect(int(px - reach), int(py - reach), int(px + reach), int(py + reach))


def _bent(
    renderer: Renderer, shape: Composed, zones: FaceZones | None
) -> tuple[float, Rect] | None:
    """How far the most bent straight line is off, per cent of its length, and where it lies; None: none moves."""
    worst: tuple[float, Rect] | None = None
    for line in lines_beside(renderer.pyramid, zones):
        off = bend(shape, line)
        x0, y0, x1, y1 = line
        value = 100 * off / max(float(np.hypot(x1 - x0, y1 - y0)), 1.0)
        if off >= _LEAST_SHIFT_PX and (worst is None or value > worst[0]):
            place = Rect(
                int(min(x0, x1)), int(min(y0, y1)), int(max(x0, x1)) + 1, int(max(y0, y1)) + 1
            )
            worst = value, place.clip(renderer.bounds)
    return worst

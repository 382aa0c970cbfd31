"""Marks with what was decided about them, and those that a routine clears."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit, Touch
from retouch.face import Analysis, Mark
from retouch.passes import registry
from retouch.passes.marks import MARKS

# What isn't at least so sure is left to the user, unless they say otherwise: of such offers nine in
# ten and more are blemishes (docs/benchmarks.md). Marks are kept from so sure on, and healed with
# brushes so much larger.
SURE = 0.6
_KEPT, _BRUSH = 0.5, 1.25


@dataclass(frozen=True)
class Decided:
    """A mark with its decision and the touch that holds it, if the user has decided."""

    id: str
    face: int
    zone: str
    mark: Mark
    decision: str
    touch_id: str | None
    cleared: bool


def decided(analysis: Analysis, edit: Edit) -> list[Decided]:
    """All marks, those that the user decided about with that decision, the others as proposed."""
    decisions = edit.touches_of(MARKS.name)
    out = []
    for n, marks in enumerate(analysis.marks):
        cleared = cleared_of(marks, edit)
        for k, mark in enumerate(marks):
            own = _near(decisions, mark)
            zone = analysis.zone_at(mark.x, mark.y)[1]
            out.append(
                Decided(
                    f"{n}-{k}", n, zone, mark,
                    str(own.values["decision"]) if own else mark.proposal,
                    own.id if own else None,
                    bool(cleared[k]),
                )
            )  # fmt: skip
    return out


def _near(touches: list[Touch], mark: Mark) -> Touch | None:
    """The latest decision about a mark: one whose middle lies in it."""
    for touch in reversed(touches):
        x, y = touch.path[0]
        if math.hypot(x - mark.x, y - mark.y) <= max(mark.radius, 2.0):
            return touch
    return None


def cleared_of(marks: Sequence[Mark], edit: Edit) -> NDArray[np.bool_]:
    """Which marks have their middle under a touch that clears (`Touches.clears`)."""
    dabs = [
        (*point, kind.place(t).radius)
        for p in edit.passes
        if p.on and (kind := registry.kind(p.kind).touches) is not None and kind.clears
        for t in p.touches
        for point in t.path
    ]
    if not dabs or not marks:
        return np.zeros(len(marks), np.bool_)
    x, y, r = np.asarray(dabs, np.float32).T
    at = np.asarray([(m.x, m.y) for m in marks], np.float32)
    away = (at[:, 0, None] - x) ** 2 + (at[:, 1, None] - y) ** 2
    return np.asarray((away < r * r).any(1))


def to_clear(
    analysis: Analysis, edit: Edit, face: int | None = None, least: float = SURE
) -> list[tuple[float, float, float]]:
    """Marks that are to go and aren't healed yet: x, y and the radius of a brush over their halo.

    Pixels of the original; of one ``face`` only, if it is named. Those that the user decided to
    clear, and those proposed that are at least so sure (``least``, 0..1).
    """
    return [
        (d.mark.x, d.mark.y, _BRUSH * d.mark.reach)
        for d in decided(analysis, edit)
        if d.decision == "clear"
        and (face is None or d.face == face)
        and not d.cleared
        and (d.touch_id is not None or d.mark.confidence >= least)
    ]


def to_keep(analysis: Analysis, edit: Edit) -> list[tuple[float, float, float]]:
    """What is to stay: x, y and radius with halo in pixels of the original.

    Marks that the user keeps, those proposed to be kept that are surely marks, and places that are kept
    where no mark was found.
    """
    marks = [
        (d.mark.x, d.mark.y, d.mark.reach)
        for d in decided(analysis, edit)
        if d.decision == "keep" and (d.touch_id is not None or d.mark.confidence >= _KEPT)
    ]
    found = [m for all_of in analysis.marks for m in all_of]
    places = [
        (*t.path[0], float(t.values["radius_px"]))
        for t in edit.touches_of(MARKS.name)
        if t.values["decision"] == "keep" and not any(_near([t], m) for m in found)
    ]
    return [*marks, *places]

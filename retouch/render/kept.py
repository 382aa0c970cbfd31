"""Whole results that are kept, and what of them a view that moves goes on with."""

from __future__ import annotations

from typing import TYPE_CHECKING

from retouch.geometry import Rect
from retouch.render.stock import Patch

if TYPE_CHECKING:
    from retouch.render.plan import Plan

# The rest of a rectangle, of which another one holds a part, is made by itself where that is this part of the work.
_WORTH_JOINING = 0.7


def kept_around(plan: Plan, rect: Rect, level: int) -> Rect | None:
    """The rectangle of a whole result that is kept and holds this one; None where there is none."""
    for known, at in list(plan.stock.wholes):
        inside = at == level and rect.clip(known) == rect
        if inside and _found(plan, known, level) is not None:
            return known
    return None


def kept_beside(plan: Plan, rect: Rect, level: int) -> Patch | None:
    """The whole result that is kept and leaves least of a rectangle to be made, where that is less work."""
    best, least = None, _WORTH_JOINING * _work(plan, rect, level)
    for known, at in list(plan.stock.wholes):
        both = rect.clip(known)
        if at != level or both.empty:
            continue
        work = sum(_work(plan, r, level) for r in rect.without(both))
        if work < least:
            found = _found(plan, known, level)
            if found is not None:
                best, least = found, work
    return best


def _found(plan: Plan, rect: Rect, level: int) -> Patch | None:
    return plan.stock.belows.peek(plan.below_key(len(plan.chain), rect, level))


def _work(plan: Plan, rect: Rect, level: int) -> float:
    """Pixels that are worked on to make a rectangle: half of its margins count, which get less with each pass."""
    ground = plan.chain.rects(rect, level, len(plan.chain))[0]
    return (ground.width * ground.height + rect.width * rect.height) / 2

"""What a pass's card tells in numbers, read off the picture below it and with it."""

from __future__ import annotations

import numpy as np

from retouch.colour.lab import to_lab
from retouch.edit.model import Edit, Pass
from retouch.passes import registry
from retouch.passes.readings import Reading
from retouch.render import Renderer
from retouch.render.shaping import lines_of, shaping
from retouch.shape.composed import Composed
from retouch.shape.evenness import PAIRS, unevenness
from retouch.shape.lines import Line, bend
from retouch.shape.measures import MEASURES
from retouch.shape.mesh import Mesh

# Pixels on the longer side of what is looked at: as many as matter for a median.
_SIDE = 700
_SURE = 0.6
# Lines that bend further than this (pixels) are seen.
MOST_BENT = 0.7
# Fewer pixels say nothing.
_LEAST = 20


def pass_readings(renderer: Renderer, edit: Edit, pass_id: str) -> tuple[Reading, ...]:
    """The readings of a pass; none where its kind has none, it is off, or it acts nowhere."""
    plan = renderer.plan(edit)
    moves = next((p for p in shaping(edit) if p.id == pass_id), None)
    if moves is not None:
        return _moved(plan.shape, moves, lines_of(edit))
    place = next((i for i, p in enumerate(plan.passes) if p.id == pass_id), None)
    if place is None:
        return ()
    one = plan.passes[place]
    reads = registry.kind(one.kind).reads
    area = plan.chain.extent(place).clip(renderer.bounds)
    if reads is None or area.empty:
        return ()
    level = 0
    while max(area.width, area.height) >> level > _SIDE and level < renderer.pyramid.highest:
        level += 1
    rect = area.align(1 << level).clip(renderer.bounds).reduced(level)
    cover = renderer.masks.draw(one.mask, rect, level, plan.zones)
    before, after = (plan.view(rect, level, upto=i) for i in (place, place + 1))
    if cover is not None:
        there = cover[..., 0] > _SURE
        before, after = before[there], after[there]
    before, after = before.reshape(-1, 3), after.reshape(-1, 3)
    if len(before) < _LEAST:
        return ()
    labs = [to_lab(a[None])[0] for a in (before, after)]
    return reads(labs[0], labs[1], plan.chain.values[place])


def _moved(shape: Composed, one: Pass, lines: list[Line]) -> tuple[Reading, ...]:
    """The largest shift of a pass, in mm where a face gave the scale, else in pixels; how far guarded
    lines are bent by all moves together.
    """
    names = {one.id, *(t.id for t in one.touches)}
    most = max((m.most for m in shape.made if m.name in names), default=0.0)
    scale = one.fit.values.get("px_per_mm") if one.fit.points else None
    unit, size = ("mm", most / scale) if scale else ("px", most)
    out = [Reading("moved", "Moved", "The largest shift of this pass.", unit, 0.0, size)]
    if lines:
        bent = max(bend(shape, line) for line in lines)
        told = "How far the straight lines leave the straight way by all moves together; less than a pixel isn't seen (common practice)."
        out.append(Reading("bent", "Lines bent", told, "px", 0.0, bent, MOST_BENT))
    return tuple(out) + _measured(shape, one) + _uneven(shape, one)


def _measured(shape: Composed, one: Pass) -> tuple[Reading, ...]:
    """Measures of the face that a pass may change, before and with all moves, with the end of their
    usual range that they go towards.
    """
    if not one.fit.points:
        return ()
    points, scale = np.asarray(one.fit.points, np.float64), one.fit.values["px_per_mm"]
    before, after = (Mesh(p, scale) for p in (points, shape.forth(points)))
    out = []
    for m in MEASURES:
        was, now = m.of(before), m.of(after)
        told = (
            f"As the picture shows it. Usual for adults: {m.low:g} to {m.high:g} mm (Farkas, "
            "Anthropometry of the Head and Face, 1994; from memory)."
        )
        grows = now > was
        limit = m.high if grows else m.low
        out.append(
            Reading(
                f"measure_{m.by[0]}", m.title, told, "mm", was, now, limit, not grows, m.by,
                (m.low, m.high),
            )
        )  # fmt: skip
    return tuple(out)


def _uneven(shape: Composed, one: Pass) -> tuple[Reading, ...]:
    """How far both sides of the features that a pass evens differ, before and with all moves."""
    if not one.fit.points:
        return ()
    points, scale = np.asarray(one.fit.points, np.float64), one.fit.values["px_per_mm"]
    before, after = (Mesh(p, scale) for p in (points, shape.forth(points)))
    told = "How far the right and the left side differ, the mean over their points."
    return tuple(
        Reading(
            f"even_{name}", f"{name.capitalize()} differ", told, "mm",
            unevenness(before, name), unevenness(after, name),
        )
        for name in PAIRS
        if one.settings.get(f"even_{name}")
    )  # fmt: skip


def stopped(shape: Composed, one: Pass) -> str | None:
    """A sentence about moves of a pass that were stopped before they fold; None where none was."""
    names = {one.id, *(t.id for t in one.touches)}
    least = min((m.share for m in shape.made if m.name in names), default=1.0)
    if least > 0.995:
        return None
    return f"Stopped at {100 * least:.0f} %: more would fold the picture."

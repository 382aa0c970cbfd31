"""What a pass's card tells in numbers, read off the picture below it and with it."""

from __future__ import annotations

from retouch.colour.lab import to_lab
from retouch.edit.model import Edit
from retouch.passes import registry
from retouch.passes.readings import Reading
from retouch.render import Renderer

# Pixels on the longer side of what is looked at: as many as matter for a median.
_SIDE = 700
_SURE = 0.6
# Fewer pixels say nothing.
_LEAST = 20


def pass_readings(renderer: Renderer, edit: Edit, pass_id: str) -> tuple[Reading, ...]:
    """The readings of a pass; none where its kind has none, it is off, or it acts nowhere."""
    plan = renderer.plan(edit)
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

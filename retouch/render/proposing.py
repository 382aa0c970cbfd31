"""Sources for touches that are about to be made."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit, Touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.ways import Avoid
from retouch.render.renderer import Renderer

Array = NDArray[np.float32]


def propose_source(
    renderer: Renderer,
    edit: Edit,
    pass_id: str,
    touch: Touch,
    most: int = 6,
    avoid: Avoid | None = None,
) -> list[tuple[int, int]]:
    """Sources for a touch that is about to be added on top of a pass's touches, best first.

    A touch with the same id that is there already is looked past, with all after it. Where
    ``avoid`` leaves no source at all, it is passed over: a poor source is better than none.
    """
    plan = renderer.plan(edit)
    # A pass that is switched off still takes touches; they see what lies below it.
    order = [p.id for p in edit.passes]
    active = [p.id for p in plan.passes]
    one = edit.passes[order.index(pass_id)]
    kind = registry.kind(one.kind).touches
    if kind is None or kind.propose is None:
        return []
    values = registry.kind(one.kind).values(one)
    below = sum(p in active for p in order[: order.index(pass_id)])
    names = [t.id for t in one.touches if t.enabled]
    upto = names.index(touch.id) if touch.id in names else len(names)

    def read(rect: Rect) -> Array:
        if pass_id in active:
            return plan.touching.look(below, upto, rect)
        return plan.view(rect, 0, upto=below)

    found = kind.propose(read, touch, values, renderer.bounds, most, avoid)
    if not found and avoid is not None:
        found = kind.propose(read, touch, values, renderer.bounds, most, None)
    return found

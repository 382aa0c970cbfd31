"""What passes see far around a place: pictures of what is below them, on a coarser level and kept; and what they
work out of the whole of it.

Pictures of one level begin with each other: that of a higher pass with that of a lower one which holds enough.
"""

from __future__ import annotations

import json
import weakref
from collections import deque
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from retouch.edit.mask import Mask
from retouch.geometry import EMPTY, Rect
from retouch.passes.ways import Pixels
from retouch.render.chain import key_of
from retouch.render.stock import BelowKey, LearntKey, Patch
from retouch.skin.smooth import Cells

if TYPE_CHECKING:
    from retouch.render.plan import Plan

Array = NDArray[np.float32]

# What is expected is made at once up to so many pixels: a sixteenth of them and fewer, since it is coarser.
_MOST_EXPECTED = 30_000_000
# So many pictures of a plan are begun with.
_LATELY = 8


class Apart:
    """What the passes of a plan see around them; safe to use from several threads."""

    def __init__(self, plan: Plan) -> None:
        # Not kept by it: both would stay, with their picture, until a collection of cycles.
        self._known = weakref.ref(plan)
        # What was made lately: the pass and the picture below it, the last first.
        self._lately: deque[tuple[int, BelowKey]] = deque(maxlen=_LATELY)
        self._expected = EMPTY

    def expect(self, rect: Rect) -> None:
        """Say that all of a rectangle (pixels of the original) will be asked for, part by part."""
        if rect.width * rect.height <= _MOST_EXPECTED:
            self._expected = rect

    @property
    def _plan(self) -> Plan:
        plan = self._known()
        assert plan is not None
        return plan

    def around(self, i: int, rect: Rect, level: int) -> Cells | None:
        """What pass ``i`` is given beside its margins, to make ``rect`` of a level; None where it needs no more."""
        plan = self._plan
        if level == 0:
            rect = rect.union(self._expected.clip(plan.chain.extent(i)))
        apart = plan.chain.around(i, rect, level)
        if apart is None:
            return None
        seen, at = apart
        key = plan.below_key(i, seen, at)
        image = plan.stock.belows.get(key, lambda: Patch(seen, self._made(i, seen, at))).change
        self._lately.appendleft((i, key))
        way = plan.chain.kinds[i].way
        if plan.stock.wide and isinstance(way, Pixels) and not way.open_ended:
            image = np.clip(image, 0, 1)
        return Cells(image, seen, 1 << (at - level))

    def whole(self, i: int) -> Any:
        """What pass ``i`` works out of the whole picture below it (`Whole`); None: nothing."""
        plan = self._plan
        kind, values = plan.chain.kinds[i], plan.chain.values[i]
        whole = kind.whole
        if whole is None:
            return None
        level = min(whole.level(values, plan.bounds), plan.stock.pyramid.highest)
        rect = plan.bounds.reduced(level)
        mask = plan.passes[i].mask
        key = LearntKey(
            plan.below_key(i, rect, level),
            kind.name,
            json.dumps(sorted(values.items())),
            mask.key,
            key_of(plan.zones if mask.zones else None),
        )

        def make() -> Any:
            image = plan.view(rect, level, upto=i)
            if plan.stock.wide:
                image = np.clip(image, 0, 1)
            place = plan.place(i, rect, level, rect)
            return whole.make(image, values, replace(place, hand=self._by_hand(mask, rect, level)))

        return plan.stock.learnt.get(key, make)

    def _by_hand(self, mask: Mask, rect: Rect, level: int) -> Array | None:
        """What was painted on a mask (`Place.hand`), whatever lies below it."""
        if not mask.strokes:
            return None
        # Strokes laid on nothing, and on everything: both are the same where they cover all.
        nothing, everything = (
            self._plan.stock.masks.draw(Mask(invert=i, strokes=mask.strokes), rect, level)
            for i in (True, False)
        )
        if nothing is None or everything is None:
            return None
        return np.ascontiguousarray((nothing + everything - 1)[..., 0])

    def _made(self, i: int, rect: Rect, level: int) -> Array:
        plan = self._plan
        rects = plan.chain.rects(rect, level, i)
        for j, known in list(self._lately):
            if j < i and known.level == level and rects[j].clip(known.rect) == rects[j]:
                found = plan.stock.belows.peek(known)
                if found is not None:
                    image = plan.go_on(found.within(rects[j]).copy(), j, i, rects, level)
                    return np.ascontiguousarray(image)
        return np.ascontiguousarray(plan.view(rect, level, upto=i))

"""What is shown while a slider moves: the changing pass exact, those above it as they stand.

Passes above the changing one would look far around themselves at every move. They add what they add
in the standing edit instead, which is known. What is saved, shown at rest or exported is never
made so.
"""

from __future__ import annotations

import weakref
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.render.stock import AboveKey, Patch

if TYPE_CHECKING:
    from retouch.render.plan import Plan

Array = NDArray[np.float32]


@dataclass(frozen=True)
class Preview:
    """A plan that differs from a standing one in pass ``n - 1`` alone."""

    # Not kept by it: both would stay, with their picture, until a collection of cycles.
    known: weakref.ref[Plan]
    standing: Plan
    n: int

    @property
    def plan(self) -> Plan:
        found = self.known()
        assert found is not None
        return found

    @classmethod
    def of(cls, plan: Plan, standing: Plan, upto: int) -> Preview | None:
        """The preview, if just pass ``upto`` differs and some above it look around themselves."""
        n = upto + 1
        mine, theirs = plan.chain, standing.chain
        alike = (
            n < len(mine) == len(theirs)
            and mine.passes[upto].id == theirs.passes[upto].id
            and mine.rests.signatures[n:] == theirs.rests.signatures[n:]
        )
        return cls(weakref.ref(plan), standing, n) if alike and mine.look_around(n) else None

    def view(self, rect: Rect, level: int, cancelled: Callable[[], bool]) -> Array:
        """The changing pass computed, and on it what the standing ones above it add."""
        kept = self.standing.stock.belows
        whole = self.standing.below_key(len(self.standing.chain), rect, level)

        def standing(upto: int | None) -> Array:
            return self.standing.rendered(rect, level, cancelled, upto)

        def add() -> Patch:
            after = kept.get(whole, lambda: Patch(rect, standing(None))).change
            return Patch(rect, after - standing(self.n))

        above = kept.get(AboveKey(whole, self.n), add).change
        return self._laid(self.plan.rendered(rect, level, cancelled, self.n), above)

    def part(self, rect: Rect, level: int, whole: Rect) -> Array:
        """The same of a part of a rectangle whose standing result is kept."""
        known = self.standing.below_key(len(self.standing.chain), whole, level)

        def make() -> Patch:
            return Patch(whole, self.standing.rendered(whole, level, _never, None))

        after = self.standing.stock.belows.get(known, make).within(rect)
        own, below = (p.rendered(rect, level, _never, self.n) for p in (self.plan, self.standing))
        return self._laid(own, after - below)

    def _laid(self, own: Array, above: Array) -> Array:
        shown = own + above
        return shown if self.plan.stock.wide else np.clip(shown, 0, 1)


def _never() -> bool:
    return False

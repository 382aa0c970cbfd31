"""The incremental renderer.

A touch is always computed at full size, from what lies below it there, and kept as the change it
adds. A reduced view adds the reduced change to the reduced picture: so every level agrees with
the full-size result, and a pass's strength only scales what is known already. What is kept is
filed under a key made of all that went in, so nothing stale can be shown and a change re-renders
only what depends on it.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Collection

import numpy as np
from numpy.typing import NDArray

from retouch.edit.model import Edit
from retouch.geometry import Rect
from retouch.masks import Zones
from retouch.memory import Memory
from retouch.passes.elsewhere import Others, nowhere
from retouch.picture import Pyramid
from retouch.render.chain import acting, key_of
from retouch.render.plan import Plan
from retouch.render.rests import agreeing
from retouch.render.stock import Shelf, Stock

Array = NDArray[np.float32]

# Plans kept per picture: the present edit, the one before, and drafts on their way.
_PLANS = 6


class Renderer(Stock):
    """Renders edits of one picture; safe to use from several threads.

    Parameters
    ----------
    pyramid, memory, shelf, others
        As for `Stock`.
    zones : callable, optional
        Gives the zones of the faces as an edit has them, for masks that name some; asked for only
        then. None from it: not known yet.
    """

    def __init__(
        self,
        pyramid: Pyramid,
        memory: Memory | None = None,
        shelf: Shelf | None = None,
        zones: Callable[[Edit], Zones | None] = lambda edit: None,
        others: Others = nowhere,
    ) -> None:
        super().__init__(pyramid, memory, shelf, others)
        # Plans know the stock and not who keeps them: when a picture is closed, its pixels go at once.
        self._stock = self.shared()
        self.zones = zones
        # The last used comes last.
        self._plans: list[Plan] = []
        self._lock = threading.Lock()

    def plan(self, edit: Edit, standing: Edit | None = None) -> Plan:
        """Prepare an edit for rendering; a plan can be used many times.

        Edits of the same content get the same plan, and a changed one takes over what is known of
        that which begins like it for longest.

        With a ``standing`` edit, touches that are in both keep what they change there, though
        something below them may differ: for previews while a slider moves, which would otherwise
        wait for hundreds of heals. What is saved or exported is never made so.
        """
        zones = self.zones(edit) if any(p.mask.zones for p in edit.passes) else None
        with self._lock:
            known = self._known(edit, zones)
            before = None if known is not None else self._alike(edit)
        if known is not None:
            return known
        if standing is not None:
            return self.preview(edit, standing)
        plan = Plan(self._stock, edit, before, zones)
        with self._lock:
            # Another thread may have been quicker.
            known = self._known(edit, zones)
            if known is not None:
                return known
            self._plans = [*self._plans[1 - _PLANS :], plan]
            return plan

    def preview(self, edit: Edit, standing: Edit) -> Plan:
        """A plan with a standing edit (see `plan`), though the edit's own may be known."""
        zones = self.zones(edit) if any(p.mask.zones for p in edit.passes) else None
        return Plan(self._stock, edit, zones=zones, standing=self.plan(standing))

    def _known(self, edit: Edit, zones: Zones | None) -> Plan | None:
        """The plan of an edit of this content, which is then the last used; under the lock."""
        for plan in reversed(self._plans):
            if plan.edit == edit and key_of(plan.zones) == key_of(zones):
                self._plans.remove(plan)
                self._plans.append(plan)
                return plan
        return None

    def _alike(self, edit: Edit) -> Plan | None:
        """The plan whose edit begins like this one for longest, of several the last used."""
        on = acting(edit)
        # `max` keeps the first of equals.
        plans = reversed(self._plans)
        return max(plans, key=lambda p: agreeing(p.chain.passes, on), default=None)

    def render(self, edit: Edit, region: Rect, level: int = 0) -> Array:
        """The edited pixels of a region.

        Parameters
        ----------
        region : Rect
            In pixels of the original, inside the picture.
        level : int
            0 for full size, each further level halves.

        Returns
        -------
        ndarray (h, w, 3) float32
            Encoded 0..1 of ``region.reduced(level)``.
        """
        return self.plan(edit).view(region.clip(self.bounds).reduced(level), level)

    def make_touches(self, edit: Edit, region: Rect, passes: Collection[str]) -> None:
        """Compute the touches of some passes (their ids) in a region, and no more than they lie on.

        What takes long of an edit is done so before anything else is; its pixels find it made.
        """
        plan = self.plan(edit)
        last = max((i for i, p in enumerate(plan.passes) if p.id in passes), default=None)
        if last is not None:
            plan.view(region.clip(self.bounds), 0, upto=last + 1)

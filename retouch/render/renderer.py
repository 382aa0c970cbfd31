"""The incremental renderer.

A touch is always computed at full size, from what lies below it there, and kept as the change it
adds. A reduced view adds the reduced change to the reduced picture: so every level agrees with
the full-size result, and a pass's strength only scales what is known already. What is kept is
filed under a key made of all that went in, so nothing stale can be shown and a change re-renders
only what depends on it.
"""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from retouch.cache import ByteCache
from retouch.edit.model import Edit
from retouch.geometry import Rect
from retouch.masks import Zones
from retouch.picture import Pyramid
from retouch.render.plan import Plan, key_of
from retouch.render.stock import Patch, Shelf, Stock

Array = NDArray[np.float32]

# Plans kept per picture: the present edit, the one before, and drafts on their way.
_PLANS = 6


class Renderer(Stock):
    """Renders edits of one picture; safe to use from several threads.

    Parameters
    ----------
    pyramid : Pyramid
        The original.
    cache : ByteCache, optional
        Shared between renderers if wanted; keys contain the picture's fingerprint.
    shelf : Shelf, optional
        Where changes of slow kinds are kept.
    zones : callable, optional
        Gives the zones of the faces as an edit has them, for masks that name some; asked for only
        then. None from it: not known yet.
    """

    def __init__(
        self,
        pyramid: Pyramid,
        cache: ByteCache[Patch] | None = None,
        shelf: Shelf | None = None,
        zones: Callable[[Edit], Zones | None] = lambda edit: None,
    ) -> None:
        super().__init__(pyramid, cache, shelf, zones)
        self._plans: deque[Plan] = deque(maxlen=_PLANS)
        self._lock = threading.Lock()

    def plan(self, edit: Edit, standing: Edit | None = None) -> Plan:
        """Prepare an edit for rendering; a plan can be used many times.

        The same edit gets the same plan, and a changed one takes over what is known already.

        With a ``standing`` edit, touches that are in both keep what they change there, though
        something below them may differ: for previews while a slider moves, which would otherwise
        wait for hundreds of heals. What is saved or exported is never made so.
        """
        zones = self.zones(edit) if any(p.mask.zones for p in edit.passes if p.on) else None
        with self._lock:
            for known in self._plans:
                if known.edit is edit and key_of(known.zones) == key_of(zones):
                    return known
            before = self._plans[-1] if self._plans else None
        if standing is not None:
            plan = Plan(self, edit, self.plan(standing), zones, lenient=True)
            return plan
        with self._lock:
            plan = Plan(self, edit, before, zones)
            self._plans.append(plan)
            return plan

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

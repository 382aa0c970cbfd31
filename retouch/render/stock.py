"""What all edits of one picture share: the original, and what is kept of what was computed."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.masks import Masks
from retouch.memory import USUAL_BUDGET, Memory, Part, Sized
from retouch.passes.elsewhere import Others, nowhere
from retouch.picture import Pyramid

Array = NDArray[np.float32]

# The most of the memory that pictures below changing passes, and what passes add, may take; what was looked at
# for sources; and what passes work out of whole pictures.
_BELOWS_SHARE, _LOOKED_SHARE, _LEARNT_SHARE = 0.4, 0.05, 0.1
# So many whole results are looked at for one that holds what is asked for.
_WHOLES = 4


@dataclass(frozen=True)
class Patch:
    """Pixels over ``rect`` of some level: a touch's change, or a picture that is kept."""

    rect: Rect
    change: Array

    @property
    def nbytes(self) -> int:
        return self.change.nbytes + 64

    def within(self, rect: Rect) -> Array:
        """The part over a rectangle that lies inside of this one's own."""
        return self.change[rect.within(self.rect)]


@dataclass(frozen=True)
class TouchKey:
    """A touch's change: the fingerprint of all that went in, and the level."""

    fingerprint: str
    level: int


@dataclass(frozen=True)
class BelowKey:
    """The picture below a pass over a rectangle of a level; its fingerprint is `Chain.below_key`."""

    fingerprint: str
    rect: Rect
    level: int


@dataclass(frozen=True)
class AboveKey:
    """What the passes from number ``start`` on add to what is below them."""

    whole: BelowKey
    start: int


@dataclass(frozen=True)
class AloneKey:
    """What a pass makes of the picture below it, without its mask and strength, over ``rect``."""

    below: BelowKey
    kind: str
    values: str
    rect: Rect


@dataclass(frozen=True)
class LearntKey:
    """What a pass works out of the whole picture below it: that, its kind and values, its mask and the zones."""

    below: BelowKey
    kind: str
    values: str
    mask: str
    zones: str


Kept = BelowKey | AboveKey | AloneKey


@dataclass(frozen=True)
class LookedAt:
    """Pixels (h, w, 3) of ``rect`` at full size, and the fingerprint of all that made them."""

    key: str
    rect: Rect
    pixels: Array

    @property
    def nbytes(self) -> int:
        return self.pixels.nbytes


class Shelf(Protocol):
    """Keeps changes that took long beyond the life of the renderer."""

    def get(self, key: str) -> Array | None: ...

    def put(self, key: str, change: Array) -> None: ...


class Stock:
    """A picture and what is kept of it.

    Parameters
    ----------
    pyramid : Pyramid
        The original.
    memory : Memory, optional
        One of its own if none is given; keys contain the picture's fingerprint.
    shelf : Shelf, optional
        Where changes of slow kinds are kept.
    others : callable, optional
        Other originals by their content, for touches that take from them.
    """

    def __init__(
        self,
        pyramid: Pyramid,
        memory: Memory | None = None,
        shelf: Shelf | None = None,
        others: Others = nowhere,
    ) -> None:
        self.pyramid = pyramid
        self.bounds = pyramid.picture.bounds
        self.digest = pyramid.picture.digest
        # Whether values may lie beyond 0..1 (`retouch.colour.space`).
        self.wide = pyramid.picture.space.wide
        self.shelf = shelf
        self._others = others
        memory = memory if memory is not None else Memory(USUAL_BUDGET)
        self.masks = Masks(pyramid, memory)
        self.changes: Part[Patch] = memory.part("changes")
        # Pictures below a pass that is being changed, for a few views.
        self.belows: Part[Patch] = memory.part("belows", _BELOWS_SHARE)
        # The rectangles, and levels, of whole results among them, the last first.
        self.wholes: deque[tuple[Rect, int]] = deque(maxlen=_WHOLES)
        # What passes work out of the whole picture below them.
        self.learnt: Part[Sized] = memory.part("learnt", _LEARNT_SHARE)
        self._looked: Part[LookedAt] = memory.part("looked at", _LOOKED_SHARE)

    def shared(self) -> Stock:
        """The same things under another name: what holds that holds nothing else of this."""
        other = Stock.__new__(Stock)
        other.__dict__.update(self.__dict__)
        return other

    def others(self, picture: str) -> Pyramid:
        """An original that a touch takes from; "" is this one. `EditError` where it isn't here."""
        return self._others(picture) if picture else self.pyramid

    @property
    def looked_at(self) -> LookedAt | None:
        """Where a source was looked for last."""
        return self._looked.peek(self.digest)

    @looked_at.setter
    def looked_at(self, looked: LookedAt) -> None:
        self._looked.put(self.digest, looked)

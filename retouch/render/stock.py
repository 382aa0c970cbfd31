"""What all edits of one picture share: the original, and what is kept of what was computed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from retouch.cache import ByteCache
from retouch.edit.model import Edit
from retouch.geometry import Rect
from retouch.masks import Masks, Zones
from retouch.picture import Pyramid

Array = NDArray[np.float32]

DEFAULT_BUDGET = 512 * 1024 * 1024
_BELOWS_BUDGET = 96 * 1024 * 1024


@dataclass(frozen=True)
class Patch:
    """A touch's change over ``rect``, in pixels of its level."""

    rect: Rect
    change: Array

    @property
    def nbytes(self) -> int:
        return self.change.nbytes + 64


@dataclass(frozen=True)
class LookedAt:
    """Pixels (h, w, 3) of ``rect`` at full size, and the fingerprint of all that made them."""

    key: str
    rect: Rect
    pixels: Array


class Shelf(Protocol):
    """Keeps changes that took long beyond the life of the renderer."""

    def get(self, key: str) -> Array | None: ...

    def put(self, key: str, change: Array) -> None: ...


class Stock:
    """A picture with its caches; see `renderer.Renderer` for the parameters."""

    def __init__(
        self,
        pyramid: Pyramid,
        cache: ByteCache[Patch] | None = None,
        shelf: Shelf | None = None,
        zones: Callable[[Edit], Zones | None] = lambda edit: None,
    ) -> None:
        self.pyramid = pyramid
        self.zones = zones
        self.masks = Masks(pyramid)
        # Pictures below a pass that is being changed, for a few views.
        self.belows: ByteCache[Patch] = ByteCache(_BELOWS_BUDGET)
        # Where a source was looked for last.
        self.looked_at: LookedAt | None = None
        self.shelf = shelf
        self.cache: ByteCache[Patch] = cache if cache is not None else ByteCache(DEFAULT_BUDGET)
        self.bounds = pyramid.picture.bounds

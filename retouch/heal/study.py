"""What is known about a touch's surroundings before its source: made once, used by all steps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.heal import texture, tone
from retouch.heal.footprint import Footprint

Array = NDArray[np.float32]


@dataclass(frozen=True)
class Study:
    """The ring around a touch, judged.

    ``area`` are the pixels of ``ring`` (h, w, 3); ``field`` the smooth tone; ``kept`` the
    structures to leave alone; ``wanted`` the band energies at each node (bands, nodes).
    """

    ring: Rect
    area: Array
    around: tone.Surround
    field: tone.Field
    kept: NDArray[np.bool_]
    wanted: Array

    @property
    def nbytes(self) -> int:
        """Bytes in memory: all but the pixels are small beside them, or as many again."""
        return 3 * self.area.nbytes


def study(area: Array, ring: Rect, footprint: Footprint, spare: tone.Outlines = ()) -> Study:
    """Judge the pixels ``area`` (h, w, 3), float32 0..1, of the rectangle `tone.ring_rect`.

    Parts of the ring inside the outlines ``spare`` don't count, see `tone.look_around`.
    """
    around = tone.look_around(area, ring, footprint, spare)
    field = tone.smooth_field(around, around.colour, 2)
    kept = tone.structures(around, field)
    seen = texture.layers(texture.grey(area))
    wanted = texture.wanted(around, texture.energies(seen, around.grid), field.weights, kept)
    return Study(ring, area, around, field, kept, wanted)

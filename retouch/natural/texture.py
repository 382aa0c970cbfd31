"""How much of the skin's texture is left, and how far its colour has moved, zone by zone."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.difference import ciede2000
from retouch.colour.lab import to_lab
from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.natural.pairs import EACH, LEAST_PIXELS, SURE, Result, level_of
from retouch.render import Renderer
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]

# The fine band in mm on the face: pores and fine hairs (see retouch.bands).
FINE_MM = (0.2, 0.6)
# With fewer pixels to the millimetre, pores are finer than pixels, and what little is measured says nothing.
_SEEN_FROM = 2.0


@dataclass(frozen=True)
class Reading:
    """A zone's texture in per cent of the original's, and its median change of colour (CIEDE2000)."""

    zone: str
    texture: float
    change: float


def fine_energy(grey: Array, px_per_mm: float) -> Array:
    """The square of the fine band at each pixel."""
    low, high = (max(0.5 * mm * px_per_mm, 0.3) for mm in FINE_MM)
    band = cv2.GaussianBlur(grey, (0, 0), low) - cv2.GaussianBlur(grey, (0, 0), high)
    return np.asarray(band * band, np.float32)


def readings(
    renderer: Renderer, edit: Edit, analysis: Analysis, face: int = 0, result: Result | None = None
) -> list[Reading]:
    """Every zone of a face's skin that is large enough; ``result`` as in `pair_of`.

    Texture is the root of the fine band's energy after over before. What is healed has texture
    of its own, so spots that went don't count as lost texture. A face too small for pores to be seen (below 2 pixels
    to the millimetre) has no readings.
    """
    if analysis.faces[face].scale.px_per_mm < _SEEN_FROM:
        return []
    x, y, w, h = analysis.faces[face].box
    rect = Rect(int(x), int(y), int(x + w) + 1, int(y + h) + 1).clip(renderer.bounds)
    scale = analysis.faces[face].scale.px_per_mm
    level = level_of(scale, renderer.pyramid.highest)
    rect = rect.align(1 << level).clip(renderer.bounds)
    part = rect.reduced(level)
    before = renderer.pyramid.crop(part, level)
    after = (result or renderer.plan(edit).view)(part, level)
    own = scale / (1 << level)
    energies = [fine_energy(np.ascontiguousarray(a[..., 1]), own) for a in (before, after)]
    colours = [np.ascontiguousarray(a).reshape(-1, 3) for a in (before, after)]
    out = []
    for zone in SKIN_OF_FACE:
        inside = analysis.mask((zone,), rect, (part.height, part.width), face) > SURE
        if int(inside.sum()) < LEAST_PIXELS:
            continue
        was, now = (float(e[inside].mean()) for e in energies)
        some = np.flatnonzero(inside)[::EACH]
        moved = float(np.median(ciede2000(*(to_lab(c[some][None]) for c in colours))))
        out.append(Reading(zone, 100 * float(np.sqrt(now / max(was, 1e-12))), moved))
    return out

"""Hair: shine along the strands, colour evened, greys toned, roots coloured like the lengths."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.flow import along, flow, flow_reach
from retouch.geometry import Rect
from retouch.skin.smooth import contrast_of, edge_aware, reach_of, soft
from retouch.steps import step_between

Array = NDArray[np.float32]

# Sizes in mm: what tells the direction, half of the stretch of a strand that is looked at, what
# surrounds a place, and strands that shine together.
_FLOW_MM, _STRETCH_MM, _AROUND_MM, _TOGETHER_MM = 1.2, 1.6, 7.0, 0.8
# Edges of the hair stop what surrounds a place.
_GUARD = 0.55
# Shine that is taken away leaves this part: hair without any is dull (common practice).
_DULL = 0.25
# A strand is grey when its chroma is below this part of the hair's own, surely at that; hair that has
# hardly any colour itself is told by light alone (C*, L* above its own).
_GREY, _SURELY = 0.75, 0.35
_COLOURLESS, _LIGHTER = 5.0, (8.0, 26.0)
# A toned strand keeps this part of what it is lighter than its own hair.
_STAYS = 0.3


@dataclass(frozen=True)
class HairLook:
    """What is done, as parts: ``shine`` -1..1, the others 0..1; ``own`` is the hair's colour (CIELAB),
    ``hue`` (degrees), ``chroma`` and ``light`` (L*) those of a colour laid in.
    """

    shine: float = 0.0
    even: float = 0.0
    greys: float = 0.0
    roots: float = 0.0
    recolour: float = 0.0
    hue: float = 50.0
    chroma: float = 20.0
    light: float = 0.0
    own: tuple[float, float, float] = (25.0, 5.0, 8.0)


def reach(px_per_mm: float) -> int:
    """Pixels of the original around a place that count."""
    half = round(_STRETCH_MM * px_per_mm)
    strand = flow_reach(_FLOW_MM * px_per_mm, half) + reach_of(_TOGETHER_MM * px_per_mm)
    return max(strand, reach_of(_AROUND_MM * px_per_mm)) + 2


def changed(image: Working, rect: Rect, look: HairLook, scale: float) -> Working:
    """Hair as it is to look; strands keep their own light and dark.

    Parameters
    ----------
    image : ndarray (h, w, 3) float32
        Encoded 0..1, over ``rect``.
    scale : float
        Its pixels per mm.
    """
    before = to_lab(image)
    light = np.ascontiguousarray(before[..., 0]) / np.float32(100)
    way = flow(light, _FLOW_MM * scale)
    strand = along(np.ascontiguousarray(before, np.float32), way, round(_STRETCH_MM * scale))
    around = to_lab(edge_aware(image, rect, _AROUND_MM * scale, contrast_of(_GUARD)))
    after = np.array(before, np.float32)
    if look.shine:
        # Of several strands together: each keeps what it differs from those beside it.
        lit = soft(np.ascontiguousarray(strand[..., :1]), rect, _TOGETHER_MM * scale)[..., 0]
        _shine(after, lit - around[..., 0], look.shine)
    if look.even:
        after[..., 1:] += np.float32(look.even) * (around - strand)[..., 1:]
    if look.greys:
        _tone(after, strand, around, look)
    if look.roots:
        _match(after, around, look)
    if look.recolour:
        _recolour(after, strand, look)
    return shifted(image, before, after)


def _shine(after: Lab, lighter: Array, amount: float) -> None:
    shine = np.maximum(lighter, 0)
    part = amount if amount > 0 else amount * (1 - _DULL)
    after[..., 0] = np.clip(after[..., 0] + np.float32(part) * shine, 0, 100)


def _greyness(strand: Lab, around: Lab, own: tuple[float, float, float]) -> Array:
    """How surely each strand is a grey one, 0..1."""
    usual = float(np.hypot(own[1], own[2]))
    lighter = step_between(strand[..., 0] - np.minimum(around[..., 0], own[0] + 10), *_LIGHTER)
    if usual < _COLOURLESS:
        return lighter
    chroma = np.hypot(strand[..., 1], strand[..., 2])
    # Light and dark strands of one colour have chroma as they have light.
    expected = usual * np.clip(strand[..., 0] / max(own[0], 5.0), 0.4, 1.6)
    pale = 1 - step_between(chroma / np.maximum(expected, 1e-3), _SURELY, _GREY)
    return np.asarray(pale * lighter, np.float32)


def _tone(after: Lab, strand: Lab, around: Lab, look: HairLook) -> None:
    grey = np.float32(look.greys) * _greyness(strand, around, look.own)
    for c in (1, 2):
        after[..., c] += grey * (np.float32(look.own[c]) - strand[..., c])
    excess = np.maximum(strand[..., 0] - np.float32(look.own[0]), 0)
    after[..., 0] = np.maximum(after[..., 0] - grey * np.float32(1 - _STAYS) * excess, 0)


def _match(after: Lab, around: Lab, look: HairLook) -> None:
    """What surrounds a place brought to the hair's own colour; strands stay as they differ from it."""
    for c in range(3):
        after[..., c] += np.float32(look.roots) * (np.float32(look.own[c]) - around[..., c])
    np.clip(after[..., 0], 0, 100, out=after[..., 0])


def _recolour(after: Lab, strand: Lab, look: HairLook) -> None:
    """Another hue; chroma goes with light, as dye on light and dark strands does."""
    angle = np.deg2rad(look.hue)
    with_light = np.clip(strand[..., 0] / max(look.own[0], 5.0), 0.3, 1.8)
    part = np.float32(look.recolour)
    for c, way in ((1, np.cos(angle)), (2, np.sin(angle))):
        wanted = np.float32(look.chroma * way) * with_light
        after[..., c] += part * (wanted - strand[..., c])
    # Black stays and the lightest strands move most: contrast grows or shrinks with the light.
    factor = (look.own[0] + look.light) / max(look.own[0], 1.0)
    moved = after[..., 0] * np.float32(max(factor, 0.05))
    after[..., 0] = np.clip(after[..., 0] + part * (moved - after[..., 0]), 0, 100)

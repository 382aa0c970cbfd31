"""Lips: richer, another colour, evened, their edge defined, dryness softened, gloss more or less."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.colour.lab import shifted, to_lab
from retouch.features.toning import beside, blur_reach, blurred, calmed, parts_of, tint_of
from retouch.steps import step_between

Array = NDArray[np.float32]

# Dry skin and lines of lips lie between these sizes (sigma, mm); finer ones are texture, broader ones
# form. Gloss and the edge stand out against broader surroundings.
_TEXTURE_MM, _FORM_MM, _BROAD_MM = 0.17, 0.8, 1.6
# What is lighter than its surroundings by these (L*) is gloss.
_GLOSS = (5.0, 16.0)
_EDGE_MM = 0.7
# What has less light than the lips as a whole may have so much less colour at least.
_SHADE = 0.3
# Full amounts: of chroma, and of gloss and the edge's contrast.
_MOST_RICHER, _MOST_GLOSS, _MOST_EDGE = 0.8, 0.8, 0.6
# Up to so much more colourful than they are lips still look their own (common practice).
MOST_NATURAL = 1.4


@dataclass(frozen=True)
class LipsLook:
    """How much of each: 0..1, ``gloss`` -1..1; ``own`` CIELAB of these lips.

    ``recolour`` turns the hue to ``hue`` (degrees) and the chroma towards ``chroma``. Colour is told
    beside ``neutral``, what is grey in this light (CIELAB): lips in candle light get redder, not more
    orange. None of it makes them more colourful than ``most`` times their own chroma, however many
    passes lie one over the other.
    """

    richer: float
    even: float
    edge: float
    dryness: float
    gloss: float
    recolour: float
    hue: float
    chroma: float
    own: tuple[float, float, float]
    most: float = np.inf
    neutral: tuple[float, float, float] = (70.0, 0.0, 0.0)


def reach(px_per_mm: float) -> int:
    """Pixels around a place that `changed` looks at."""
    return blur_reach(_BROAD_MM * px_per_mm)


def changed(image: Working, look: LipsLook, px_per_mm: float) -> Working:
    """Working values (h, w, 3) of lips as they are to look; the mask says where they are."""
    before = to_lab(image)
    light, a, b = parts_of(before)
    # Teeth between the lips and the dark between them stay.
    grey = tint_of(light, look.neutral)
    a, b = was = a - grey[0], b - grey[1]
    chroma, own = np.hypot(a, b), beside(look.own, look.neutral)
    red = step_between(chroma, 0.3 * own, 0.6 * own)
    broad = blurred(light, _BROAD_MM * px_per_mm)
    if look.dryness:
        form = blurred(light, _FORM_MM * px_per_mm)
        fine = blurred(light, _TEXTURE_MM * px_per_mm)
        # Light flakes and dark cracks go, the finest texture and the form stay.
        dry = (fine - form) * (1 - step_between(fine - form, *_GLOSS))
        light = np.asarray(light - np.float32(look.dryness) * red * dry, np.float32)
    if look.gloss:
        over = np.maximum(before[..., 0] - broad, 0)
        glossy = step_between(over, 0.5, _GLOSS[0]) * over
        light = light + np.float32(look.gloss * _MOST_GLOSS) * glossy
    if look.even:
        part = np.float32(look.even) * red
        own_grey = tint_of(np.array([look.own[0]], np.float32), look.neutral)
        wide_a, wide_b = (blurred(c, _FORM_MM * px_per_mm) for c in (a, b))
        a = a + part * (np.float32(look.own[1]) - own_grey[0] - wide_a)
        b = b + part * (np.float32(look.own[2]) - own_grey[1] - wide_b)
    if look.edge:
        local = blurred(light, _EDGE_MM * px_per_mm)
        light = light + np.float32(look.edge * _MOST_EDGE) * (local - broad) * step_between(
            np.abs(local - broad), 0.5, 3.0
        )
    if look.richer:
        more = 1 + np.float32(look.richer * _MOST_RICHER) * red
        a, b = a * more, b * more
    if look.recolour:
        part = np.float32(look.recolour) * red
        angle, size = np.radians(look.hue), np.hypot(a, b)
        wanted = size * np.float32(look.chroma / max(own, 1.0))
        a = a + part * (wanted * np.float32(np.cos(angle)) - a)
        b = b + part * (wanted * np.float32(np.sin(angle)) - b)
    if np.isfinite(look.most):
        # In the shade colours are less rich.
        shade = np.clip(light / np.float32(max(look.own[0], 1.0)), _SHADE, 1)
        a, b = calmed(a, b, chroma, np.float32(look.most * own) * shade)
    # By what moved: what didn't stays to the bit.
    after = [before[..., 1] + (a - was[0]), before[..., 2] + (b - was[1])]
    return shifted(image, before, np.dstack([light, *after]))

"""Brows and lashes: darker and defined along their hairs, another warmth; the skin between them stays."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Lab, Working
from retouch.colour.lab import shifted, to_lab
from retouch.discs import disc
from retouch.features.toning import parts_of, within
from retouch.geometry import Rect
from retouch.skin.smooth import Cells, blurred_cells, cells_of, factor_of, soft_reach_of, spread
from retouch.steps import step_between

Array = NDArray[np.float32]

# Hairs of brows and lashes lie closer than this (mm): what a closing by a disc so wide fills is hair.
_HAIR_MM = 0.7
# Darker than the skin between by the first of these (L*) may be a hair, by the second it surely is.
_FAINT, _SURE = 2.0, 9.0
# Full amounts: so much darker (L*), so much more of the hairs' own contrast, of chroma and of warmth.
_MOST_DARKER, _MOST_DEFINED, _MOST_RICHER, _MOST_WARMER = 14.0, 0.8, 0.9, 10.0
# Hairs darker than this (L*) look drawn: black hair in light is photographed lighter (common practice).
DARKEST = 10.0
# Whole brows lie in shade of their own: what is darker than the skin around by these.
_SHADE_MM, _SHADE = 4.0, (3.0, 14.0)


@dataclass(frozen=True)
class BrowLook:
    """How much of each: 0..1, ``warmer`` -1..1; nothing gets darker than ``least`` (L*)."""

    darker: float
    defined: float
    richer: float
    warmer: float
    least: float = 0.0


def hairs(lab: Lab, px_per_mm: float) -> tuple[Array, Array]:
    """How surely each place is a hair (0..1), and how much darker it is than beside it (L*)."""
    light = np.ascontiguousarray(lab[..., 0])
    dark = cv2.morphologyEx(light, cv2.MORPH_BLACKHAT, disc(_HAIR_MM * px_per_mm // 2))
    return step_between(dark, _FAINT, _SURE), np.asarray(dark, np.float32)


def reach(px_per_mm: float) -> int:
    """Pixels around a place that `changed` looks at."""
    return soft_reach_of(_SHADE_MM * px_per_mm) + near(px_per_mm)


def near(px_per_mm: float) -> int:
    """The same where it is given what is further around."""
    return int(np.ceil(_HAIR_MM * px_per_mm)) + 4


def shade_cell(px_per_mm: float) -> int:
    """Pixels to a side of the cells on which a brow's shade is told."""
    return factor_of(_SHADE_MM * px_per_mm)


def changed(
    image: Working,
    rect: Rect,
    look: BrowLook,
    px_per_mm: float,
    inner: Rect,
    around: Cells | None = None,
) -> Working:
    """Brows and lashes as they are to look; the mask says where they are.

    Parameters
    ----------
    image : ndarray (h, w, 3)
        Working values over ``rect``.
    inner : Rect
        The part of ``rect`` that is given back.
    around : Cells, optional
        What is further around, if ``rect`` goes no further than `near`.

    Returns
    -------
    ndarray (inner.height, inner.width, 3)
    """
    seen = cells_of(image, rect, shade_cell(px_per_mm), around)
    shade = blurred_cells(to_lab(seen.image)[..., :1], _SHADE_MM * px_per_mm, seen.factor)
    close = inner.grow(near(px_per_mm)).clip(rect)
    found, deep = hairs(to_lab(image[close.within(rect)]), px_per_mm)
    sure, dark = found[inner.within(close)], deep[inner.within(close)]
    own = image[inner.within(rect)]
    before = to_lab(own)
    light, a, b = parts_of(before)
    # Hairs that lie too close to be told apart are dark as a whole.
    beside = spread(shade, seen.rect, inner, seen.factor)[..., 0]
    hairy = np.maximum(sure, step_between(beside - light, *_SHADE))
    if look.defined:
        light = light - np.float32(look.defined * _MOST_DEFINED) * sure * dark
    if look.darker:
        light = light - np.float32(look.darker * _MOST_DARKER) * hairy * step_between(
            light, 5.0, 30.0
        )
    if look.defined or look.darker:
        room = np.maximum(before[..., 0] - np.float32(look.least), 0)
        light = before[..., 0] - within(np.maximum(before[..., 0] - light, 0), room)
    if look.richer:
        more = 1 + np.float32(look.richer * _MOST_RICHER) * hairy
        a, b = a * more, b * more
    if look.warmer:
        part = np.float32(look.warmer * _MOST_WARMER) * hairy
        a, b = a + np.float32(0.5) * part, b + part
    return shifted(own, before, np.dstack([np.maximum(light, 0), a, b]))

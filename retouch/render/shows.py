"""What else a view can show than the result: a mask, one band, boosted colour, the change so far.

Each gives (height, width, 3) uint8 sRGB on a view's grid.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from retouch.bands import Sizes, band
from retouch.colour.depth import to_integers
from retouch.colour.difference import ciede2000
from retouch.colour.lab import from_lab, lab_of_pixels
from retouch.edit.model import Pass
from retouch.render.framing import Grid
from retouch.render.plan import Plan
from retouch.render.view import foreseen, grid_of, seen

Pixels = NDArray[np.uint8]
Array = NDArray[np.float32]
Cancelled = Callable[[], bool]

__all__ = [
    "CHANGE_STOPS",
    "band_view",
    "boosted_view",
    "change_view",
    "clipped_view",
    "effect_view",
    "foreseen",
    "gamut_view",
    "grid_of",
    "mask_cover",
    "mask_view",
    "seen",
    "stretched",
    "tint_view",
]

# A mask over the picture: this colour, at most so strong.
TINT, _TINT_SHARE = (0, 150, 136), 0.45
# The effect of a pass is shown so many times stronger, on grey.
_EFFECT_GAIN = 4.0
# Boosted colour: distances from the view's typical colour times this.
_BOOST = 3.0
# Colours of differences (CIEDE2000): about 1 is just visible side by side, 2 to 3 at a glance
# (common practice); between the stops they are mixed.
CHANGE_STOPS: tuple[tuple[float, tuple[int, int, int]], ...] = (
    (0.0, (24, 24, 32)),
    (1.0, (38, 84, 124)),
    (2.0, (42, 157, 143)),
    (5.0, (233, 196, 106)),
    (10.0, (231, 76, 60)),
)
# A band is shown with this standard deviation (encoded values), as far as its own is not more …
_SPREAD = 0.13
# … and amplified this many times at most, so that an empty band doesn't show noise.
_MOST_GAIN = 40.0
_BROAD_GAIN = 1.6
# The picture behind what is clipped is drawn towards this grey.
_PALE = 140.0
# What a profile shows this close (CIEDE2000) to what is wanted it can hold: tables give no colour more truly.
_OUTSIDE = 2.0


def mask_cover(plan: Plan, grid: Grid, one: Pass) -> Array:
    """The mask of a pass (whether it is on or off) on the grid, (height, width) 0..1."""
    rect = grid.rect
    if rect.empty:
        return np.zeros((grid.height, grid.width), np.float32)
    cover = plan.stock.masks.draw(one.mask, rect, grid.level, plan.zones)
    if cover is None:
        return np.ones((grid.height, grid.width), np.float32)
    return np.clip(np.asarray(grid.laid(cover[..., 0]), np.float32), 0, 1)


def mask_view(plan: Plan, grid: Grid, one: Pass) -> Pixels:
    """The mask of a pass, white where it acts."""
    grey = np.asarray(mask_cover(plan, grid, one) * 255 + 0.5, np.uint8)
    return np.repeat(grey[..., None], 3, -1)


def tint_view(plan: Plan, grid: Grid, one: Pass, cancelled: Cancelled) -> Pixels:
    """The result with the mask of a pass laid over it."""
    share = (_TINT_SHARE * mask_cover(plan, grid, one))[..., None]
    pixels = seen(plan, grid, cancelled).astype(np.float32)
    return np.asarray(pixels + share * (np.asarray(TINT, np.float32) - pixels) + 0.5, np.uint8)


def effect_view(with_it: Pixels, without: Pixels) -> Pixels:
    """What a pass changes, amplified, on grey."""
    change = with_it.astype(np.float32) - without
    return np.asarray(np.clip(127.5 + _EFFECT_GAIN * change, 0, 255), np.uint8)


def boosted_view(pixels: Pixels) -> Pixels:
    """Differences of colour raised around the view's typical colour, lightness as it is."""
    lab = lab_of_pixels(pixels)
    middle = np.median(lab[..., 1:].reshape(-1, 2), 0)
    lab[..., 1:] = middle + _BOOST * (lab[..., 1:] - middle)
    return np.asarray(to_integers(from_lab(lab), 8), np.uint8)


def clipped_view(pixels: Pixels) -> Pixels:
    """What is clipped, on the picture in pale grey: channels that end at white in their own bright
    colour (all three: white), those that end at black in their own dark one (all three: black).
    """
    out = _pale(pixels)
    lost, closed = pixels == 255, pixels == 0
    out = np.where(lost.any(-1, keepdims=True), 255.0 * lost, out)
    dark = np.where(closed.all(-1, keepdims=True), 0.0, 150.0 * closed)
    out = np.where(closed.any(-1, keepdims=True) & ~lost.any(-1, keepdims=True), dark, out)
    return np.asarray(out + 0.5, np.uint8)


def gamut_view(pixels: Pixels, far: Array) -> Pixels:
    """What lies outside of a profile, by how far (CIEDE2000), in the colours of `CHANGE_STOPS`; all else pale."""
    out = np.where(far[..., None] < _OUTSIDE, _pale(pixels), _in_stops(far))
    return np.asarray(out + 0.5, np.uint8)


def _pale(pixels: Pixels) -> Array:
    """A picture as a pale grey, 0..255, for what is shown on it."""
    grey = pixels.astype(np.float32) @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    return np.repeat((_PALE + (grey - _PALE) * 0.35)[..., None], 3, -1)


def change_view(before: Pixels, after: Pixels) -> Pixels:
    """How much colour has changed (CIEDE2000), in the colours of `CHANGE_STOPS`."""
    return np.asarray(
        _in_stops(ciede2000(*(lab_of_pixels(p) for p in (before, after)))) + 0.5, np.uint8
    )


def _in_stops(amount: NDArray[np.floating[Any]]) -> Array:
    """Colours (h, w, 3), 0..255, of differences."""
    at = [stop for stop, _ in CHANGE_STOPS]
    channels = [np.interp(amount, at, [c[k] for _, c in CHANGE_STOPS]) for k in range(3)]
    return np.asarray(np.stack(channels, -1), np.float32)


def band_view(plan: Plan, grid: Grid, name: str, sizes: Sizes, cancelled: Cancelled) -> Pixels:
    """One band of detail of the result (`retouch.bands`), its levels stretched; grey is nothing."""
    rect, level = grid.rect, grid.level
    if rect.empty:
        return np.full((grid.height, grid.width, 3), 128, np.uint8)
    limits = plan.bounds.reduced(level)
    here = Sizes(sizes.px_per_mm / (1 << level), sizes.divide_mm)
    found = band(lambda r: plan.view(r, level, cancelled), rect, limits, name, here)
    shown = stretched(np.asarray(grid.laid(found), np.float32), name)
    return np.ascontiguousarray(to_integers(shown, 8), np.uint8)


def stretched(found: Array, name: str) -> Array:
    """Values of a band as they are shown, 0..1.

    Broad parts are spread around their mean; others around the middle grey, as far as their
    typical (median) size asks.
    """
    if name in ("tone", "light"):
        middle = found.mean((0, 1))
        return np.clip(middle + _BROAD_GAIN * (found - middle), 0, 1)
    typical = 1.4826 * float(np.median(np.abs(found)))
    gain = min(_SPREAD / max(typical, 1e-6), _MOST_GAIN)
    return np.clip(0.5 + gain * found, 0, 1)

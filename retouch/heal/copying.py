"""Clone: a plain copy from another place, as strongly as brush, opacity and flow say."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.heal.footprint import Footprint

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]

# Dabs of a stroke lie this part of the radius apart: dense enough to leave no beads.
_SPACING = 0.2
_MOST_DABS = 2000


def coverage(footprint: Footprint, rect: Rect, softness: float, flow: float) -> Array:
    """How much of the source shows at each pixel of a rectangle, before opacity, 0..1.

    With full flow a stroke covers as its brush does. With less, every dab along the stroke lays
    down its part of what is still missing, so that slow or doubled-back strokes build up; a
    single click lays down one dab.

    Parameters
    ----------
    softness, flow : float
        0..1.
    """
    if flow >= 1:
        return footprint.cover(rect, softness)
    xs = np.arange(rect.x0, rect.x1, dtype=np.float32) + np.float32(0.5)
    ys = np.arange(rect.y0, rect.y1, dtype=np.float32) + np.float32(0.5)
    missing = np.ones((rect.height, rect.width), np.float32)
    radius = footprint.radius
    for x, y in footprint.nodes(_SPACING * radius, _MOST_DABS):
        dab = Footprint(((float(x), float(y)),), radius)
        part = dab.bounds.clip(rect)
        if part.empty:
            continue
        rows = slice(part.y0 - rect.y0, part.y1 - rect.y0)
        cols = slice(part.x0 - rect.x0, part.x1 - rect.x0)
        away = np.hypot(xs[None, cols] - np.float32(x), ys[rows, None] - np.float32(y))
        missing[rows, cols] *= 1 - np.float32(flow) * dab.coverage(away, softness)
    return 1 - missing


def read_rects(footprint: Footprint, offset: tuple[int, int], bounds: Rect) -> list[Rect]:
    """The pixels a clone looks at: its own place and its source, within the picture."""
    own = footprint.bounds.clip(bounds)
    source = own.shift(*offset).clip(bounds)
    return [r for r in (own, source) if not r.empty]


def clone(
    read: Reader,
    footprint: Footprint,
    offset: tuple[int, int],
    bounds: Rect,
    softness: float = 0.2,
    flow: float = 1.0,
    source_read: Reader | None = None,
) -> Array:
    """What a clone adds to the picture over its place, at full opacity.

    Parameters
    ----------
    read : callable
        Gives the pixels of a rectangle within ``bounds``, (h, w, 3) float32, encoded 0..1.
    offset : (int, int)
        From target to source, in pixels. Where the source lies outside of the picture, nothing
        is copied.
    source_read : callable, optional
        Another reader for the source, one that turns it (`turned.turned`).

    Returns
    -------
    ndarray (h, w, 3) float32
        The change over ``footprint.bounds`` clipped to the picture; 0 outside of the brush.
    """
    write = footprint.bounds.clip(bounds)
    out = np.zeros((write.height, write.width, 3), np.float32)
    source = write.shift(*offset).clip(bounds)
    if write.empty or source.empty:
        return out
    here = source.shift(-offset[0], -offset[1])
    cover = coverage(footprint, here, softness, flow)
    rows = slice(here.y0 - write.y0, here.y1 - write.y0)
    cols = slice(here.x0 - write.x0, here.x1 - write.x0)
    out[rows, cols] = ((source_read or read)(source) - read(here)) * cover[..., None]
    return out

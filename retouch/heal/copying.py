"""Clone: a plain copy from another place, as strongly as brush, opacity and flow say."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
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
    nodes = _dabs(footprint)
    width = max(1.0, softness * footprint.radius)
    return _dabbed(
        rect.x0 + 0.5, rect.y0 + 0.5, rect.height, rect.width, nodes, footprint.radius, width, flow
    )


@lru_cache(maxsize=1024)
def _dabs(footprint: Footprint) -> NDArray[np.float64]:
    """Where the dabs of a stroke lie, (n, 2); asked for again for every part of a picture."""
    return footprint.nodes(_SPACING * footprint.radius, _MOST_DABS)


@compiled
def _dabbed(
    x0: float,
    y0: float,
    h: int,
    w: int,
    nodes: NDArray[np.float64],
    radius: float,
    width: float,
    flow: float,
) -> Array:
    """1 less what dabs of some flow leave uncovered; each falls off as `Footprint.coverage`."""
    out = np.ones((h, w), np.float32)
    edge, scale, part = np.float32(radius + 0.5), np.float32(1 / width), np.float32(flow)
    zero, one, two, three = np.float32(0), np.float32(1), np.float32(2), np.float32(3)
    columns = np.empty(w, np.float32)
    for j in range(w):
        columns[j] = j
    for n in range(len(nodes)):
        x, y = nodes[n, 0] - x0, nodes[n, 1] - y0
        left, right = max(int(x - radius - 1), 0), min(int(x + radius + 2), w)
        if right <= left:
            continue
        # Slices that begin at 0: only loops over those fill vector registers.
        across = columns[left:right] - np.float32(x)
        for i in range(max(int(y - radius - 1), 0), min(int(y + radius + 2), h)):
            down = np.float32(i - y) * np.float32(i - y)
            row = out[i, left:right]
            for j in range(len(row)):
                t = (edge - np.sqrt(across[j] * across[j] + down)) * scale
                t = min(max(t, zero), one)
                row[j] *= one - part * t * t * (three - two * t)
    for i in range(h):
        row = out[i]
        for j in range(len(row)):
            row[j] = one - row[j]
    return out


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

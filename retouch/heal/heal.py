"""The heal itself: what comes into the place that a brush covered."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.compiled import compiled
from retouch.geometry import Rect
from retouch.heal import source, texture, tone
from retouch.heal.coarse import blur
from retouch.heal.footprint import Footprint
from retouch.heal.study import Study, study

Array = NDArray[np.float32]
Reader = Callable[[Rect], Array]

# Detail below this many pixels always comes from the source; larger forms up to this part of
# the radius too, so that a large brush carries pores and bumps, not only grain.
_DETAIL_SIGMA = 4.0
_DETAIL_PART = 0.3
_PROPOSALS = 6


def _detail_sigma(radius: float) -> float:
    return max(_DETAIL_SIGMA, _DETAIL_PART * radius)


def write_rect(footprint: Footprint, bounds: Rect) -> Rect:
    """The pixels a heal can change."""
    return footprint.bounds.clip(bounds)


def _source_rect(footprint: Footprint, offset: tuple[int, int], bounds: Rect) -> Rect:
    pad = int(np.ceil(3 * _detail_sigma(footprint.radius)))
    return footprint.bounds.clip(bounds).grow(pad).shift(*offset)


def read_rects(footprint: Footprint, offset: tuple[int, int], bounds: Rect) -> list[Rect]:
    """The pixels a heal looks at: its ring, the same shifted, and the source with a margin."""
    ring = tone.ring_rect(footprint, bounds)
    rects = [ring, ring.shift(*offset), _source_rect(footprint, offset, bounds)]
    return [r.clip(bounds) for r in rects if r.meets(bounds)]


def _read_mirrored(read: Reader, rect: Rect, bounds: Rect) -> Array:
    """Pixels of a rectangle that may stick out of the picture, mirrored at the border."""
    inner = rect.clip(bounds)
    if inner == rect:
        return read(rect)
    if inner.empty:
        # Wholly outside: the nearest pixels of the picture stand in.
        x0 = min(max(rect.x0, bounds.x0), bounds.x1 - 1)
        y0 = min(max(rect.y0, bounds.y0), bounds.y1 - 1)
        inner = Rect(x0, y0, x0 + 1, y0 + 1)
        pixel = read(inner)
        return np.broadcast_to(pixel, (rect.height, rect.width, 3)).astype(np.float32)
    sides = (inner.y0 - rect.y0, rect.y1 - inner.y1, inner.x0 - rect.x0, rect.x1 - inner.x1)
    return cv2.copyMakeBorder(read(inner), *sides, cv2.BORDER_REFLECT)


def examine(read: Reader, footprint: Footprint, bounds: Rect, spare: tone.Outlines = ()) -> Study:
    """Judge the surroundings of a touch; `propose` and `heal` can share the result.

    What lies in the outlines ``spare`` isn't asked for tone (`tone.look_around`).
    """
    ring = tone.ring_rect(footprint, bounds)
    return study(read(ring), ring, footprint, spare)


def propose(
    read: Reader,
    footprint: Footprint,
    bounds: Rect,
    most: int = _PROPOSALS,
    avoid: Callable[[Rect], NDArray[np.uint8]] | None = None,
    view: Study | None = None,
) -> list[source.Candidate]:
    """Sources for a heal, best first; empty when the picture has no room for one.

    Parameters
    ----------
    read : callable
        Gives the pixels of a rectangle within ``bounds``, (h, w, 3) float32, encoded 0..1.
    bounds : Rect
        The whole picture.
    avoid : callable, optional
        Gives, for a rectangle, where no source may lie (uint8, other than 0).
    view : Study, optional
        The surroundings, if `examine` has been called already.
    """
    rect = source.search_rect(footprint, bounds)
    if rect.empty or footprint.bounds.clip(bounds).empty:
        return []
    if view is None:
        view = examine(read, footprint, bounds)
    return source.candidates(
        read(rect), rect, view, most, avoid(rect) if avoid is not None else None
    )


def heal(
    read: Reader,
    footprint: Footprint,
    offset: tuple[int, int],
    bounds: Rect,
    softness: float = 0.2,
    keep_edges: bool = True,
    view: Study | None = None,
    source_read: Reader | None = None,
) -> Array:
    """What a heal adds to the picture.

    Parameters
    ----------
    read : callable
        Gives the pixels of a rectangle within ``bounds``, (h, w, 3) float32, encoded 0..1.
    offset : (int, int)
        From target to source, in pixels.
    softness : float
        Part of the radius over which the brush falls off, 0..1.
    keep_edges : bool
        Leave alone what reaches into the brush from outside (`tone.structures`).
    view : Study, optional
        The surroundings, if `examine` has been called already.
    source_read : callable, optional
        Another reader for the source, one that turns it (`turned.turned`).

    Returns
    -------
    ndarray (h, w, 3) float32
        The change over `write_rect`: add it to the picture. Exactly 0 outside of the brush.
    """
    write = write_rect(footprint, bounds)
    view = view if view is not None else examine(read, footprint, bounds)
    ring, area, around = view.ring, view.area, view.around
    field = view.field
    kept = view.kept if keep_edges else np.zeros_like(view.kept)

    pick = _source_rect(footprint, offset, bounds)
    taken = source_read or read
    pixels = _read_mirrored(taken, pick, bounds)
    here = write.shift(offset[0] - pick.x0, offset[1] - pick.y0)
    cut = np.s_[here.y0 : here.y1, here.x0 : here.x1]

    edge = None
    if field.scale > source.EDGE_SCALE or around.spared.any():
        shifted = _read_mirrored(taken, ring.shift(*offset), bounds)
        edge = source.edge_difference(around, field, shifted)
    if edge is not None:
        other = blur(around.grid.reduce(shifted), 0.8)
        base = tone.join(around, around.colour - other, edge, kept)
        detail = np.ascontiguousarray(pixels[cut])
    else:
        base = tone.join(around, around.colour, field, kept)
        detail = _detail(view, pixels, cut, write)

    cover = footprint.cover(write, softness)
    if kept.any():
        cover = cover * (1 - around.grid.spread(blur(kept.astype(np.float32), 0.8), write))
    below = area[write.y0 - ring.y0 : write.y1 - ring.y0, write.x0 - ring.x0 : write.x1 - ring.x0]
    return _laid(below, around.grid.spread(base, write), detail, cover)


@compiled
def _laid(below: Array, base: Array, detail: Array, cover: Array) -> Array:
    """What has to be added to ``below`` where tone and detail cover it."""
    h, w, depth = below.shape
    out = np.empty((h, w, depth), np.float32)
    for i in range(h):
        for j in range(w):
            for k in range(depth):
                above = min(max(base[i, j, k] + detail[i, j, k], np.float32(0)), np.float32(1))
                out[i, j, k] = (above - below[i, j, k]) * cover[i, j]
    return out


def _detail(view: Study, pixels: Array, cut: tuple[slice, slice], write: Rect) -> Array:
    """The source's texture over ``write``, its bands as strong as in the skin around."""
    around, wanted = view.around, view.wanted
    last = texture.SIGMAS[-1]
    rest = float(np.sqrt(max(_detail_sigma(around.footprint.radius) ** 2 - last**2, 0)))
    medium, soft = texture.broad_layers(pixels)
    floor = blur(soft, rest / 2)
    part = (cut[0].start, cut[1].start, write.height, write.width)
    bands, out = texture.split(
        pixels, texture.fine_layer(pixels, *part), medium, soft, floor, *part
    )
    radius = around.footprint.radius
    have = texture.powers(bands, write.x0 + 0.5, write.y0 + 0.5, around.nodes, radius)
    gain = texture.gains(wanted, have)
    if len(around.nodes) == 1:
        return _summed(out, bands, gain[:, 0])
    share = around.influence
    for band, gains in zip(bands, gain, strict=True):
        out += around.grid.spread(np.einsum("n,nij->ij", gains, share), write)[..., None] * band
    return out


@compiled
def _summed(rest: Array, bands: Array, gain: Array) -> Array:
    out = rest.ravel().copy()
    for b in range(len(bands)):
        line, factor = bands[b].ravel(), gain[b]
        for i in range(len(out)):
            out[i] += factor * line[i]
    return out.reshape(rest.shape)

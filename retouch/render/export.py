"""The whole edited picture at full size, in its own depth."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import Integers, to_integers
from retouch.colour.space import settled
from retouch.edit.mask import Mask
from retouch.edit.model import Edit
from retouch.errors import Cancelled, FacesMissing
from retouch.geometry import EMPTY, Rect
from retouch.passes.ways import FramePlace
from retouch.picture import Picture
from retouch.picture import profile as profiles
from retouch.processors import PARTS, at_once, edges
from retouch.render.finishing import finished, framed_passes
from retouch.render.framing import beyond
from retouch.render.plan import Plan
from retouch.render.renderer import Renderer
from retouch.render.stock import Patch
from retouch.warp import Warp
from retouch.warp.resample import REACH, Nodes, nodes, resampled

Array = NDArray[np.float32]
Progress = Callable[[float], None]
Wanted = Callable[[], bool]

# Strips rendered at a time have about so many pixels, and so many rows at least: bounds memory and gives
# steps for the progress. Where passes look far around, they have more, or each would compute most of its
# neighbours again; but no more than this.
_ROWS, _STRIP, _MOST = 512, 3_000_000, 40_000_000
# A resampled picture is laid in blocks of so many pixels: several copies of one are needed in working values.
_MOST_BLOCK = 8_000_000
# What moves is laid in parts of so many pixels.
_MOST_MOVED = 8_000_000
# A resampled picture is cut into so many blocks each way at most.
_MOST_BLOCKS = 64


def render_whole(
    renderer: Renderer,
    edit: Edit,
    progress: Progress = lambda part: None,
    cancelled: Wanted = lambda: False,
) -> Picture:
    """Render everything: all pixel passes, then the frame.

    Pixels that no pass changes keep their exact values, where the frame moves whole pixels too (a
    crop, quarter turns, a mirror) and nothing moves; else the picture is resampled once. ``progress`` is called with 0..1;
    `Cancelled` is raised soon after ``cancelled()`` says so, `FacesMissing` where a mask needs faces
    that aren't known: nothing is left out silently.
    """
    plan = renderer.plan(edit)
    if plan.trouble is not None:
        raise FacesMissing(plan.trouble)
    picture, warp = renderer.pyramid.picture, plan.warp.flat
    # What acts on the framed picture needs it in working values.
    if warp.whole_pixels is None or framed_passes(edit):
        out = _resampled(plan, progress, cancelled)
    else:
        whole = warp.whole_pixels
        kept = _to_keep(plan, whole.rect)
        out = _as_it_lies(plan, whole.rect, progress, cancelled, kept)
        if not warp.identity:
            out = whole.laid(out)
        _moved_into(out, plan, warp.frame, cancelled, kept)
    if picture.grey:
        out[...] = out[..., :1]
    alpha = _framed_alpha(picture.alpha, picture, plan.warp)
    cut = _cut_out(plan, cancelled)
    if cut is not None:
        seen = _framed_alpha(cut, picture, plan.warp)
        assert seen is not None
        out = _off_white(out, seen)
        # What was see-through before stays so.
        alpha = seen if alpha is None else np.minimum(alpha, seen)
    # What comes out is encoded in the profile, a raw file's too.
    return replace(picture, pixels=out, alpha=alpha, developed=None, taken=None)


def as_passes_made(renderer: Renderer, edit: Edit, whole: Picture) -> bool:
    """Whether a picture that was rendered (`render_whole`) has what the passes of pixels made, in the original's
    pixels: nothing is framed, moved or cut out.
    """
    warp = renderer.plan(edit).warp
    picture = renderer.pyramid.picture
    plain = warp.identity and warp.moving.empty and not framed_passes(edit)
    return plain and whole.alpha is picture.alpha and picture.developed is None


def _strips(plan: Plan, part: Rect) -> Iterator[Rect]:
    """A part of the original in strips, as few as memory allows."""
    if part.empty:
        return
    usual = max(_ROWS, 4 * plan.chain.margin(0), _STRIP // part.width)
    rows = min(usual, max(_ROWS, _MOST // part.width))
    for y0, y1 in edges(part.y0, part.y1, -(-part.height // rows)):
        yield Rect(part.x0, y0, part.x1, y1)


def _to_keep(plan: Plan, within: Rect) -> Patch | None:
    """Room for the working values of what is moved after: they are needed once more."""
    moving = plan.warp.moving.clip(plan.warp.frame)
    if moving.empty:
        return None
    rect = _looked_at(plan, moving).clip(within)
    if rect.width * rect.height > _MOST:
        return None
    return Patch(rect, np.empty((rect.height, rect.width, 3), np.float32))


def _looked_at(plan: Plan, framed: Rect) -> Rect:
    """What of the original a part of the framed picture is resampled from."""
    if framed.empty:
        return EMPTY
    return plan.warp.reads(framed).grow(2 * REACH).clip(plan.warp.bounds)


def _as_it_lies(
    plan: Plan, part: Rect, progress: Progress, cancelled: Wanted, kept: Patch | None
) -> Integers:
    """A part of the original with all pixel passes, in the picture's depth; ``kept`` is filled on the way."""
    pyramid = plan.stock.pyramid
    picture = pyramid.picture
    changing = part
    out = np.empty((part.height, part.width, 3), picture.pixels.dtype)
    if picture.space.keeps_codes:
        # Elsewhere the file's own pixels stay.
        changing = plan.chain.acting.clip(part)
        out[...] = picture.pixels[part.within(picture.bounds)]
        if kept is not None:
            kept.change[...] = pyramid.crop(kept.rect, 0)
    plan.expect(changing)

    def take(rect: Rect, result: Array) -> None:
        if kept is not None and rect.meets(kept.rect):
            both = rect.clip(kept.rect)
            kept.within(both)[...] = result[both.within(rect)]

        def settle(rows: tuple[int, int]) -> None:
            strip = Rect(rect.x0, rows[0], rect.x1, rows[1])
            out[strip.within(part)] = settled(
                result[strip.within(rect)],
                lambda: pyramid.crop(strip, 0),
                picture.pixels[strip.within(picture.bounds)],
                picture.space,
                picture.bits,
            )

        at_once(settle, edges(rect.y0, rect.y1, 2 * PARTS))

    _render(plan, changing, take, progress, cancelled)
    progress(1.0)
    return out


def _render(
    plan: Plan,
    part: Rect,
    take: Callable[[Rect, Array], None],
    progress: Progress,
    cancelled: Wanted,
) -> None:
    """Have all pixel passes computed over a part of the original, and each strip of it taken.

    Strips are made at once: within one, much is done that can't be shared. ``progress`` is told by this thread alone.
    """
    strips, asker = list(_strips(plan, part)), threading.get_ident()
    made: list[Rect] = []

    def work(rect: Rect) -> None:
        if cancelled():
            raise Cancelled("The export was cancelled.")
        take(rect, plan.rendered(rect, 0, cancelled, None))
        made.append(rect)
        if threading.get_ident() == asker:
            progress(len(made) / len(strips))

    at_once(work, strips)


def _resampled(plan: Plan, progress: Progress, cancelled: Wanted) -> Integers:
    """The framed picture where it is resampled, in the picture's depth."""
    picture, warp = plan.stock.pyramid.picture, plan.warp.flat
    out = np.empty((warp.height, warp.width, 3), picture.pixels.dtype)
    blocks = _blocks(warp)
    passes = framed_passes(plan.edit)
    plan.expect(plan.chain.acting.clip(warp.bounds))
    for n, block in enumerate(blocks):
        # With what is moved into it.
        moving = _looked_at(plan, plan.warp.moving.clip(block))
        part = warp.reads(block).grow(2 * REACH).clip(warp.bounds).union(moving)
        area = _area(
            plan,
            part,
            cancelled,
            lambda share, n=n: progress((n + share) / len(blocks)),  # type: ignore[misc]
        )
        at = nodes(warp.to_original, (block.x0, block.y0), (block.width, block.height), 1.0)
        laid = beyond(_laid(area, part, block, at, warp), at, warp)
        _moved_into(laid, plan, block, cancelled, Patch(part, area))
        place = FramePlace(block.x0, block.y0, 1.0, warp.width, warp.height)

        def cover(mask: Mask, part: Rect = part, block: Rect = block, at: Nodes = at) -> Array:
            drawn = plan.stock.masks.draw(mask, part, 0, plan.zones)
            if drawn is None:
                return np.ones((block.height, block.width), np.float32)
            flat = np.ascontiguousarray(drawn[..., 0])
            return np.clip(np.asarray(_laid(flat, part, block, at, warp), np.float32), 0, 1)

        laid = finished(passes, laid, place, cover)
        encoded = picture.space.to_encoded(laid)
        out[block.within(warp.frame)] = to_integers(encoded, picture.bits)
    return out


def _area(
    plan: Plan, part: Rect, cancelled: Wanted, progress: Progress = lambda share: None
) -> Array:
    """A part of the original with all pixel passes, in working values."""
    area = np.ascontiguousarray(plan.stock.pyramid.crop(part, 0))
    changing = plan.chain.acting.clip(part)

    def take(rect: Rect, result: Array) -> None:
        area[rect.within(part)] = result

    _render(plan, changing, take, progress, cancelled)
    return area


def _moved_into(
    out: NDArray[Any], plan: Plan, block: Rect, cancelled: Wanted, kept: Patch | None
) -> None:
    """Lay what is moved over a block of the framed picture, in working values or the picture's depth.

    ``kept`` is a part of the original with all pixel passes, if there is one.
    It is resampled once, from the original through the whole map; what stays in its place isn't touched.
    """
    warp, picture = plan.warp, plan.stock.pyramid.picture
    moving = warp.moving.clip(block)
    if moving.empty:
        return
    for a, b in edges(moving.y0, moving.y1, -(-moving.height * moving.width // _MOST_MOVED)):
        rect = Rect(moving.x0, a, moving.x1, b)
        start, size = (rect.x0, rect.y0), (rect.width, rect.height)
        at = nodes(warp.to_original, start, size, 1.0, warp.cell)
        still = nodes(warp.flat.to_original, start, size, 1.0, warp.cell)
        (x, y), (x_, y_) = at.spread(), still.spread()
        moved = (x != x_) | (y != y_)
        if not moved.any():
            continue
        part = _looked_at(plan, rect)
        if kept is not None and part.clip(kept.rect) == part:
            area = kept.within(part)
        else:
            area = _area(plan, part, cancelled)
        made = beyond(resampled(area, (part.x0, part.y0), at), at, warp)
        if out.dtype != np.float32:
            made = to_integers(picture.space.to_encoded(made), picture.bits)
        out[rect.within(block)][moved] = made[moved]


def _laid(area: NDArray[Any], part: Rect, block: Rect, at: Nodes, warp: Warp) -> NDArray[Any]:
    """An area over ``part`` of the original as it lies in a block of the framed picture."""
    whole = warp.whole_pixels
    if whole is None:
        return resampled(area, (part.x0, part.y0), at)
    own = warp.reads(block)
    return whole.laid(area[own.within(part)])


def _blocks(warp: Warp) -> list[Rect]:
    """The framed picture in blocks that each need no more pixels of the original than fit.

    Strips as wide as it is, where they are enough: what is computed beyond their edges is least then.
    """
    whole = warp.width * warp.height
    for count in range(1, _MOST_BLOCKS + 1):
        rows = [Rect(0, a, warp.width, b) for a, b in edges(0, warp.height, count)]
        if count * _MOST_BLOCK >= whole and _most_read(warp, rows) <= 2 * _MOST_BLOCK:
            return rows
        if count * _MOST_BLOCK >= 4 * whole:
            # Turned far: strips of the frame are long across the original.
            break
    for count in range(1, _MOST_BLOCKS + 1):
        xs, ys = edges(0, warp.width, count), edges(0, warp.height, count)
        found = [Rect(x0, y0, x1, y1) for y0, y1 in ys for x0, x1 in xs]
        if _most_read(warp, found) <= _MOST:
            break
    return found


def _most_read(warp: Warp, blocks: Sequence[Rect]) -> int:
    """The most pixels of the original that one of the blocks needs."""
    return max(r.width * r.height for r in (warp.reads(b) for b in blocks))


def _framed_alpha(alpha: Integers | None, picture: Picture, warp: Warp) -> Integers | None:
    """An opacity of the original, framed."""
    if alpha is None or warp.identity:
        return alpha
    whole = warp.whole_pixels
    if whole is not None:
        return np.asarray(whole.laid(alpha[whole.rect.within(picture.bounds)]))
    at = nodes(warp.to_original, (0, 0), (warp.width, warp.height), 1.0)
    return np.asarray(resampled(alpha, (0.0, 0.0), at))


def _cut_out(plan: Plan, cancelled: Wanted) -> Integers | None:
    """The opacity that passes leave to the original, in the picture's depth; None: all of it."""
    picture = plan.stock.pyramid.picture
    out: Integers | None = None
    plan.expect(picture.bounds)
    for rect in _strips(plan, picture.bounds):
        if cancelled():
            raise Cancelled("The export was cancelled.")
        found = plan.opacity(rect)
        if found is None:
            return None
        if out is None:
            out = np.empty((picture.height, picture.width), picture.pixels.dtype)
        out[rect.within(picture.bounds)] = np.round(found * picture.top)
    return out


def _off_white(pixels: Integers, alpha: Integers) -> Integers:
    """The colours of what is seen on white, without the white: laid over it by ``alpha`` it is the same."""
    top = np.float32(np.iinfo(alpha.dtype).max)
    part = (alpha > 0) & (alpha < top)
    share = alpha[part][:, None].astype(np.float32) / top
    out = pixels.copy()
    own = (pixels[part].astype(np.float32) - (1 - share) * top) / share
    out[part] = np.round(np.clip(own, 0, top)).astype(pixels.dtype)
    return out


def resized(picture: Picture, long_side: int) -> Picture:
    """Reduced so that the longer side has ``long_side`` pixels; never enlarged."""
    longer = max(picture.width, picture.height)
    if long_side >= longer:
        return picture
    scale = long_side / longer
    size = (max(1, round(picture.width * scale)), max(1, round(picture.height * scale)))

    def small(a: NDArray[Any]) -> NDArray[Any]:
        return cv2.resize(a, size, interpolation=cv2.INTER_AREA)

    alpha = small(picture.alpha) if picture.alpha is not None else None
    return replace(picture, pixels=small(picture.pixels), alpha=alpha)


def in_srgb(picture: Picture) -> Picture:
    """Converted to sRGB, with the sRGB profile attached."""
    pixels = profiles.to_srgb(picture.pixels, picture.icc)
    return replace(picture, pixels=pixels, icc=None if picture.grey else profiles.srgb())

"""Pixels for a screen: any part of the picture on the screen's own grid, as sRGB."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from retouch.colour.depth import to_float, to_integers
from retouch.edit.mask import Mask
from retouch.geometry import Rect
from retouch.passes.ways import FramePlace
from retouch.processors import PARTS, at_once, edges
from retouch.render.finishing import finished, framed_passes
from retouch.render.framing import Grid, grid_for
from retouch.render.kept import kept_around
from retouch.render.plan import Plan

# Views of so many pixels or more are rendered in bands at the same time.
_WORTH_PARTING = 250_000
# So much more of a moved picture is computed, pixels of the level.
_ROOM = 96


def grid_of(plan: Plan, x: float, y: float, scale: float, width: int, height: int) -> Grid:
    """The grid of a view of a plan's framed picture."""
    return grid_for(plan.warp, x, y, scale, width, height, plan.stock.pyramid.highest)


def render_view(
    plan: Plan,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    cancelled: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:
    """Render ``width`` x ``height`` screen pixels of the framed picture (see `ViewGrid`).

    Returns
    -------
    ndarray (height, width, 3) uint8
        sRGB; the picture's border is continued outside of it. At a scale of 1 with whole ``x``,
        ``y`` the picture's own values are shown.
    """
    return seen(plan, grid_of(plan, x, y, scale, width, height), cancelled)


def seen(
    plan: Plan,
    grid: Grid,
    cancelled: Callable[[], bool] = lambda: False,
    around: Grid | None = None,
    quick: bool = False,
) -> NDArray[np.uint8]:
    """The plan's result on a grid, (height, width, 3) uint8 sRGB.

    ``around`` is a grid of the same scale that this one is a part of (see `Plan.view`). ``quick``:
    a turned frame is sampled coarsely, as something moves.
    """
    if grid.rect.empty:
        return np.full((grid.height, grid.width, 3), 128, np.uint8)
    laid = np.asarray(grid.laid(_in_bands(plan, grid, cancelled, around), quick), np.uint8)
    return _finished(plan, grid, laid)


def _finished(plan: Plan, grid: Grid, laid: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """What passes on the framed picture make of a grid's pixels."""
    passes = framed_passes(plan.edit)
    if not passes:
        return laid
    frame = plan.warp.frame
    place = FramePlace(grid.x, grid.y, grid.scale, frame.width, frame.height)

    def cover(mask: Mask) -> NDArray[np.float32]:
        drawn = plan.stock.masks.draw(mask, grid.rect, grid.level, plan.zones)
        if drawn is None:
            return np.ones(laid.shape[:2], np.float32)
        return np.clip(np.asarray(grid.laid(drawn[..., 0]), np.float32), 0, 1)

    return np.asarray(to_integers(finished(passes, to_float(laid), place, cover), 8), np.uint8)


def _in_bands(
    plan: Plan, grid: Grid, cancelled: Callable[[], bool], around: Grid | None
) -> NDArray[np.uint8]:
    """The grid's part of the level in 8-bit sRGB; a large one in bands at the same time."""
    wide = _computed(plan, around) if around is not None else None

    def band(rect: Rect) -> NDArray[np.uint8]:
        return _on_screen(plan.view(rect, grid.level, cancelled, around=wide))

    rect, parts = _computed(plan, grid), _bands(plan, grid)
    if len(parts) > 1 or rect.width * rect.height < _WORTH_PARTING:
        whole = np.concatenate(at_once(band, parts))
    else:
        image = plan.view(rect, grid.level, cancelled, around=wide)
        whole = np.concatenate(at_once(_on_screen, np.array_split(image, PARTS)))
    return whole if rect == grid.rect else np.ascontiguousarray(whole[grid.rect.within(rect)])


def _on_screen(image: NDArray[np.float32]) -> NDArray[np.uint8]:
    # Working values are sRGB's; what lies beyond is clipped.
    return np.asarray(to_integers(image, 8), np.uint8)


def _computed(plan: Plan, grid: Grid) -> Rect:
    """The part of the level that a view is computed from.

    Where parts of the picture are moved, with some room: another move needs a little more or less of it, and
    nothing but where its parts lie is another then.
    """
    if not plan.shape.fields:
        return grid.rect
    kept = kept_around(plan, grid.rect, grid.level)
    return kept or grid.rect.grow(_ROOM).align(_ROOM).clip(plan.bounds.reduced(grid.level))


def _bands(plan: Plan, grid: Grid) -> list[Rect]:
    """The rectangles that a view is computed in."""
    rect = _computed(plan, grid)
    large = rect.width * rect.height >= _WORTH_PARTING
    # What is moved is looked for in one piece.
    if not large or plan.shape.fields or not plan.worth_parting(rect, grid.level, PARTS):
        return [rect]
    return [Rect(rect.x0, a, rect.x1, b) for a, b in edges(rect.y0, rect.y1, PARTS)]


def foreseen(plan: Plan, grid: Grid, whole: Grid) -> NDArray[np.uint8] | None:
    """What a plan with a standing edit will show, nearly, if that is known at once; None: it isn't.

    ``whole`` is what was shown of the standing edit, which the grid is a part of. Passes above what has changed add what they add to the standing edit (see `previews`); within a
    step of 8 bits or two it is what `seen` gives of the edit itself.
    """
    bands = _bands(plan.standing or plan, whole)
    if grid.rect.empty or not all(plan.stands(r, grid.level) for r in bands):
        return None
    # Bands lie one below the other, each as wide as the whole.
    parts = [(grid.rect.clip(r), r) for r in bands if grid.rect.meets(r)]
    if sum(p.height for p, _ in parts) != grid.rect.height or any(
        p.width != grid.rect.width for p, _ in parts
    ):
        return None
    image = np.concatenate([plan.foreseen(p, grid.level, r) for p, r in parts])
    return _finished(plan, grid, np.asarray(grid.laid(_on_screen(image)), np.uint8))

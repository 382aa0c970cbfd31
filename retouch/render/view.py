"""Pixels for a screen: any part of the picture on the screen's own grid, as sRGB."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from retouch.picture import profile as profiles
from retouch.picture.model import to_integers
from retouch.render.grid import ViewGrid
from retouch.render.renderer import Plan


def grid_of(plan: Plan, x: float, y: float, scale: float, width: int, height: int) -> ViewGrid:
    """The grid of a view of a plan's picture."""
    return ViewGrid(x, y, scale, width, height, plan.bounds, plan.renderer.pyramid.highest)


def render_view(
    plan: Plan,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    cancelled: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:
    """Render ``width`` x ``height`` screen pixels (see `ViewGrid`).

    Returns
    -------
    ndarray (height, width, 3) uint8
        sRGB; the picture's border is continued outside of it. At a scale of 1 with whole ``x``,
        ``y`` the picture's own values are shown.
    """
    return seen(plan, grid_of(plan, x, y, scale, width, height), cancelled)


def seen(
    plan: Plan, grid: ViewGrid, cancelled: Callable[[], bool] = lambda: False
) -> NDArray[np.uint8]:
    """The plan's result on a grid, (height, width, 3) uint8 sRGB."""
    if grid.rect.empty:
        return np.full((grid.height, grid.width, 3), 128, np.uint8)
    image = plan.view(grid.rect, grid.level, cancelled)
    pixels = np.asarray(to_integers(image, 8), np.uint8)
    pixels = np.asarray(profiles.to_srgb(pixels, plan.renderer.pyramid.picture.icc), np.uint8)
    return np.asarray(grid.laid(pixels), np.uint8)

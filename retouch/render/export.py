"""The whole edited picture at full size, in its own depth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.space import settled
from retouch.edit.model import Edit
from retouch.errors import Cancelled, FacesMissing
from retouch.geometry import Rect
from retouch.picture import Picture
from retouch.picture import profile as profiles
from retouch.render.renderer import Renderer

# Rows rendered at a time: bounds memory and gives steps for the progress. Where passes look far
# around, more of them, or each strip would compute most of its neighbours again; but no more
# pixels than this.
_ROWS, _MOST = 512, 40_000_000


def render_whole(
    renderer: Renderer,
    edit: Edit,
    progress: Callable[[float], None] = lambda part: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Picture:
    """Render everything.

    Pixels that no pass changes keep their exact values. ``progress`` is called with 0..1;
    `Cancelled` is raised soon after ``cancelled()`` says so, `FacesMissing` where a mask needs faces
    that aren't known: nothing is left out silently.
    """
    picture = renderer.pyramid.picture
    plan = renderer.plan(edit)
    if plan.trouble is not None:
        raise FacesMissing(plan.trouble)
    out = np.empty_like(picture.pixels)
    most = max(_ROWS, _MOST // picture.width)
    rows = min(max(_ROWS, 8 * plan.reach), most)
    for y in range(0, picture.height, rows):
        if cancelled():
            raise Cancelled("The export was cancelled.")
        rect = Rect(0, y, picture.width, min(y + rows, picture.height))
        own = picture.pixels[rect.y0 : rect.y1]
        before = renderer.pyramid.crop(rect, 0)
        result = plan.view(rect, 0, cancelled)
        out[rect.y0 : rect.y1] = settled(result, before, own, picture.space, picture.bits)
        progress(rect.y1 / picture.height)
    if picture.grey:
        out[...] = out[..., :1]
    return replace(picture, pixels=out)


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

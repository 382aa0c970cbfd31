"""Pixels for a screen: any part of the picture on the screen's own grid, as sRGB."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.picture import profile as profiles
from retouch.picture.model import to_integers
from retouch.render.renderer import Plan


def render_view(
    plan: Plan,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    cancelled: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:
    """Render ``width`` x ``height`` screen pixels.

    Parameters
    ----------
    x, y : float
        Corner of the view in pixels of the original.
    scale : float
        Screen pixels per pixel of the original, above 0 and at most 1. (Enlarging is left to the
        screen.) At 1 with whole ``x``, ``y`` the picture's own values are shown.

    Returns
    -------
    ndarray (height, width, 3) uint8
        sRGB; the picture's border is continued outside of it.
    """
    pyramid = plan.renderer.pyramid
    level = min(max(0, int(np.floor(np.log2(1 / scale) + 1e-9))), pyramid.highest)
    size = 1 << level
    ratio = scale * size  # screen pixels per pixel of the level
    limits = plan.bounds.reduced(level)
    left, top = x / size, y / size
    # Two pixels more on each side for the interpolation.
    rect = Rect(
        int(np.floor(left)) - 2,
        int(np.floor(top)) - 2,
        int(np.ceil(left + width / ratio)) + 2,
        int(np.ceil(top + height / ratio)) + 2,
    ).clip(limits)
    if rect.empty:
        return np.full((height, width, 3), 128, np.uint8)
    image = plan.view(rect, level, cancelled)
    pixels = np.asarray(to_integers(image, 8), np.uint8)
    pixels = np.asarray(profiles.to_srgb(pixels, pyramid.picture.icc), np.uint8)
    step = 1 / ratio
    shift_x, shift_y = left - rect.x0, top - rect.y0
    if step == 1 and shift_x == int(shift_x) and shift_y == int(shift_y):
        ox, oy = int(shift_x), int(shift_y)
        cut = pixels[max(oy, 0) : oy + height, max(ox, 0) : ox + width]
        if cut.shape[:2] == (height, width):
            return np.ascontiguousarray(cut)
    sampling = cv2.INTER_CUBIC
    if step > 1.05:
        # Between two levels: soften just enough that the reduction doesn't alias. Linear sampling
        # softens a little by itself, and takes a fifth of the time.
        pixels = cv2.GaussianBlur(pixels, (0, 0), 0.3 * float(np.sqrt(step * step - 1)))
        sampling = cv2.INTER_LINEAR
    matrix = np.array(
        [[step, 0, shift_x + 0.5 * step - 0.5], [0, step, shift_y + 0.5 * step - 0.5]]
    )
    return cv2.warpAffine(
        pixels,
        matrix,
        (width, height),
        flags=sampling | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )

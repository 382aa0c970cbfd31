"""The pixels of a screen's view: which level of the picture they need, and how they lie on it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.errors import ViewError
from retouch.geometry import Rect
from retouch.picture.pyramid import reduce

# A view is a screen's worth of pixels; this allows an 8K screen.
MOST_PIXELS, LONGEST = 7680 * 4320, 8192
# The whole picture has at least so many pixels on the screen, so that the step between them is bounded.
LEAST_ACROSS = 16
# Corners lie at most so many pixels of the original away.
FAR = 1e7
# Reductions up to this one are taken for none.
_NONE = 1.05


def check_view(x: float, y: float, scale: float, width: int, height: int, bounds: Rect) -> None:
    """Refuse a view of a picture (see `ViewGrid`) that can't be shown, with a `ViewError`."""
    if not all(math.isfinite(n) for n in (x, y, scale)) or not 0 < scale <= 1:
        raise ViewError("A view's scale is above 0 and at most 1.")
    if scale * max(bounds.width, bounds.height) < min(LEAST_ACROSS, bounds.width, bounds.height):
        raise ViewError(f"At this scale the picture would be smaller than {LEAST_ACROSS} pixels.")
    if min(width, height) < 1 or max(width, height) > LONGEST or width * height > MOST_PIXELS:
        raise ViewError(
            f"A view has 1 to {LONGEST} pixels on each side, {MOST_PIXELS // 1_000_000} million in all."
        )
    if max(abs(x), abs(y)) > FAR:
        raise ViewError("This view lies too far away from the picture.")


def further(
    area: NDArray[Any], rect: Rect, level: int, fitting: int
) -> tuple[NDArray[Any], Rect, int]:
    """Pixels of ``rect`` of a level, halved on to the ``fitting`` one where that is smaller.

    So that little is left to soften. Returns the pixels, where they lie, and their level.
    """
    more = fitting - level
    if more <= 0:
        return area, rect, level
    wide = rect.align(1 << more)
    return reduce(_continued(area, rect, wide), more), wide.reduced(more), fitting


def softened(area: NDArray[Any], step: float) -> NDArray[Any]:
    """An area softened just enough that taking every ``step``-th pixel of it doesn't alias."""
    if step <= _NONE:
        return area
    return np.asarray(cv2.GaussianBlur(area, (0, 0), 0.3 * float(np.sqrt(step * step - 1))))


@dataclass(frozen=True)
class ViewGrid:
    """``width`` x ``height`` screen pixels over a picture.

    Parameters
    ----------
    x, y : float
        Corner of the view in pixels of the original.
    scale : float
        Screen pixels per pixel of the original, above 0 and at most 1. (Enlarging is left to the
        screen.)
    bounds : Rect
        The whole picture.
    highest : int
        The last level that the picture has.

    Raises
    ------
    ViewError
        For a view without a size, or so small or large or far away that nothing could be seen.
    """

    x: float
    y: float
    scale: float
    width: int
    height: int
    bounds: Rect
    highest: int

    def __post_init__(self) -> None:
        check_view(self.x, self.y, self.scale, self.width, self.height, self.bounds)

    @cached_property
    def level(self) -> int:
        """The level that has as many pixels as the screen, or up to twice as many."""
        return min(self._fitting, self.highest)

    @cached_property
    def _fitting(self) -> int:
        """The level that would fit, were there any number of them."""
        return max(0, math.floor(math.log2(1 / self.scale) + 1e-9))

    @property
    def step(self) -> float:
        """Pixels of the level per screen pixel."""
        return 1 / (self.scale * (1 << self.level))

    @cached_property
    def rect(self) -> Rect:
        """What the view needs of the level; two pixels more on each side for interpolating."""
        size, step = 1 << self.level, self.step
        left, top = self.x / size, self.y / size
        return Rect(
            math.floor(left) - 2,
            math.floor(top) - 2,
            math.ceil(left + self.width * step) + 2,
            math.ceil(top + self.height * step) + 2,
        ).clip(self.bounds.reduced(self.level))

    def laid(self, area: NDArray[Any], quick: bool = False) -> NDArray[Any]:
        """Pixels of ``rect`` on the screen's own; the picture's border is continued outside.

        Where both grids coincide the values are passed on as they are. (``quick`` makes no
        difference here; it does where a frame is turned.)
        """
        area, corner, level = further(area, self.rect, self.level, self._fitting)
        size = 1 << level
        step = 1 / (self.scale * size)
        shift_x, shift_y = self.x / size - corner.x0, self.y / size - corner.y0
        if step == 1 and shift_x == int(shift_x) and shift_y == int(shift_y):
            ox, oy = int(shift_x), int(shift_y)
            cut = area[max(oy, 0) : oy + self.height, max(ox, 0) : ox + self.width]
            if cut.shape[:2] == (self.height, self.width):
                return np.ascontiguousarray(cut)
        # Linear sampling softens a little by itself, and takes a fifth of the time.
        sampling = cv2.INTER_LINEAR if step > _NONE else cv2.INTER_CUBIC
        area = softened(area, step)
        matrix = np.array(
            [[step, 0, shift_x + 0.5 * step - 0.5], [0, step, shift_y + 0.5 * step - 0.5]]
        )
        return cv2.warpAffine(
            np.ascontiguousarray(area),
            matrix,
            (self.width, self.height),
            flags=sampling | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )


def _continued(area: NDArray[Any], rect: Rect, wide: Rect) -> NDArray[Any]:
    """Pixels of ``rect`` with their border continued to a larger rectangle."""
    sides = (rect.y0 - wide.y0, wide.y1 - rect.y1, rect.x0 - wide.x0, wide.x1 - rect.x1)
    return np.asarray(cv2.copyMakeBorder(area, *sides, cv2.BORDER_REPLICATE))

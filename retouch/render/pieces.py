"""The pieces of a mask that lie so far apart that each is made by itself: two brows, two eyes."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Array = NDArray[np.float32]

# Pieces are told on cells of so many pixels to a side; more than so many aren't taken apart.
_CELL, _MOST = 8, 24


def pieces(share: Array, reach: int) -> list[Rect]:
    """Rectangles that hold all of a mask and don't meet.

    Parameters
    ----------
    share : ndarray (h, w, 1)
        What the mask lets through, 0 where nothing.
    reach : int
        Pixels around each rectangle that are worked on as well: where two of them together cost no
        more than apart, they are one.

    Returns
    -------
    list of Rect
        Within (0, 0, w, h); none where the mask lets nothing through.
    """
    there = (share[..., 0] > 0).view(np.uint8)
    whole = _bounds(there)
    if whole.empty:
        return []
    own = there[whole.within(Rect(0, 0, there.shape[1], there.shape[0]))]
    size = (-(-own.shape[1] // _CELL), -(-own.shape[0] // _CELL))
    padded = cv2.copyMakeBorder(
        own,
        0,
        size[1] * _CELL - own.shape[0],
        0,
        size[0] * _CELL - own.shape[1],
        cv2.BORDER_CONSTANT,
    )
    # One pixel of a cell is enough for it.
    cells = (cv2.resize(padded * 255, size, interpolation=cv2.INTER_AREA) > 0).view(np.uint8)
    count, _, stats, _ = cv2.connectedComponentsWithStats(cells, connectivity=8)
    if not 2 < count <= _MOST + 1:
        return [whole]
    found = []
    for x, y, w, h, _ in stats[1:].tolist():
        box = Rect(x * _CELL, y * _CELL, (x + w) * _CELL, (y + h) * _CELL).clip(
            Rect(0, 0, own.shape[1], own.shape[0])
        )
        found.append(box.shift(whole.x0, whole.y0))
    return _merged(found, reach)


def _bounds(there: NDArray[np.uint8]) -> Rect:
    x, y, w, h = cv2.boundingRect(there)
    return Rect(x, y, x + w, y + h)


def _merged(rects: list[Rect], reach: int) -> list[Rect]:
    """Those that meet or cost no more together made one, until none are left that do."""

    def cost(r: Rect) -> int:
        return (r.width + 2 * reach) * (r.height + 2 * reach)

    found: list[Rect] = []
    for rect in rects:
        # What it is joined with may now meet another.
        while True:
            other = next(
                (o for o in found if o.meets(rect) or cost(o.union(rect)) <= cost(o) + cost(rect)),
                None,
            )
            if other is None:
                break
            found.remove(other)
            rect = rect.union(other)
        found.append(rect)
    return found

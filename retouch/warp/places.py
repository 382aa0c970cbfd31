"""Values of a picture at any number of places."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

# OpenCV's pictures are less wide than 32768 pixels.
_WIDE = 8192


def at_places(
    image: NDArray[np.float32],
    x: NDArray[np.float32],
    y: NDArray[np.float32],
    beyond: float | None = None,
) -> NDArray[np.float32]:
    """Values (n,) of an array (h, w) at places between its elements, the first of which is at 0.

    ``beyond``: the value outside of it; None: that of its border.
    """  # fmt: skip
    rows = -(-len(x) // _WIDE)
    across, down = (np.pad(v, (0, rows * _WIDE - len(v))).reshape(rows, _WIDE) for v in (x, y))
    border = cv2.BORDER_REPLICATE if beyond is None else cv2.BORDER_CONSTANT
    out = cv2.remap(
        image, across, down, cv2.INTER_LINEAR, borderMode=border, borderValue=beyond or 0.0
    )
    return np.asarray(out.reshape(-1)[: len(x)], np.float32)

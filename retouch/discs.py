"""Round structuring elements of mathematical morphology (J. Serra, *Image Analysis and Mathematical Morphology*, 1982)."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray


def disc(radius: float, least: int = 1) -> NDArray[np.uint8]:
    """A round structuring element, (n, n) of 0 and 1 with n odd.

    ``radius`` in pixels is rounded to whole ones, ``least`` at least; the middle counts apart, so it is twice
    that and one across.
    """
    side = 2 * max(least, round(radius)) + 1
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)), np.uint8)


def grown(mask: NDArray[np.bool_], radius: float) -> NDArray[np.bool_]:
    """A mask (h, w) and what lies within ``radius`` pixels of it, as `disc` rounds them."""
    return cv2.dilate(mask.astype(np.uint8), disc(radius)) > 0

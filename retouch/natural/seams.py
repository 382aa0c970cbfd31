"""Edges in a result that the original didn't have: of masks, of brushes, of pieces laid in."""

from __future__ import annotations

import cv2
import numpy as np

from retouch.natural.pairs import Array, Mask, Pair
from retouch.zone_names import ALL_SKIN

# An edge is a step over so many mm (sigma), of so many L* a mm; one that was there may have got so much
# steeper, and may have moved by so many mm.
_STEP_MM, _STEEP, _STEEPER, _MOVED_MM = 0.5, 2.2, 0.7, 1.2
# Beside an end of its zone skin has edges of its own, so many mm wide.
_RIM_MM = 1.5


def seams(pair: Pair) -> tuple[float, Mask]:
    """How long the longest new edge on skin or behind the head is, in mm, and where it is.

    The slope of lightness after is compared with the steepest slope near the same place before. Length is
    the diagonal of what hangs together.
    """
    mm = pair.px_per_mm
    was, now = (_slope(lab[..., 0], mm) for lab in pair.labs)
    reach = 2 * max(1, round(_MOVED_MM * mm)) + 1
    before = cv2.dilate(was, np.ones((reach, reach), np.uint8))
    where = _smooth(pair, ALL_SKIN) | _smooth(pair, ("background",))
    fresh = (now > np.maximum(np.float32(_STEEP), before * np.float32(1 + _STEEPER))) & where
    closed = cv2.morphologyEx(fresh.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    n, labels, stats, _ = cv2.connectedComponentsWithStats(closed, connectivity=8)
    if n < 2:
        return 0.0, fresh & False
    lengths = np.hypot(stats[1:, cv2.CC_STAT_WIDTH], stats[1:, cv2.CC_STAT_HEIGHT])
    longest = int(lengths.argmax())
    return float(lengths[longest]) / mm, labels == longest + 1


def _slope(light: Array, mm: float) -> Array:
    """How steep lightness is, L* a mm."""
    soft = cv2.GaussianBlur(light, (0, 0), _STEP_MM * mm)
    dx, dy = (cv2.Sobel(soft, cv2.CV_32F, *way, ksize=3) for way in ((1, 0), (0, 1)))
    return np.asarray(np.hypot(dx, dy) / 8 * mm, np.float32)


def _smooth(pair: Pair, zones: tuple[str, ...]) -> Mask:
    rim = 2 * max(1, round(_RIM_MM * pair.px_per_mm)) + 1
    return cv2.erode(pair.inside(*zones).astype(np.uint8), np.ones((rim, rim), np.uint8)) > 0

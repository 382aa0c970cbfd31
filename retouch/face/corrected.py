"""Zones as the user has corrected them: by brush, by colour, inverted, softened."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.colour.likeness import edge_tolerance, nearness
from retouch.compiled import compiled
from retouch.edit.model import Touch
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.zone_names import ALL_SKIN, members

Array = NDArray[np.float32]
# Passes on skin act on stubble by so much less.
_GENTLY = np.float32(0.3)
# Gives the original's encoded pixels of a rectangle as (rows, cols, 3) float32.
Reader = Callable[[Rect, tuple[int, int]], Array]


def zone_mask(
    analysis: Analysis | None,
    name: str,
    rect: Rect,
    shape: tuple[int, int],
    touches: Sequence[Touch] = (),
    read: Reader | None = None,
    face: int | None = None,
    px_per_mm: float = 1.0,
) -> Array:
    """A zone with the user's corrections.

    Parameters
    ----------
    analysis : Analysis or None
        Without one, only what was painted by hand is in the zone.
    name : str
        Of a zone, or of several together (`names.ZONE_NAMES`).
    rect : Rect
        Of the original; ``shape`` (rows, cols) is what is wanted of it.
    touches : sequence of Touch
        Of the kind ``zones``, in their order; those of other zones are passed over.
    read : callable, optional
        Needed for touches that look at colours.
    face : int, optional
        Only of this person.

    Returns
    -------
    ndarray (rows, cols) float32, 0..1
    """
    parts = members(name)
    mask = (
        analysis.mask(parts, rect, shape, face)
        if analysis is not None
        else np.zeros(shape, np.float32)
    )
    if analysis is not None and parts[0] in ALL_SKIN:
        # Where it isn't sure what is skin, passes stay off; stubble is treated gently. What is
        # painted by hand counts wholly.
        _spare(mask, analysis.mask(("unsure",), rect, shape, face), np.float32(1))
        _spare(mask, analysis.mask(("stubble",), rect, shape, face), _GENTLY)
    scale = shape[1] / max(rect.width, 1)
    for touch in touches:
        of = touch.values["zone"]
        if of != name and of not in parts:
            continue
        way = touch.values["way"]
        if way == "invert":
            mask = 1 - mask
        elif way == "feather":
            sigma = float(touch.values["feather_mm"]) * px_per_mm * scale / 2.56
            mask = cv2.GaussianBlur(mask, (0, 0), sigma) if sigma > 0.3 else mask
        else:
            share = (
                _coloured(touch, rect, shape, read)
                if way == "colour"
                else _brushed(touch, rect, shape, read)
            )
            mask = np.maximum(mask, share) if touch.values["add"] else np.minimum(mask, 1 - share)
    return np.asarray(mask, np.float32)


@compiled
def _spare(mask: Array, other: Array, part: np.float32) -> None:
    """Take so much of a mask away where another one is, in place."""
    h, w = mask.shape
    for i in range(h):
        for j in range(w):
            mask[i, j] *= np.float32(1) - part * other[i, j]


def _samples(touch: Touch, read: Reader) -> Array:
    """The colours under a touch's path, (n, 3) CIELAB."""
    out = []
    for x, y in touch.path[:: max(1, len(touch.path) // 24)]:
        spot = Rect(int(x) - 2, int(y) - 2, int(x) + 3, int(y) + 3)
        out.append(to_lab(read(spot, (5, 5))).reshape(-1, 3).mean(0))
    return np.asarray(out, np.float32)


def _coloured(touch: Touch, rect: Rect, shape: tuple[int, int], read: Reader | None) -> Array:
    if read is None:
        return np.zeros(shape, np.float32)
    tolerance = float(touch.values["tolerance"])
    return nearness(to_lab(read(rect, shape)), _samples(touch, read), tolerance)


def _brushed(touch: Touch, rect: Rect, shape: tuple[int, int], read: Reader | None) -> Array:
    footprint = Footprint(touch.path, float(touch.values["radius_px"]))
    out = np.zeros(shape, np.float32)
    if not footprint.bounds.meets(rect):
        return out
    kx, ky = shape[1] / rect.width, shape[0] / rect.height
    xs = (np.arange(shape[1], dtype=np.float32) + 0.5) / kx + rect.x0
    ys = (np.arange(shape[0], dtype=np.float32) + 0.5) / ky + rect.y0
    distance = footprint.distance(xs[None, :], ys[:, None])
    out = footprint.coverage(distance, float(touch.values["softness"]) / 100)
    edges = float(touch.values["edges"]) / 100
    if edges > 0 and read is not None:
        like = nearness(to_lab(read(rect, shape)), _samples(touch, read), edge_tolerance(edges))
        out = out * like
    return np.asarray(out, np.float32)

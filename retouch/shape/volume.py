"""Hair with more or less volume: outwards along the head's outline, the face left where it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.fill import poisson
from retouch.geometry import Rect
from retouch.shape.composed import Composed, from_places, nodes_of
from retouch.steps import smooth_step
from retouch.warp.field import Field
from retouch.warp.steps import Points

_Line = Sequence[tuple[float, float]]

# Beyond the hair the background gives way over so many mm, and is where it was further out.
_GIVES_MM = 45.0
# Below the chin volume fades over so many mm: there hair lies on the shoulders.
_HANGS_MM = 60.0
# Hair is so thick (mm) before it goes outwards in full; gaps up to so wide belong to the head.
_THICK_MM, _CLOSED_MM = 22.0, 8.0
# How much goes along is worked out on so many cells along the longer side.
_CELLS = 140
# Nodes lie so far apart at most (mm).
_NODE_MM = 2.0


@dataclass(frozen=True)
class Volume:
    """Millimetres outwards, or inwards below 0: above the head, and on the person's right and left."""

    top: float
    right: float
    left: float

    @property
    def none(self) -> bool:
        """Whether nothing is moved."""
        return not (self.top or self.right or self.left)


def volume_field(
    hair: _Line, face: _Line, px_per_mm: float, volume: Volume, below: Composed
) -> Field | None:
    """The field of a head of hair on top of what was moved before; None: nothing moves.

    What lies on the hair's outline goes outwards from the middle of the face as one, strands and edge
    with it; towards the face and away from the hair that fades.

    Parameters
    ----------
    hair, face : closed lines of (x, y)
        Outlines in pixels of the original.
    """
    if volume.none:
        return None
    own, oval = (below.forth(np.asarray(line, np.float64)) for line in (hair, face))
    both = np.concatenate([own, oval])
    soft = _GIVES_MM * px_per_mm
    low, high = both.min(0) - soft, both.max(0) + soft
    rect = Rect(*(int(v) for v in (*np.floor(low), *np.ceil(high))))
    step = float(2.0 ** max(0, np.floor(np.log2(max(_NODE_MM * px_per_mm, 1.0)))))
    x, y, places = nodes_of(rect, step)
    middle = oval.mean(0)
    away = places - middle
    unit = away / np.maximum(np.hypot(away[..., 0], away[..., 1]), 1.0)[..., None]
    # The person's right is on the left of the picture.
    across = np.where(unit[..., 0] < 0, volume.right, volume.left) * unit[..., 0] ** 2
    up = volume.top * np.clip(-unit[..., 1], 0, 1) ** 2
    hangs = np.clip(1 - (places[..., 1] - oval[:, 1].max()) / (_HANGS_MM * px_per_mm), 0, 1)
    weight = _weight(own, oval, (x, y), step, places.shape[:2], px_per_mm)
    far = (across + up) * px_per_mm * weight * hangs
    return from_places(x, y, step, places - unit * far[..., None])


def _weight(
    hair: Points,
    face: Points,
    corner: tuple[float, float],
    step: float,
    shape: tuple[int, ...],
    px_per_mm: float,
) -> NDArray[np.float64]:
    """How much each node goes along: all of it on the head's outline where there is hair, nothing in the
    face and far away, and in between as smoothly as can be (Laplace's equation, on coarse cells).
    """  # fmt: skip
    k = min(1.0, _CELLS / max(shape))
    cells = max(8, round(shape[0] * k)), max(8, round(shape[1] * k))
    wide = step / k
    of_hair, of_face = (_drawn(line, corner, wide, cells) for line in (hair, face))
    mm = px_per_mm / wide
    head = cv2.morphologyEx(of_hair | of_face, cv2.MORPH_CLOSE, disc(_CLOSED_MM * mm))
    from_face = cv2.distanceTransform(1 - of_face, cv2.DIST_L2, 5) / mm
    beyond = cv2.distanceTransform(1 - head, cv2.DIST_L2, 5) / mm
    near_hair = cv2.distanceTransform(1 - of_hair, cv2.DIST_L2, 5) / mm < 1.5 / mm
    rim = (head - cv2.erode(head, np.ones((3, 3), np.uint8)) > 0) & near_hair
    start = np.zeros(cells, np.float32)
    # What is thin can't be much fuller: towards the face the rim goes less far.
    start[rim] = smooth_step(from_face[rim] / _THICK_MM)
    known = rim | (of_face > 0) | (beyond > _GIVES_MM)
    known[[0, -1]] = True
    known[:, [0, -1]] = True
    solved = poisson.membrane(start[..., None], ~known)
    # The corner of a harmonic sheet on the rim is rounded.
    soft = cv2.GaussianBlur(solved[..., 0], (0, 0), 1.2)
    soft[of_face > 0] = 0
    out = cv2.resize(soft, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC)
    return np.asarray(np.clip(out, 0, 1), np.float64)


def _drawn(
    line: Points, corner: tuple[float, float], step: float, shape: tuple[int, ...]
) -> NDArray[np.uint8]:
    out = np.zeros(shape, np.uint8)
    at = np.round((line - corner) / step * 16).astype(np.int32)
    cv2.fillPoly(out, [at], 1, cv2.LINE_8, 4)
    return out

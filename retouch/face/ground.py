"""Where on a person marks are looked for, and where what is found is only asked about."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.discs import disc
from retouch.face import landmarks as lm
from retouch.face.find import Face
from retouch.face.zones import Layer, combine
from retouch.geometry import Rect
from retouch.zone_names import ALL_SKIN

Array = NDArray[np.float32]

# Marks keep this distance from what isn't skin.
_APART_MM = 1.5
_HAIRY = ("lashes", "brows", "hair", "beard", "eye_whites", "irises", "clothing", "worn")
# Here a spot isn't told from what belongs to the place surely enough to heal it unasked: folds, hairs,
# and on the body cloth and its shadows.
_ASKED = ("ears", "stubble", "neck", "other_skin")
# Folds are this wide to both sides of the mesh's line through them; so near to an edge of the
# skin, shadow and hairs make spots of their own.
_FOLD_MM, _EDGE_MM = 2.6, 3.0


def mark_ground(
    layers: list[Layer], rect: Rect, shape: tuple[int, int], number: int, face: Face
) -> Array:
    """Where marks are looked for: skin with some distance to hairs, lids, nostrils and cloth.

    Returns
    -------
    ndarray (rows, cols) float32, 0..1, over ``rect``
    """
    skin = combine(layers, ALL_SKIN, rect, shape, number)
    scale = shape[1] / rect.width
    other = (combine(layers, _HAIRY, rect, shape) > 0.35).astype(np.uint8)
    for nostril in (lm.NOSTRIL_R, lm.NOSTRIL_L):
        outline = (face.points[list(nostril), :2] - [rect.x0, rect.y0]) * scale
        cv2.fillPoly(other, [np.round(outline).astype(np.int32)], 1)
    return np.asarray(skin * (1 - _grown(other, _APART_MM, face, scale)), np.float32)


def mark_doubt(
    layers: list[Layer], rect: Rect, shape: tuple[int, int], number: int, face: Face
) -> Array:
    """Where a spot is only asked about: folds, wings of the nose, lids, ears, neck, edges of the skin.

    A retouching program that heals half a smile fold away does worse than one that asks.

    Returns
    -------
    ndarray (rows, cols) float32, 0 or 1, over ``rect``
    """
    scale = shape[1] / rect.width
    points = (face.points[:, :2] - [rect.x0, rect.y0]) * scale
    out = np.zeros(shape, np.uint8)
    width = max(1, round(2 * _FOLD_MM * face.scale.px_per_mm * scale))
    for line in lm.FOLDS:
        cv2.polylines(out, [np.round(points[list(line)]).astype(np.int32)], False, 1, width)
    out |= (combine(layers, _ASKED, rect, shape, number) > 0.4).astype(np.uint8)
    skin = combine(layers, ALL_SKIN, rect, shape, number)
    out |= _grown((skin < 0.6).astype(np.uint8), _EDGE_MM, face, scale)
    return out.astype(np.float32)


def _grown(mask: NDArray[np.uint8], by_mm: float, face: Face, scale: float) -> NDArray[np.uint8]:
    by = by_mm * face.scale.px_per_mm * scale
    return np.asarray(cv2.dilate(mask, disc(by)), np.uint8)

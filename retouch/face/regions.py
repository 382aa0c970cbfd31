"""Regions of a face that the mesh gives: lids, lash lines, where blush, shade and highlight lie.

Unlike zones they don't follow colours: they are drawn from the mesh with soft edges, in millimetres of
the face, and lie on its skin.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face.analysis import Analysis
from retouch.face.find import Face
from retouch.face.zones import Layer, combine
from retouch.geometry import Rect, union_all
from retouch.zone_names import SKIN_OF_FACE

Array = NDArray[np.float32]
Chain = tuple[int, ...]

# Drawn so many times as fine as its pixels, with fractions of so many bits.
_FINER, _SHIFT = 4, 4
# Soft edges are kept in so many pixels (sigma).
_SIGMA = 3.0


@dataclass(frozen=True)
class Region:
    """Areas through points of the mesh, or lines along some ``width_mm`` wide.

    ``soft_mm``: its edge fades over so much to each side. ``skin``: it lies on the face's skin alone.
    """

    areas: tuple[Chain, ...] = ()
    lines: tuple[Chain, ...] = ()
    width_mm: float = 0.0
    soft_mm: float = 1.0
    skin: bool = True


# Points of the mesh, the person's right side first.
_LID_ABOVE = (
    (33, 246, 161, 160, 159, 158, 157, 173, 133, 189, 221, 222, 223, 224, 225, 113),
    (263, 466, 388, 387, 386, 385, 384, 398, 362, 413, 441, 442, 443, 444, 445, 342),
)
_LID_BELOW = (
    (33, 7, 163, 144, 145, 153, 154, 155, 133, 112, 26, 22, 23, 24, 110, 25),
    (263, 249, 390, 373, 374, 380, 381, 382, 362, 341, 256, 252, 253, 254, 339, 255),
)
_LASHES_ABOVE = ((33, 246, 161, 160, 159, 158, 157, 173), (263, 466, 388, 387, 386, 385, 384, 398))
_WATERLINE = ((33, 7, 163, 144, 145, 153, 154, 155), (263, 249, 390, 373, 374, 380, 381, 382))
_BLUSH = ((116, 117, 118, 101, 36, 205, 187, 123), (345, 346, 347, 330, 266, 425, 411, 352))
_CHEEKBONE = ((116, 117, 118, 119), (345, 346, 347, 348))
_HOLLOW = ((137, 123, 50, 205, 207, 192, 177), (366, 352, 280, 425, 427, 416, 401))
_BRIDGE = ((6, 197, 195, 5),)

REGIONS: dict[str, Region] = {
    "lid_above": Region(areas=_LID_ABOVE, soft_mm=3.0),
    "lid_below": Region(areas=_LID_BELOW, soft_mm=2.0),
    "lash_line": Region(lines=_LASHES_ABOVE, width_mm=1.3, soft_mm=0.5, skin=False),
    "waterline": Region(lines=_WATERLINE, width_mm=1.0, soft_mm=0.4, skin=False),
    "blush": Region(areas=_BLUSH, soft_mm=11.0),
    "cheekbone": Region(lines=_CHEEKBONE, width_mm=7.0, soft_mm=6.0),
    "hollow": Region(areas=_HOLLOW, soft_mm=10.0),
    "bridge": Region(lines=_BRIDGE, width_mm=3.5, soft_mm=2.5),
}


def layers(analysis: Analysis, name: str, face: int | None = None) -> list[Layer]:
    """A region of one face, or of everyone's, each as fine as its soft edge asks for."""
    return [
        _layer(name, n, one) for n, one in enumerate(analysis.faces) if face is None or n == face
    ]


def extent(analysis: Analysis, name: str, face: int | None) -> Rect:
    """A rectangle outside of which a region covers nothing; empty where there is no face."""
    return union_all([a.rect for a in layers(analysis, name, face)])


def cover(
    analysis: Analysis, name: str, rect: Rect, shape: tuple[int, int], face: int | None = None
) -> Array:
    """A region over a rectangle of the original on (rows, cols), 0..1; ``face`` None: everyone's."""
    out = combine(layers(analysis, name, face), (name,), rect, shape)
    if REGIONS[name].skin and out.any():
        out = out * analysis.mask(SKIN_OF_FACE, rect, shape, face)
    return np.asarray(out, np.float32)


def _layer(name: str, number: int, face: Face) -> Layer:
    region, scale = REGIONS[name], face.scale.px_per_mm
    index = [p for chain in (*region.areas, *region.lines) for p in chain]
    (x0, y0), (x1, y1) = (f(face.points[index, :2], 0) for f in (np.min, np.max))
    sigma = region.soft_mm * scale / 2
    room = 3 * sigma + region.width_mm * scale / 2 + 2
    rect = Rect(int(x0 - room), int(y0 - room), int(x1 + room) + 2, int(y1 + room) + 2)
    k = min(1.0, _SIGMA / sigma)
    size = (max(2, round(rect.width * k)), max(2, round(rect.height * k)))
    kx, ky = size[0] / rect.width, size[1] / rect.height
    big = np.zeros((size[1] * _FINER, size[0] * _FINER), np.uint8)
    points = (face.points[:, :2] - [rect.x0, rect.y0]) * [kx, ky]
    fixed = np.round((points * _FINER - 0.5) * (1 << _SHIFT)).astype(np.int32)
    for chain in region.areas:
        cv2.fillPoly(big, [fixed[list(chain)]], 255, cv2.LINE_AA, _SHIFT)
    wide = max(1, round(region.width_mm * scale * k * _FINER))
    for chain in region.lines:
        cv2.polylines(big, [fixed[list(chain)]], False, 255, wide, cv2.LINE_AA, _SHIFT)
    drawn = cv2.resize(big, size, interpolation=cv2.INTER_AREA)
    return Layer(name, number, rect, cv2.GaussianBlur(drawn, (0, 0), max(sigma * k, 0.4)))

"""A part of the picture at a working size, with a face's points in its pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.face import landmarks as lm
from retouch.face.find import Face
from retouch.geometry import Rect
from retouch.steps import smooth_step

Array = NDArray[np.float32]
Pixels = NDArray[np.uint8]


@dataclass(frozen=True)
class Frame:
    """``pixels`` (h, w, 3) uint8 sRGB of ``rect`` reduced by ``scale``; ``points`` (478, 2)."""

    rect: Rect
    scale: float
    pixels: Pixels
    points: Array
    face: Face

    @property
    def shape(self) -> tuple[int, int]:
        return int(self.pixels.shape[0]), int(self.pixels.shape[1])

    @property
    def unit(self) -> float:
        """The height of the face, hairline to chin, in pixels of the frame."""
        return self.face.height * self.scale

    def upright(self) -> tuple[Array, Array]:
        """Face coordinates of every pixel: across and down from between the eyes, in units."""
        middle = self.points[list(lm.CORNERS)].mean(0)
        roll = np.radians(self.face.pose.roll)
        ys, xs = np.mgrid[: self.shape[0], : self.shape[1]].astype(np.float32) + np.float32(0.5)
        dx, dy = (xs - middle[0]) / self.unit, (ys - middle[1]) / self.unit
        c, s = np.float32(np.cos(roll)), np.float32(np.sin(roll))
        return c * dx + s * dy, c * dy - s * dx

    def polygon(self, indices: Sequence[int]) -> Array:
        """1 inside the outline through those points of the mesh, antialiased, (h, w) float32."""
        return fill(self.shape, self.points[list(indices)])


def fill(shape: tuple[int, int], outline: Array) -> Array:
    """An outline (n, 2) filled with 1, antialiased by a third of a pixel."""
    big = np.zeros((shape[0] * 2, shape[1] * 2), np.uint8)
    cv2.fillPoly(big, [np.round(outline * 2 * 16 - 8).astype(np.int32)], 255, cv2.LINE_AA, 4)
    small = cv2.resize(big, (shape[1], shape[0]), interpolation=cv2.INTER_AREA)
    return small.astype(np.float32) / 255


def distance(mask: Array) -> Array:
    """Signed distance in pixels to the edge of a mask at 0.5: positive inside."""
    inside = (mask > 0.5).astype(np.uint8)
    return cv2.distanceTransform(inside, cv2.DIST_L2, 3) - cv2.distanceTransform(
        1 - inside, cv2.DIST_L2, 3
    )


def ramp(values: NDArray[Any], width: float) -> Array:
    """0 … 1 as values go from -width to +width, smooth; 0.5 at 0."""
    return np.asarray(smooth_step(values / (2 * width) + 0.5), np.float32)


def cut(picture: Pixels, face: Face, rect: Rect, scale: float) -> Frame:
    """The frame of ``rect`` (inside the picture) at ``scale``, at most 1."""
    part = picture[rect.y0 : rect.y1, rect.x0 : rect.x1]
    if scale < 1:
        size = (max(1, round(rect.width * scale)), max(1, round(rect.height * scale)))
        part = cv2.resize(part, size, interpolation=cv2.INTER_AREA)
        sx, sy = size[0] / rect.width, size[1] / rect.height
    else:
        scale = sx = sy = 1.0
    points = (face.points[:, :2] - [rect.x0, rect.y0]) * [sx, sy]
    return Frame(rect, scale, np.ascontiguousarray(part), points.astype(np.float32), face)

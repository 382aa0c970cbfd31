"""A face before and after, on the pixels that readings are taken from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from retouch.colour.lab import to_lab
from retouch.edit.model import Edit
from retouch.face.analysis import Analysis
from retouch.geometry import Rect
from retouch.render import Renderer
from retouch.zone_names import ALL_SKIN, SKIN_OF_FACE

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]

# Gives working values (h, w, 3) of a rectangle in pixels of a level.
Result = Callable[[Rect, int], Array]
# Pixels to the millimetre that pores need to be seen by; more aren't looked at.
LEAST_SCALE = 6.0
SURE = 0.8
# A zone with fewer pixels says nothing.
LEAST_PIXELS = 400
# Every so many pixels are enough for a median.
EACH = 7
# What is looked at around a face, in parts of its box: hair, collar.
_AROUND = 0.6
# Blurs wider than this are made on a reduced picture, which is still so fine for them.
_FINE_ENOUGH = 4.0


@dataclass(frozen=True, eq=False)
class Pair:
    """One face in two pictures that lie on one another.

    Parameters
    ----------
    before, after : ndarray (h, w, 3) float32
        Working values (encoded sRGB), 0..1.
    analysis : Analysis
        Of the original.
    face : int
    rect : Rect
        What they show, in pixels of the original.
    """

    before: Array
    after: Array
    analysis: Analysis
    face: int
    rect: Rect
    _masks: dict[tuple[str, ...], Mask] = field(default_factory=dict, repr=False)
    # What several readings are made of.
    kept: dict[str, Array] = field(default_factory=dict, repr=False)

    @property
    def px_per_mm(self) -> float:
        """Of the pixels looked at."""
        scale = self.analysis.faces[self.face].scale.px_per_mm
        return float(scale * self.before.shape[1] / self.rect.width)

    @cached_property
    def labs(self) -> tuple[Array, Array]:
        """Both in CIELAB."""
        return to_lab(self.before), to_lab(self.after)

    @cached_property
    def greys(self) -> tuple[Array, Array]:
        """Their green channels, where noise is least."""
        return tuple(np.ascontiguousarray(a[..., 1]) for a in (self.before, self.after))  # type: ignore[return-value]

    def inside(self, *zones: str) -> Mask:
        """Where this face's zones surely are."""
        if zones not in self._masks:
            shape = self.before.shape[:2]
            self._masks[zones] = self.analysis.mask(zones, self.rect, shape, self.face) > SURE
        return self._masks[zones]

    @property
    def skin(self) -> Mask:
        """The face's skin."""
        return self.inside(*SKIN_OF_FACE)

    @property
    def body(self) -> Mask:
        """Skin that isn't the face's."""
        return self.inside(*(z for z in ALL_SKIN if z not in SKIN_OF_FACE))

    def box_of(self, where: Mask) -> Rect:
        """The rectangle of the original around marked pixels; the whole face where there are none."""
        ys, xs = np.nonzero(where)
        if not len(ys):
            return self.rect
        kx = self.rect.width / where.shape[1]
        ky = self.rect.height / where.shape[0]
        return Rect(
            int(self.rect.x0 + xs.min() * kx), int(self.rect.y0 + ys.min() * ky),
            int(self.rect.x0 + (xs.max() + 1) * kx) + 1, int(self.rect.y0 + (ys.max() + 1) * ky) + 1,
        )  # fmt: skip


def broad(image: Array, sigma: float) -> Array:
    """A Gaussian blur; a wide one on a reduced picture, since nothing finer than a part of it is left."""
    k = 1 << max(0, int(np.floor(np.log2(max(sigma / _FINE_ENOUGH, 1.0)))))
    if k == 1:
        return np.asarray(cv2.GaussianBlur(image, (0, 0), sigma), np.float32)
    h, w = image.shape[:2]
    small = cv2.resize(image, (max(1, w // k), max(1, h // k)), interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(small, (0, 0), sigma / k)
    return np.asarray(cv2.resize(soft, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def level_of(px_per_mm: float, highest: int, least: float = LEAST_SCALE) -> int:
    """The highest level with ``least`` pixels to the millimetre: by default pores are still seen there."""
    level = 0
    while px_per_mm / (2 << level) >= least and level < highest:
        level += 1
    return level


def around(analysis: Analysis, face: int, bounds: Rect) -> Rect:
    """What is looked at of a face, in pixels of the original."""
    x, y, w, h = analysis.faces[face].box
    margin = _AROUND * max(w, h)
    return Rect(int(x - margin), int(y - margin), int(x + w + margin), int(y + h + margin)).clip(
        bounds
    )


def pair_of(
    renderer: Renderer,
    edit: Edit,
    analysis: Analysis,
    face: int,
    least: float = LEAST_SCALE,
    result: Result | None = None,
) -> Pair:
    """A face of the original and of what the passes of pixels make of it, before anything is moved; with
    ``least`` pixels to the millimetre where the picture has them.

    ``result`` gives what the passes made, where that is known already.
    """
    level = level_of(analysis.faces[face].scale.px_per_mm, renderer.pyramid.highest, least)
    rect = around(analysis, face, renderer.bounds).align(1 << level).clip(renderer.bounds)
    part = rect.reduced(level)
    before = renderer.pyramid.crop(part, level)
    after = (result or renderer.plan(edit).view)(part, level)
    return Pair(np.clip(before, 0, 1), np.clip(after, 0, 1), analysis, face, rect)


def pair_of_images(before: Array, after: Array, analysis: Analysis, face: int) -> Pair:
    """The same of two whole pictures (H, W, 3) float32 of one size, working values."""
    level = level_of(analysis.faces[face].scale.px_per_mm, 8)
    height, width = before.shape[:2]
    rect = around(analysis, face, Rect(0, 0, width, height))
    size = (max(1, rect.width >> level), max(1, rect.height >> level))
    parts = [
        cv2.resize(i[rect.y0 : rect.y1, rect.x0 : rect.x1], size, interpolation=cv2.INTER_AREA)
        for i in (before, after)
    ]
    return Pair(parts[0], parts[1], analysis, face, rect)

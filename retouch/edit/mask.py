"""Where a pass acts: areas combined one after the other, then painted on. Plain data."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect

Point = tuple[float, float]
Colour = tuple[float, float, float]
Way = Literal["add", "take", "cross"]


@dataclass(frozen=True)
class ZoneShape:
    """A zone of the face analysis (`retouch.face.names.ZONE_NAMES`).

    ``face`` is the person's number, largest face first; -1 stands for everyone.
    """

    zone: str
    face: int = -1


@dataclass(frozen=True)
class RangeShape:
    """Places whose colour and light lie in a range, measured on the original.

    Parameters
    ----------
    colours : tuple of (L, a, b)
        CIELAB of the picked samples; none: any colour.
    tolerance : float
        Distance from the nearest sample up to which a colour counts; CIE76, light at half weight.
    softness : float
        0..100 per cent of the tolerance over which it fades, half to each side.
    light, saturation : (low, high)
        Limits, 0..100: CIELAB L*, and 100 C*/sqrt(C*² + L*²).
    """

    colours: tuple[Colour, ...] = ()
    tolerance: float = 12.0
    softness: float = 50.0
    light: tuple[float, float] = (0.0, 100.0)
    saturation: tuple[float, float] = (0.0, 100.0)


@dataclass(frozen=True)
class OutlineShape:
    """The inside of a closed outline; its edge fades over ``feather_px``, half to each side."""

    points: tuple[Point, ...]
    feather_px: float = 0.0


@dataclass(frozen=True)
class GradientShape:
    """Full at ``start``, nothing at ``end``; ``round``: in circles around ``start``."""

    start: Point
    end: Point
    round: bool = False


Shape = ZoneShape | RangeShape | OutlineShape | GradientShape


@dataclass(frozen=True)
class Area:
    """One part of a mask: a shape, perhaps inverted, and how it joins what is there already.

    ``add``: the larger of both; ``take``: what is there, less the shape; ``cross``: what is in
    both (the product).
    """

    shape: Shape
    way: Way = "add"
    invert: bool = False


@dataclass(frozen=True)
class MaskStroke:
    """A stroke that shows (``reveal``) or hides the pass where it goes.

    ``radius_px`` is the brush's radius; ``softness`` and ``flow`` are per cent. Each dab brings
    what is there nearer to fully shown or hidden by its flow, so strokes build up. With ``edges``
    above 0 a stroke keeps to colours like those under its path, the more strictly the higher.
    """

    path: tuple[Point, ...]
    radius_px: float
    softness: float = 50.0
    flow: float = 100.0
    reveal: bool = False
    edges: float = 0.0

    @cached_property
    def key(self) -> str:
        """Fingerprint of the stroke."""
        return _digest(repr(self))

    @cached_property
    def rect(self) -> Rect:
        """The pixels of the original that the stroke can change, and one more around them."""
        xs, ys = [x for x, _ in self.path], [y for _, y in self.path]
        r = self.radius_px + 1
        return Rect(
            math.floor(min(xs) - r),
            math.floor(min(ys) - r),
            math.ceil(max(xs) + r) + 1,
            math.ceil(max(ys) + r) + 1,
        )


@dataclass(frozen=True)
class Mask:
    """Where a pass acts.

    The ``areas`` are combined in order, beginning with nothing if the first is added and with
    everything otherwise; no areas stand for everything. Then the whole may be inverted, grown by
    ``grow_px`` (shrunk if negative), and its edge feathered over ``feather_px``. The ``strokes``
    come last.
    """

    areas: tuple[Area, ...] = ()
    invert: bool = False
    grow_px: float = 0.0
    feather_px: float = 0.0
    strokes: tuple[MaskStroke, ...] = ()

    @cached_property
    def ground_key(self) -> str:
        """Fingerprint of everything but the strokes."""
        return _digest(repr((self.areas, self.invert, self.grow_px, self.feather_px)))

    @cached_property
    def key(self) -> str:
        """Fingerprint of the whole mask."""
        return _digest(" ".join((self.ground_key, *(s.key for s in self.strokes))))

    def key_within(self, rect: Rect) -> str:
        """Fingerprint of what the mask is in a rectangle: strokes elsewhere don't count."""
        near = self.meeting(rect)
        if len(near) == len(self.strokes):
            return self.key
        return _digest(" ".join((self.ground_key, *(s.key for s in near))))

    def meeting(self, rect: Rect) -> list[MaskStroke]:
        """The strokes that can change something in a rectangle of the original, in their order."""
        if not self.strokes:
            return []
        x0, y0, x1, y1 = self._rects.T
        meets = (x0 < rect.x1) & (x1 > rect.x0) & (y0 < rect.y1) & (y1 > rect.y0)
        return [self.strokes[n] for n in np.flatnonzero(meets)]

    @cached_property
    def _rects(self) -> NDArray[np.int64]:
        return np.array([s.rect.as_tuple() for s in self.strokes], np.int64)

    @property
    def zones(self) -> bool:
        """Whether the face analysis is needed to draw it."""
        return any(isinstance(a.shape, ZoneShape) for a in self.areas)


EVERYTHING = Mask()


def _digest(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()

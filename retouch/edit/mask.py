"""Where a pass acts: areas combined one after the other, then painted on. Plain data."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from retouch.edit.values import (
    MOST_AREAS,
    MOST_COLOURS,
    MOST_PX,
    MOST_STROKES,
    STRICT,
    Colour,
    Count,
    Limits,
    Number,
    Outline,
    Path,
    Percent,
    Pixels,
    Point,
    Radius,
    Side,
    Switch,
    Way,
)
from retouch.geometry import Rect
from retouch.zone_names import AREA_NAMES

# Whose zone it is: a place of that person's face in pixels of the original, which stays theirs
# whoever else is found; None: everyone's. A number counts faces by size, the largest first, as
# edits of version 1 did.
Face = Point | Count | None


@dataclass(frozen=True)
class ZoneArea:
    """A zone of the face analysis or region of the mesh (`retouch.zone_names.AREA_NAMES`).

    ``side``: only the person's right or left half of the face; ``share``: how much of it counts.
    """

    __pydantic_config__ = STRICT

    zone: Literal[AREA_NAMES]  # type: ignore[valid-type]  # a literal made from one list
    face: Face = None
    way: Way = "add"
    invert: Switch = False
    side: Side = "both"
    share: Percent = 100.0
    kind: Literal["zone"] = "zone"


@dataclass(frozen=True)
class RangeArea:
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

    __pydantic_config__ = STRICT

    colours: Annotated[tuple[Colour, ...], Field(max_length=MOST_COLOURS)] = ()
    tolerance: Annotated[Number, Field(ge=0.5, le=100)] = 12.0
    softness: Percent = 50.0
    light: Limits = (0.0, 100.0)
    saturation: Limits = (0.0, 100.0)
    way: Way = "add"
    invert: Switch = False
    kind: Literal["range"] = "range"


@dataclass(frozen=True)
class OutlineArea:
    """The inside of a closed outline; its edge fades over ``feather_px``, half to each side."""

    __pydantic_config__ = STRICT

    points: Outline
    feather_px: Pixels = 0.0
    way: Way = "add"
    invert: Switch = False
    kind: Literal["outline"] = "outline"


@dataclass(frozen=True)
class GradientArea:
    """Full at ``start``, nothing at ``end``; ``round``: in circles around ``start``."""

    __pydantic_config__ = STRICT

    start: Point
    end: Point
    round: Switch = False
    way: Way = "add"
    invert: Switch = False
    kind: Literal["gradient"] = "gradient"


# One part of a mask: a shape, perhaps inverted, and how it joins what is there already. ``add``: the
# larger of both; ``take``: what is there, less the shape; ``cross``: what is in both (the product).
Area = Annotated[ZoneArea | RangeArea | OutlineArea | GradientArea, Field(discriminator="kind")]


@dataclass(frozen=True)
class MaskStroke:
    """A stroke that shows (``reveal``) or hides the pass where it goes.

    ``radius_px`` is the brush's radius; ``softness`` and ``flow`` are per cent. Each dab brings
    what is there nearer to fully shown or hidden by its flow, so strokes build up. With ``edges``
    above 0 a stroke keeps to colours like those under its path, the more strictly the higher.
    """

    __pydantic_config__ = STRICT

    path: Path
    radius_px: Radius
    softness: Percent = 50.0
    flow: Annotated[Number, Field(ge=1, le=100)] = 100.0
    reveal: Switch = False
    edges: Percent = 0.0

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
class Ground:
    """Where a pass acts before anything is painted on its mask.

    The ``areas`` are combined in order, beginning with nothing if the first is added and with
    everything otherwise; no areas stand for everything. Then the whole may be inverted, grown by
    ``grow_px`` (shrunk if negative), and its edge feathered over ``feather_px``.
    """

    __pydantic_config__ = STRICT

    areas: Annotated[tuple[Area, ...], Field(max_length=MOST_AREAS)] = ()
    invert: Switch = False
    grow_px: Annotated[Number, Field(ge=-MOST_PX, le=MOST_PX)] = 0.0
    feather_px: Pixels = 0.0

    @cached_property
    def ground_key(self) -> str:
        """Fingerprint of everything but the strokes."""
        return _digest(repr((self.areas, self.invert, self.grow_px, self.feather_px)))

    @property
    def zones(self) -> bool:
        """Whether the face analysis is needed to draw it."""
        return any(isinstance(a, ZoneArea) for a in self.areas)


@dataclass(frozen=True)
class Mask(Ground):
    """Where a pass acts: its ground, and the ``strokes`` painted on it."""

    strokes: Annotated[tuple[MaskStroke, ...], Field(max_length=MOST_STROKES)] = ()

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


EVERYWHERE = Ground()
EVERYTHING = Mask()


def _digest(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=12).hexdigest()

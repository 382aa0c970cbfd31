"""What masks look like to a client."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

Value = bool | float | str
Point = Annotated[list[float], Field(min_length=2, max_length=2)]
Offset = Annotated[list[int], Field(min_length=2, max_length=2)]


class Strict(Schema):
    model_config = ConfigDict(extra="forbid")


class MaskStroke(Strict):
    """A stroke that hides the pass (eases it) or shows it again."""

    path: list[Point]
    radius_px: float
    softness: float = 50
    flow: float = 100
    reveal: bool = False
    edges: float = 0


Blend = Literal[
    "normal", "multiply", "screen", "darken", "lighten", "soft-light", "hue", "saturation",
    "colour", "luminosity",
]  # fmt: skip
Way = Literal["add", "take", "cross"]


class ZoneArea(Strict):
    """A zone of one face, or of everyone's (-1)."""

    kind: Literal["zone"]
    way: Way = "add"
    invert: bool = False
    zone: str
    face: int = -1


class RangeArea(Strict):
    """Colours like the samples (CIELAB), within limits of light and saturation."""

    kind: Literal["range"]
    way: Way = "add"
    invert: bool = False
    colours: list[list[float]] = []
    tolerance: float = 12
    softness: float = 50
    light: list[float] = [0, 100]
    saturation: list[float] = [0, 100]


class OutlineArea(Strict):
    """The inside of a closed outline."""

    kind: Literal["outline"]
    way: Way = "add"
    invert: bool = False
    points: list[Point]
    feather_px: float = 0


class GradientArea(Strict):
    """Full at ``start``, nothing at ``end``."""

    kind: Literal["gradient"]
    way: Way = "add"
    invert: bool = False
    start: Point
    end: Point
    round: bool = False


Area = Annotated[ZoneArea | RangeArea | OutlineArea | GradientArea, Field(discriminator="kind")]


class MaskOut(Schema):
    """Where a pass acts; its strokes are counted apart."""

    areas: list[Area] = []
    invert: bool = False
    grow_px: float = 0
    feather_px: float = 0

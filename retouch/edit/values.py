"""The small parts that all data of an edit is made of, with the limits that are checked."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal, TypeAlias

from pydantic import AfterValidator, ConfigDict, Field

from retouch.plain import plain

# Places lie inside the largest picture that can be opened, with room for brushes beyond its edge.
FAR = 200_000.0
# Brushes, feathers and the like are no larger.
MOST_PX = 2000.0
MOST_POINTS = 4096
MOST_PASSES, MOST_TOUCHES, MOST_SPARED = 500, 20_000, 64
MOST_AREAS, MOST_STROKES, MOST_COLOURS = 32, 4000, 64
LONGEST_NAME = 200
MOST_CURVE = 32
MOST_PINS = 64
# Points of a face's mesh.
MOST_MESH = 600

# Parsed JSON is taken as it is: no text for a number, no unknown field.
STRICT = ConfigDict(extra="forbid", str_strip_whitespace=False)

Switch: TypeAlias = Annotated[bool, Field(strict=True)]
Whole: TypeAlias = Annotated[int, Field(strict=True)]
Count: TypeAlias = Annotated[int, Field(strict=True, ge=0)]
Number: TypeAlias = Annotated[float, Field(strict=True, allow_inf_nan=False)]
Ident: TypeAlias = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,64}$")]
Name: TypeAlias = Annotated[str, Field(max_length=LONGEST_NAME), AfterValidator(plain)]
# The points of a curve, 0..1 both ways.
_Unit: TypeAlias = Annotated[Number, Field(ge=0, le=1)]
CurvePoints: TypeAlias = Annotated[
    tuple[tuple[_Unit, _Unit], ...], Field(min_length=2, max_length=MOST_CURVE)
]
# A setting's value; what it may be is declared by the kind of pass and checked against that.
Simple: TypeAlias = bool | float | Name
Value: TypeAlias = Simple | CurvePoints
# Objects that may be left out, said so that every reader of the schema knows what stands for them.
EMPTY = Field(json_schema_extra={"default": {}})
Values: TypeAlias = Annotated[Mapping[str, Value], EMPTY]
# The same in what is asked for: no kind declares so many.
MOST_VALUES = 200
GivenValues: TypeAlias = Annotated[Mapping[str, Value], Field(max_length=MOST_VALUES)]
GivenTouchValues: TypeAlias = Annotated[Mapping[str, Simple], Field(max_length=MOST_VALUES)]
# Values of a touch: no curves.
TouchValues: TypeAlias = Annotated[Mapping[str, Simple], EMPTY]

Coordinate: TypeAlias = Annotated[Number, Field(ge=-FAR, le=FAR)]
Point: TypeAlias = tuple[Coordinate, Coordinate]
Path: TypeAlias = Annotated[tuple[Point, ...], Field(min_length=1, max_length=MOST_POINTS)]
# How hard a pen was pressed at each place of a path.
Pressure: TypeAlias = Annotated[
    tuple[Annotated[float, Field(strict=True, ge=0, le=1)], ...], Field(max_length=MOST_POINTS)
]
Outline: TypeAlias = Annotated[tuple[Point, ...], Field(min_length=3, max_length=MOST_POINTS)]
# A place of this picture, and the place of another one that belongs there.
Pin: TypeAlias = tuple[Coordinate, Coordinate, Coordinate, Coordinate]
# A file by what it holds: its SHA-256 (FIPS 180-4).
Content: TypeAlias = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
Step: TypeAlias = Annotated[Whole, Field(ge=-int(FAR), le=int(FAR))]
Offset: TypeAlias = tuple[Step, Step]

Percent: TypeAlias = Annotated[Number, Field(ge=0, le=100)]
Limits: TypeAlias = tuple[Percent, Percent]
Pixels: TypeAlias = Annotated[Number, Field(ge=0, le=MOST_PX)]
Radius: TypeAlias = Annotated[Number, Field(ge=0.5, le=MOST_PX)]
_Axis: TypeAlias = Annotated[Number, Field(ge=-200, le=200)]
Colour: TypeAlias = tuple[_Axis, _Axis, _Axis]

Way: TypeAlias = Literal["add", "take", "cross"]
# Of a face, as the person themself has it.
Side: TypeAlias = Literal["both", "right", "left"]
Blend: TypeAlias = Literal[
    "normal", "multiply", "screen", "darken", "lighten", "soft-light", "hue", "saturation",
    "colour", "luminosity",
]  # fmt: skip

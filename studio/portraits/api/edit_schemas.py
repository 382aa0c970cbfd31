"""Passes and touches as a client sees them, and how they change."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from studio.portraits.api.mask_schemas import Blend, MaskOut, MaskStroke, Offset, Point, Value


class TouchOut(Schema):
    id: str
    path: list[Point]
    values: dict[str, Value]
    source: Offset | None
    spare: list[list[Point]] = []
    enabled: bool = True


class PassHead(Schema):
    """A pass without its touches and the strokes of its mask."""

    id: str
    kind: str
    name: str
    settings: dict[str, Value]
    mask: MaskOut
    strength: float
    blend: Blend
    enabled: bool
    stage_on: bool = True


class PassOut(PassHead):
    touches: list[TouchOut]
    strokes: int


class PassChange(Schema):
    """A pass before and after; None where it didn't or doesn't exist."""

    what: Literal["pass"]
    id: str
    pass_id: str
    index: int
    before: PassHead | None
    after: PassHead | None


class TouchChange(Schema):
    """A touch before and after; None where it didn't or doesn't exist."""

    what: Literal["touch"]
    id: str
    pass_id: str
    index: int
    before: TouchOut | None
    after: TouchOut | None


class StrokesChange(Schema):
    """The strokes of a pass's mask from ``index`` on, before and after."""

    what: Literal["strokes"]
    id: str
    pass_id: str
    index: int
    before: list[MaskStroke]
    after: list[MaskStroke]


Change = Annotated[PassChange | TouchChange | StrokesChange, Field(discriminator="what")]

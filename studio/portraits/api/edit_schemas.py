"""Passes and touches as a client sees them, and how they change: the edit's own classes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

from retouch.edit.mask import MaskStroke
from retouch.edit.model import PassHead, Touch


class Strict(Schema):
    model_config = ConfigDict(extra="forbid")


@dataclass(frozen=True)
class PassOut(PassHead):
    """A pass with its touches; the strokes of its mask are counted."""

    touches: tuple[Touch, ...] = ()
    strokes: int = 0


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
    before: Touch | None
    after: Touch | None


class StrokesChange(Schema):
    """The strokes of a pass's mask from ``index`` on, before and after."""

    what: Literal["strokes"]
    id: str
    pass_id: str
    index: int
    before: list[MaskStroke]
    after: list[MaskStroke]


Change = Annotated[PassChange | TouchChange | StrokesChange, Field(discriminator="what")]

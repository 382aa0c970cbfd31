"""Operations: what a client can do to an edit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from studio.portraits.api.mask_schemas import Area, Blend, MaskStroke, Offset, Point, Strict, Value


class AddPass(Strict):
    op: Literal["add_pass"]
    kind: str
    id: str | None = None
    name: str | None = None
    settings: dict[str, Value] | None = None
    areas: list[Area] | None = None
    # The person whose skin it is fitted to; everyone with the largest face's for none.
    face: int | None = None


class RemovePass(Strict):
    op: Literal["remove_pass"]
    id: str


class ChangePass(Strict):
    op: Literal["change_pass"]
    id: str
    name: str | None = None
    strength: float | None = None
    enabled: bool | None = None
    blend: Blend | None = None
    settings: dict[str, Value] | None = None


class MovePass(Strict):
    op: Literal["move_pass"]
    id: str
    index: int


class NewTouch(Strict):
    """A touch to add; without a source the best one is chosen."""

    id: str | None = None
    path: list[Point]
    values: dict[str, Value] = {}
    source: Offset | None = None
    spare: list[list[Point]] | None = None


class AddTouch(Strict):
    """Add a touch to a pass; without ``pass_id`` to the topmost pass of the kind, or a new one.

    With ``settings`` that name a band, only passes that work in this band fit, and a new one
    gets the settings. A fill keeps from other zones of the face unless it may draw from
    ``anywhere``.
    """

    op: Literal["add_touch"]
    kind: str
    pass_id: str | None = None
    touch: NewTouch
    settings: dict[str, Value] | None = None
    anywhere: bool | None = None


class AddTouches(Strict):
    """Several touches as one gesture; ``label`` names it in the history."""

    op: Literal["add_touches"]
    kind: str
    pass_id: str | None = None
    touches: Annotated[list[NewTouch], Field(min_length=1, max_length=2000)]
    label: Annotated[str, Field(max_length=120)] | None = None


class RemoveTouches(Strict):
    op: Literal["remove_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]
    label: Annotated[str, Field(max_length=120)] | None = None


class ChangeTouch(Strict):
    """Move, resize or re-source a touch; ``new_source`` chooses again."""

    op: Literal["change_touch"]
    id: str
    path: list[Point] | None = None
    values: dict[str, Value] | None = None
    source: Offset | None = None
    new_source: bool = False
    mirrored: bool | None = None
    enabled: bool | None = None


class PaintMask(Strict):
    """Paint on a pass's mask: ease what it did, or bring it back."""

    op: Literal["paint_mask"]
    pass_id: str
    stroke: MaskStroke


class SetMask(Strict):
    """Change where a pass acts; what isn't given stays. ``label`` begins the history's words."""

    op: Literal["set_mask"]
    pass_id: str
    areas: list[Area] | None = None
    invert: bool | None = None
    grow_px: float | None = None
    feather_px: float | None = None
    clear_strokes: bool = False
    label: Annotated[str, Field(max_length=60)] | None = None


class CopyMask(Strict):
    """Give a pass the mask of another."""

    op: Literal["copy_mask"]
    pass_id: str
    from_id: str


class DuplicatePass(Strict):
    op: Literal["duplicate_pass"]
    id: str


class SwitchStage(Strict):
    """All passes of a stage off, or back to how each was."""

    op: Literal["switch_stage"]
    stage: Literal["look", "clear", "even", "features", "shape", "finish", "deliver"]
    on: bool


class BringPasses(Strict):
    """Copies of passes of another portrait of the same owner."""

    op: Literal["bring_passes"]
    portrait_id: str
    ids: Annotated[list[str], Field(min_length=1, max_length=500)]


class ApplyRoutine(Strict):
    """Spots healed and passes on skin made, fitted to the face, as one step."""

    op: Literal["apply_routine"]
    name: str
    # One person of a group; none: everyone.
    face: int | None = None
    # Leaves neck, arms and hands alone.
    only_face: bool = False


class ReturnToTake(Strict):
    """The state of a take, as a step that can be undone."""

    op: Literal["return_to_take"]
    take_id: str
    name: Annotated[str, Field(max_length=200)]


class DuplicateTouches(Strict):
    """Copies of touches beside themselves, on top of their pass."""

    op: Literal["duplicate_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]


class ChangeTouches(Strict):
    """Several touches moved, given values, or switched, as one gesture."""

    op: Literal["change_touches"]
    ids: Annotated[list[str], Field(min_length=1, max_length=2000)]
    shift: Offset | None = None
    values: dict[str, Value] | None = None
    enabled: bool | None = None


class RemoveTouch(Strict):
    op: Literal["remove_touch"]
    id: str


Operation = Annotated[
    AddPass
    | RemovePass
    | ChangePass
    | MovePass
    | AddTouch
    | AddTouches
    | ChangeTouch
    | RemoveTouch
    | RemoveTouches
    | ChangeTouches
    | DuplicateTouches
    | PaintMask
    | SetMask
    | CopyMask
    | DuplicatePass
    | SwitchStage
    | BringPasses
    | ApplyRoutine
    | ReturnToTake,
    Field(discriminator="op"),
]

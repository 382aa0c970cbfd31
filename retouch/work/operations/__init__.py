"""Operations: what a hand can do to an edit.

Each is a class whose fields are what the hand says and whose ``perform`` gives the new edit. The API
takes them in the form of JSON; a new one is added to `Operation`.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from pydantic import Field

from retouch.edit import Edit
from retouch.forms.form import parsed
from retouch.work.bench import Bench, Result
from retouch.work.checking import check_result
from retouch.work.hints import hints_of
from retouch.work.operations.borrowing import Borrow, MirrorBrow
from retouch.work.operations.braces import TakeOffBraces
from retouch.work.operations.catchlights import AddCatchlight
from retouch.work.operations.easing import EaseReading
from retouch.work.operations.frames import SetDevelopment, SetFrame
from retouch.work.operations.gaps import FillGaps
from retouch.work.operations.glasses import TakeOffGlasses
from retouch.work.operations.lines import GuardLines
from retouch.work.operations.lint import ClearLint
from retouch.work.operations.look import PickNeutral, ProposeLook, ProposeWhite, SetTones
from retouch.work.operations.masks import CopyMask, PaintMask, SetMask
from retouch.work.operations.outlined import MoveByOutline
from retouch.work.operations.passes import (
    AddPass,
    BringPasses,
    ChangePass,
    DuplicatePass,
    MovePass,
    RemovePass,
    ReturnToTake,
    SwitchStage,
)
from retouch.work.operations.proportions import PullProportions
from retouch.work.operations.routines import ApplyRoutine
from retouch.work.operations.series import MatchSeries
from retouch.work.operations.sets import ApplyLook, BindPasses, ChangeSet, UnbindPass
from retouch.work.operations.strands import (
    ClearLoose,
    MendOutline,
    OutlineHair,
    SwitchStrand,
    ThinStrands,
)
from retouch.work.operations.strays import ClearStrays
from retouch.work.operations.touches import (
    AddTouch,
    AddTouches,
    ChangeTouch,
    ChangeTouches,
    DuplicateTouches,
    NewTouch,
    RemoveTouch,
    RemoveTouches,
)

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
    | SetFrame
    | SetDevelopment
    | SetTones
    | PickNeutral
    | ProposeWhite
    | ProposeLook
    | CopyMask
    | DuplicatePass
    | SwitchStage
    | BringPasses
    | ApplyRoutine
    | TakeOffGlasses
    | Borrow
    | MirrorBrow
    | ClearStrays
    | ClearLoose
    | ClearLint
    | ThinStrands
    | SwitchStrand
    | OutlineHair
    | MendOutline
    | TakeOffBraces
    | PullProportions
    | GuardLines
    | MoveByOutline
    | FillGaps
    | AddCatchlight
    | BindPasses
    | ChangeSet
    | UnbindPass
    | ApplyLook
    | MatchSeries
    | EaseReading
    | ReturnToTake,
    Field(discriminator="op"),
]

__all__ = [
    "AddCatchlight", "AddPass", "AddTouch", "AddTouches", "ApplyLook", "ApplyRoutine", "BindPasses", "Borrow", "BringPasses",
    "ChangePass", "ChangeSet", "ChangeTouch", "ChangeTouches", "ClearLint", "ClearLoose", "ClearStrays", "CopyMask", "DuplicatePass",
    "DuplicateTouches", "EaseReading", "FillGaps", "GuardLines", "MatchSeries", "MendOutline", "MirrorBrow", "MoveByOutline", "MovePass", "NewTouch", "Operation", "OutlineHair", "PaintMask",
    "PickNeutral", "ProposeLook", "ProposeWhite", "PullProportions", "RemovePass", "RemoveTouch", "RemoveTouches",
    "ReturnToTake", "SetDevelopment", "SetFrame", "SetMask", "SetTones", "SwitchStage", "SwitchStrand",
    "TakeOffBraces", "TakeOffGlasses", "ThinStrands", "UnbindPass", "operation_from_data", "perform",
]  # fmt: skip


def operation_from_data(data: Any) -> Operation:
    """An operation from parsed JSON; `EditError` names what is wrong."""
    return parsed(Operation, data, "The operation")  # type: ignore[arg-type]


def perform(edit: Edit, operation: Operation, bench: Bench) -> Result:
    """Carry out one operation.

    The result passes every check that opening an edit applies, and names the analysis that it was
    made on. `EditError` (`Refused`) says what can't be done; nothing has changed then.
    """
    result = operation.perform(edit, bench)
    check_result(edit, result.edit, bench.renderer.bounds)
    if result.edit is edit:
        return result
    # Other words about the faces ask for another analysis, which hasn't a name yet.
    same = hints_of(result.edit) == hints_of(edit)
    name = bench.analysis.key if bench.analysis is not None and same else ""
    return replace(result, edit=replace(result.edit, analysis=name))

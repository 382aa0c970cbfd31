"""What a gesture asks for, as operations on an edit. Pure: no rows, no requests."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from retouch.edit import Edit
from studio.portraits.services.operations import masks, passes, routines, touches
from studio.portraits.services.operations.base import Chooser, Context, Result

__all__ = ["Chooser", "Context", "Result", "perform"]

_OPERATIONS: dict[str, Callable[[Edit, dict[str, Any], Context], Result]] = {
    "add_pass": passes.add_pass,
    "remove_pass": passes.remove_pass,
    "change_pass": passes.change_pass,
    "move_pass": passes.move_pass,
    "duplicate_pass": passes.duplicate_pass,
    "switch_stage": passes.switch_stage,
    "bring_passes": passes.bring_passes,
    "return_to_take": passes.return_to_take,
    "apply_routine": routines.apply_routine,
    "paint_mask": masks.paint_mask,
    "set_mask": masks.set_mask,
    "copy_mask": masks.copy_mask,
    "add_touch": touches.add_touch,
    "add_touches": touches.add_touches,
    "change_touch": touches.change_touch,
    "change_touches": touches.change_touches,
    "duplicate_touches": touches.duplicate_touches,
    "remove_touch": touches.remove_touch,
    "remove_touches": touches.remove_touches,
}


def perform(edit: Edit, operation: dict[str, Any], context: Context) -> Result:
    """Carry out one operation; `Problem` or `EditError` says what can't be done."""
    return _OPERATIONS[operation["op"]](edit, operation, context)

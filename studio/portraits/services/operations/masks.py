"""Operations on the masks of passes."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.edit import Edit, Mask, Pass
from retouch.edit.mask_form import MOST_STROKES, mask_from_data, mask_to_data, stroke_from_data
from retouch.errors import EditError
from studio.portraits.services.operations.base import Context, Result, find_pass, with_pass


def _masked(edit: Edit, n: int, one: Pass, mask: Mask, label: str) -> Result:
    return Result(with_pass(edit, n, replace(one, mask=mask)), f"{label} {one.name or one.kind}")


def paint_mask(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """One more stroke that eases a pass or brings it back."""
    n, one = find_pass(edit, op["pass_id"])
    stroke = stroke_from_data(op["stroke"], "stroke")
    if len(one.mask.strokes) >= MOST_STROKES:
        raise EditError(f"At most {MOST_STROKES} strokes fit in one mask; duplicate the pass.")
    mask = replace(one.mask, strokes=(*one.mask.strokes, stroke))
    return _masked(edit, n, one, mask, "Bring back" if stroke.reveal else "Ease")


def set_mask(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """Areas, inverting, growing and feather of a mask; its strokes stay unless they are to go."""
    n, one = find_pass(edit, op["pass_id"])
    given = {
        k: op[k] for k in ("areas", "invert", "grow_px", "feather_px") if op.get(k) is not None
    }
    ground = {**mask_to_data(one.mask, with_strokes=False), **given}
    mask = mask_from_data(ground, one.name or one.kind)
    if not op.get("clear_strokes"):
        mask = replace(mask, strokes=one.mask.strokes)
    return _masked(edit, n, one, mask, op.get("label") or "Mask of")


def copy_mask(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """The mask of another pass."""
    n, one = find_pass(edit, op["pass_id"])
    _, other = find_pass(edit, op["from_id"])
    return _masked(edit, n, one, other.mask, f"Mask of {other.name or other.kind} for")

"""Operations on whole passes."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.edit import Edit, Pass
from retouch.edit.form import pass_from_data, pass_to_data
from retouch.errors import EditError
from retouch.guidance import usual_mask
from retouch.passes import registry
from studio.errors import Problem
from studio.portraits.models import new_id
from studio.portraits.services.operations.base import (
    Context,
    Result,
    find_pass,
    free,
    free_name,
    place_of,
    with_pass,
)

STAGE_TITLES = {s: s.capitalize() for s in registry.STAGES}


def add_pass(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    kind = op["kind"]
    name = op.get("name") or free_name(edit, kind)
    declared = registry.kind(kind)
    face = op.get("face")
    fitted = declared.zones or any(s.auto for s in declared.settings)
    known = context.face(face or 0) if fitted else {}
    found = {s.name: known[s.auto] for s in declared.settings if s.auto in known}
    mask = {"areas": op.get("areas") or []}
    if op.get("areas") is None and known:
        mask = usual_mask(declared, context.kept(edit) if declared.spares_marks else [], face)
    one = pass_from_data(
        {
            "id": op.get("id") or new_id(),
            "kind": kind,
            "name": name,
            "settings": {**found, **(op.get("settings") or {})},
            "mask": mask,
        }
    )
    if any(p.id == one.id for p in edit.passes):
        raise EditError("There is a pass with this id already.")
    at = place_of(edit, kind)
    return Result(Edit((*edit.passes[:at], one, *edit.passes[at:])), f"Add {name}", pass_id=one.id)


def remove_pass(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    n, one = find_pass(edit, op["id"])
    return Result(Edit(edit.passes[:n] + edit.passes[n + 1 :]), f"Delete {one.name or one.kind}")


def change_pass(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    n, one = find_pass(edit, op["id"])
    data = pass_to_data(one, with_touches=False, with_strokes=False)
    given = {k: v for k, v in op.items() if k not in ("op", "id") and v is not None}
    if "settings" in given:
        given["settings"] = {**data["settings"], **given["settings"]}
    changed = pass_from_data({**data, **given})
    changed = replace(changed, touches=one.touches, mask=one.mask)
    label = _change_label(one, given)
    return Result(with_pass(edit, n, changed), label)


def _change_label(one: Pass, given: dict[str, Any]) -> str:
    name = one.name or one.kind
    if "name" in given:
        return f"Rename to {given['name']}"
    if "enabled" in given:
        return f"{name} {'on' if given['enabled'] else 'off'}"
    if "strength" in given:
        return f"{name}: strength {given['strength']:g} %"
    if "settings" in given:
        titles = {s.name: s.title for s in registry.kind(one.kind).settings}
        changed = ", ".join(
            titles[k] for k, v in given["settings"].items() if v != one.settings.get(k)
        )
        return f"{name}: {changed or 'settings'}"
    return f"{name}: {', '.join(given)}"


def move_pass(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    n, one = find_pass(edit, op["id"])
    rest = edit.passes[:n] + edit.passes[n + 1 :]
    at = max(0, min(op["index"], len(rest)))
    return Result(Edit((*rest[:at], one, *rest[at:])), f"Move {one.name or one.kind}")


def duplicate_pass(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """A copy of a pass on top of it."""
    n, one = find_pass(edit, op["id"])
    copy = copied(one, free(edit, f"{one.name or one.kind} copy"))
    return Result(
        Edit((*edit.passes[: n + 1], copy, *edit.passes[n + 1 :])),
        f"Duplicate {one.name or one.kind}",
        pass_id=copy.id,
    )


def copied(one: Pass, name: str) -> Pass:
    """The pass with ids of its own, and of its touches."""
    touches = tuple(replace(t, id=new_id()) for t in one.touches)
    return replace(one, id=new_id(), name=name, touches=touches)


def switch_stage(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """All passes of a stage off, or back to how each of them was."""
    stage, on = op["stage"], op["on"]
    passes = tuple(
        replace(p, stage_on=on)
        if registry.kind(p.kind).stage == stage and not registry.kind(p.kind).guide
        else p
        for p in edit.passes
    )
    return Result(Edit(passes), f"{STAGE_TITLES[stage]} {'on' if on else 'off'}")


def bring_passes(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """Copies of passes of another portrait; sizes in millimetres fit this one's face."""
    assert context.elsewhere is not None
    other, scale = context.elsewhere(op["portrait_id"])
    wanted = [p for p in other.passes if p.id in op["ids"]]
    if len(wanted) != len(set(op["ids"])):
        raise Problem(404, "no_such_pass", "A pass to copy is gone; somebody deleted it.")
    last = None
    for one in wanted:
        copy = copied(one, free(edit, one.name or free_name(edit, one.kind)))
        if "px_per_mm" in copy.settings:
            own = context.px_per_mm or scale
            copy = replace(copy, settings={**copy.settings, "px_per_mm": own})
        at = place_of(edit, one.kind)
        edit = Edit((*edit.passes[:at], copy, *edit.passes[at:]))
        last = copy.id
    what = wanted[0].name if len(wanted) == 1 else f"{len(wanted)} passes"
    return Result(edit, f"Bring {what}", pass_id=last)


def return_to_take(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """The state of a take, as one step that can be undone."""
    assert context.elsewhere is not None
    there, _ = context.elsewhere(f"take:{op['take_id']}")
    return Result(there, f"Return to {op['name']}")

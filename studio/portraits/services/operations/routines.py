"""A routine carried out: ordinary passes, each of which can be changed afterwards."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.edit import Edit
from retouch.edit.mask import Area, ZoneShape
from retouch.routines import Step, routine
from studio.errors import Problem
from studio.portraits.services.operations.base import Context, Result, find_pass, with_pass
from studio.portraits.services.operations.passes import add_pass
from studio.portraits.services.operations.touches import add_touches


def apply_routine(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """The passes of a routine, with the spots healed first; on known faces only.

    In a group every person gets passes fitted to their own skin, or only the one asked for.
    """
    one = routine(op["name"])
    if one is None:
        raise Problem(404, "no_such_routine", f"There is no routine called {op['name']!r}.")
    if not context.faces:
        raise Problem(422, "no_face", "No face is known here, so a routine can't fit itself to it.")
    asked = op.get("face")
    if asked is not None and not 0 <= asked < context.faces:
        raise Problem(404, "no_such_face", "This face isn't known here.")
    spots = context.spots(edit, asked) if one.spots else []
    if spots:
        touches = [
            {"path": [[x, y]], "values": {"radius_px": round(2 * r) / 2}} for x, y, r in spots
        ]
        edit = add_touches(edit, {"kind": "heal", "touches": touches}, context).edit
    people = range(context.faces) if asked is None else (asked,)
    last = None
    for face in people:
        for step in one.steps:
            edit, last = _added(edit, step, face if context.faces > 1 else None, op, context)
    return Result(edit, f"{one.title} routine", pass_id=last)


def _added(
    edit: Edit, step: Step, face: int | None, op: dict[str, Any], context: Context
) -> tuple[Edit, str]:
    """One pass of a routine, for one person where there are several."""
    done = add_pass(edit, {"kind": step.kind, "settings": step.settings, "face": face}, context)
    n, made = find_pass(done.edit, done.pass_id or "")
    if face is not None:
        made = replace(made, name=f"{made.name}, person {face + 1}")
    if op.get("only_face"):
        areas = tuple(_of_the_face(a) for a in made.mask.areas)
        made = replace(made, mask=replace(made.mask, areas=areas))
    return with_pass(done.edit, n, replace(made, strength=step.strength)), made.id


def _of_the_face(area: Area) -> Area:
    shape = area.shape
    if isinstance(shape, ZoneShape) and shape.zone == "skin":
        return replace(area, shape=replace(shape, zone="face_skin"))
    return area

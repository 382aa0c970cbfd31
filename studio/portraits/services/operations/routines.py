"""A routine carried out: ordinary passes, each of which can be changed afterwards."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from retouch.edit import Edit
from retouch.routines import routine
from studio.errors import Problem
from studio.portraits.services.operations.base import Context, Result, find_pass, with_pass
from studio.portraits.services.operations.passes import add_pass
from studio.portraits.services.operations.touches import add_touches


def apply_routine(edit: Edit, op: dict[str, Any], context: Context) -> Result:
    """The passes of a routine, with the spots healed first; on a known face only."""
    one = routine(op["name"])
    if one is None:
        raise Problem(404, "no_such_routine", f"There is no routine called {op['name']!r}.")
    if not context.face():
        raise Problem(422, "no_face", "No face is known here, so a routine can't fit itself to it.")
    spots = context.spots(edit) if one.spots else []
    if spots:
        touches = [
            {"path": [[x, y]], "values": {"radius_px": round(2 * r) / 2}} for x, y, r in spots
        ]
        edit = add_touches(edit, {"kind": "heal", "touches": touches}, context).edit
    last = None
    for step in one.steps:
        done = add_pass(edit, {"kind": step.kind, "settings": step.settings}, context)
        n, made = find_pass(done.edit, done.pass_id or "")
        edit = with_pass(done.edit, n, replace(made, strength=step.strength))
        last = made.id
    return Result(edit, f"{one.title} routine", pass_id=last)

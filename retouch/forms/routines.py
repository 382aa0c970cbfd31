"""Routines as JSON files and back (docs/formats/routine.schema.json)."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

from retouch.edit.model import Pass
from retouch.edit.routine import FORMAT, VERSION, Routine, RoutineStep
from retouch.errors import EditError
from retouch.forms.form import adapter, completed, parsed, plain
from retouch.passes import registry


def routine_to_data(one: Routine) -> dict[str, Any]:
    """Plain data of a routine, ready for JSON."""
    return plain(one)  # type: ignore[no-any-return]


def routine_dumps(one: Routine) -> str:
    """A routine's file."""
    return json.dumps(routine_to_data(one), indent=1, allow_nan=False) + "\n"


def routine_loads(text: str | bytes) -> tuple[Routine, tuple[str, ...]]:
    """The routine of a file, and in words what of it can't be used here, which it does without.

    Raises
    ------
    EditError
        In plain words, where it is no routine.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        raise EditError("This file isn't valid JSON.") from None
    return routine_from_data(data)


def routine_from_data(data: Any) -> tuple[Routine, tuple[str, ...]]:
    """The same of parsed JSON."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise EditError("This file holds no routine.")
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise EditError(
            f"Routines of version {data.get('version')!r} can't be read here, only up to {VERSION}."
        )
    steps = data.get("steps", [])
    if not isinstance(steps, list):
        raise EditError("The steps of a routine are a list.")
    one: Routine = parsed(Routine, {**data, "steps": []}, "Routine")
    used, left = [], []
    for n, step in enumerate(steps):
        try:
            used.append(checked(parsed(RoutineStep, step, f"Step {n + 1}"), f"Step {n + 1}"))
        except EditError as error:
            left.append(str(error))
    if steps and not used:
        raise EditError(f"None of its steps can be used. {left[0]}")
    made = replace(one, steps=tuple(used))
    # The whole once more: there may be too many.
    return parsed(Routine, routine_to_data(made), "Routine"), tuple(left)


def checked(step: RoutineStep, where: str = "Step") -> RoutineStep:
    """A step whose settings its kind knows; `EditError` says which it doesn't."""
    kind = registry.kind(step.kind)
    if kind.single or kind.holds_touches:
        raise EditError(f"{where}: {kind.title} is done by hand on each picture.")
    completed(Pass("step", step.kind, settings=step.settings), where)
    return step


def routine_schema() -> dict[str, Any]:
    """JSON Schema of routine files."""
    made: dict[str, Any] = adapter(Routine).json_schema()
    made["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    made["title"] = "Mellow Glass routine"
    return made

"""An edit as JSON and back, checked, with its published schema (docs/formats/edit.schema.json)."""

from __future__ import annotations

import json
from collections.abc import Hashable, Mapping
from dataclasses import replace
from functools import lru_cache
from typing import Any, TypeVar

from pydantic import TypeAdapter, ValidationError

from retouch.edit.mask import GradientArea, RangeArea
from retouch.edit.model import VERSION, Edit, Fit, Pass, Touch
from retouch.errors import EditError
from retouch.forms.upgrade import upgraded, upgraded_pass
from retouch.forms.words import refusal
from retouch.passes import registry
from retouch.passes.settings import Setting, check_all

T = TypeVar("T")


@lru_cache(maxsize=64)
def adapter(kind: Hashable) -> TypeAdapter[Any]:
    """Parses and writes the data of a class of this package."""
    return TypeAdapter(kind)  # type: ignore[arg-type]  # any annotation


def parsed(kind: type[T], data: Any, where: str = "") -> T:
    """Data of a class by itself; `EditError` names what is wrong with it."""
    try:
        return adapter(kind).validate_python(data)  # type: ignore[no-any-return, arg-type]
    except ValidationError as error:
        raise refusal(error, data, where) from None
    except RecursionError:
        raise EditError("This is nested too deeply.") from None


def plain(value: Any, kind: Any = None) -> Any:
    """Plain data of a value, ready for JSON."""
    return adapter(kind or type(value)).dump_python(value, mode="json")  # type: ignore[arg-type]


def loads(text: str) -> Edit:
    """Parse an edit's JSON text.

    Raises
    ------
    EditError
        Naming what is unknown, missing or out of range.
    """
    try:
        data = json.loads(text)
    except ValueError as error:
        raise EditError(f"The edit isn't valid JSON: {error}.") from None
    except RecursionError:
        raise EditError("The edit isn't valid JSON: it is nested too deeply.") from None
    return from_data(data)


def dumps(edit: Edit) -> str:
    """JSON text of an edit; ``loads(dumps(e)) == e`` for every checked edit."""
    return json.dumps(to_data(edit), indent=1, allow_nan=False)


def from_data(data: Any) -> Edit:
    """An edit from parsed JSON, checked against the registry; of this version or an earlier one."""
    body = upgraded(data)
    if isinstance(body, dict):
        for name in ("version", "passes"):
            if name not in body:
                raise EditError(f"The edit lacks {name!r}.")
        if body["version"] != VERSION or isinstance(body["version"], bool):
            raise EditError(
                f"Edits of version {body['version']!r} can't be read here, only up to {VERSION}."
            )
        _check_kinds(body["passes"])
    edit = parsed(Edit, body)
    passes = tuple(completed(p, f"Pass {n + 1}") for n, p in enumerate(edit.passes))
    edit = replace(edit, passes=passes)
    check_ids(edit)
    check_singles(edit)
    return edit


def _check_kinds(passes: Any) -> None:
    """Refuse unknown kinds, and touches where there can be none, before anything finer."""
    for n, one in enumerate(passes if isinstance(passes, list) else ()):
        name = one.get("kind") if isinstance(one, dict) else None
        if isinstance(name, str) and not registry.kind(name).holds_touches and one.get("touches"):
            raise EditError(f"Pass {n + 1} ({name}) holds no touches.")


def to_data(edit: Edit) -> dict[str, Any]:
    """Plain data of an edit, ready for JSON."""
    return plain(edit)  # type: ignore[no-any-return]


def pass_from_data(data: Any, where: str = "Pass") -> Pass:
    """A checked pass from parsed JSON."""
    return completed(parsed(Pass, upgraded_pass(data), where), where)


def touch_from_data(data: Any, kind: registry.PassKind, where: str = "Touch") -> Touch:
    """A checked touch from parsed JSON."""
    return completed_touch(parsed(Touch, data, where), kind, where)


def completed(one: Pass, where: str = "Pass") -> Pass:
    """A pass with all its kind's settings, checked against what the kind declares."""
    kind = registry.kind(one.kind)
    where = f"{where} ({kind.name})"
    if one.touches and not kind.holds_touches:
        raise EditError(f"{where} holds no touches.")
    for n, area in enumerate(one.mask.areas):
        _check_area(area, f"{where}, area {n + 1}")
    return replace(
        one,
        settings=check_all(kind.settings, one.settings, where),
        fit=_completed_fit(one.fit, kind, where),
        touches=tuple(
            completed_touch(t, kind, f"{where}, touch {n + 1}") for n, t in enumerate(one.touches)
        ),
    )


def _completed_fit(fit: Fit, kind: registry.PassKind, where: str) -> Fit:
    if not fit.values and not kind.fitted:
        return fit
    values = check_all(kind.fitted, fit.values, f"{where}: fit")
    return replace(fit, values={n: float(v) for n, v in values.items()})


def completed_touch(touch: Touch, kind: registry.PassKind, where: str = "Touch") -> Touch:
    """A touch with all values that its kind of pass declares, checked."""
    if not kind.holds_touches:
        raise EditError(f"A pass of the kind {kind.name} holds no touches.")
    if len(touch.path) < kind.least_points:
        raise EditError(f"{where}: path needs {kind.least_points} points at least.")
    if touch.pressure and len(touch.pressure) != len(touch.path):
        raise EditError(f"{where}: pressure needs a number for each point of the path, or none.")
    values = check_all(kind.touch_settings, touch.values, where)
    return touch if values == touch.values else replace(touch, values=values)


def _check_area(area: Any, where: str) -> None:
    if isinstance(area, GradientArea) and area.start == area.end:
        raise EditError(f"{where}: a gradient needs two places.")
    if isinstance(area, RangeArea):
        for name in ("light", "saturation"):
            low, high = getattr(area, name)
            if low > high:
                raise EditError(f"{where}: {name}: the lowest is above the highest.")


def check_ids(edit: Edit) -> None:
    """Refuse two passes, or two touches, of the same id."""
    _unique([p.id for p in edit.passes], "passes")
    _unique([t.id for p in edit.passes for t in p.touches], "touches")


def check_singles(edit: Edit) -> None:
    """Refuse two frames or two developments: which of them holds couldn't be told."""
    kinds = [registry.kind(p.kind) for p in edit.passes]
    for kind in kinds:
        if kind.single and kinds.count(kind) > 1:
            raise EditError(f"An edit has one {kind.title.lower()} at most.")


def _unique(ids: list[str], what: str) -> None:
    if len(set(ids)) != len(ids):
        raise EditError(f"Two {what} have the same id.")


def schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of edits, with every registered kind's settings."""
    whole = adapter(Edit).json_schema(ref_template="#/$defs/{model}")
    defs = whole.pop("$defs")
    touch, one = defs.pop("Touch"), defs.pop("Pass")
    whole["properties"]["passes"]["items"] = {
        "oneOf": [_kind_schema(k, one, touch) for k in registry.all_kinds()]
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **whole,
        "title": "Mellow Glass edit",
        "description": "All corrections of one portrait, lowest first. Geometry in pixels of the "
        "original: x right, y down, pixel centres at +0.5.",
        "required": ["version", "passes"],
        "$defs": defs,
    }


def _kind_schema(
    kind: registry.PassKind, one: Mapping[str, Any], touch: Mapping[str, Any]
) -> dict[str, Any]:
    """The form of a pass of a kind: that of all passes, with this kind's settings."""
    properties = {
        **one["properties"],
        "kind": {"const": kind.name},
        "settings": _settings_schema(kind.settings),
        "touches": {"type": "array", "maxItems": 0},
    }
    if kind.holds_touches:
        path = {**touch["properties"]["path"], "minItems": kind.least_points}
        own = {**touch["properties"], "path": path, "values": _settings_schema(kind.touch_settings)}
        properties["touches"] = {
            **one["properties"]["touches"],
            "items": {**touch, "properties": own},
        }
    return {**one, "title": kind.title, "description": kind.meaning, "properties": properties}


def _settings_schema(settings: tuple[Setting, ...]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {s.name: s.schema() for s in settings},
        "additionalProperties": False,
    }


__all__ = [
    "adapter",
    "check_ids",
    "check_singles",
    "completed",
    "completed_touch",
    "dumps",
    "from_data",
    "loads",
    "parsed",
    "pass_from_data",
    "plain",
    "schema",
    "to_data",
    "touch_from_data",
]  # fmt: skip

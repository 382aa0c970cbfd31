"""An edit as JSON and back, checked, with its published schema (docs/formats/edit.schema.json)."""

from __future__ import annotations

import json
from typing import Any

from retouch.colour.blend import MODES
from retouch.edit.checking import (
    FAR,
    ID,
    MOST_POINTS,
    POINT_SCHEMA,
    id_of,
    list_of,
    object_of,
    points_of,
)
from retouch.edit.mask_form import mask_from_data, mask_schema, mask_to_data
from retouch.edit.model import VERSION, Edit, Pass, Touch
from retouch.errors import EditError
from retouch.passes import registry
from retouch.passes.settings import check_all, check_number

_MOST_TOUCHES = 20_000
_MOST_PASSES = 500
_MOST_SPARED = 64


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
    """An edit from parsed JSON, checked against the registry."""
    body = object_of(data, "The edit", {"version", "passes"}, {"version", "passes"})
    if body["version"] != VERSION or isinstance(body["version"], bool):
        raise EditError(f"Edits of version {body['version']!r} can't be read here, only {VERSION}.")
    passes = tuple(
        pass_from_data(p, f"pass {i + 1}")
        for i, p in enumerate(list_of(body["passes"], "passes", _MOST_PASSES))
    )
    _unique([p.id for p in passes], "passes")
    _unique([t.id for p in passes for t in p.touches], "touches")
    return Edit(passes)


def to_data(edit: Edit) -> dict[str, Any]:
    """Plain data of an edit, ready for JSON."""
    return {"version": edit.version, "passes": [pass_to_data(p) for p in edit.passes]}


def pass_from_data(data: Any, where: str = "pass") -> Pass:
    """A checked pass from parsed JSON."""
    optional = {"name", "settings", "mask", "strength", "blend", "enabled", "stage_on", "touches"}
    body = object_of(data, where, {"id", "kind"} | optional, {"id", "kind"})
    if not isinstance(body["kind"], str):
        raise EditError(f"{where}: kind has to be a text.")
    kind = registry.kind(body["kind"])
    where = f"{where} ({kind.name})"
    settings = body.get("settings", {})
    if not isinstance(settings, dict):
        raise EditError(f"{where}: settings have to be an object.")
    blend = body.get("blend", "normal")
    if not isinstance(blend, str) or blend not in MODES:
        raise EditError(f"{where}: there is no blend mode {blend!r}.")
    enabled = body.get("enabled", True)
    if not isinstance(enabled, bool):
        raise EditError(f"{where}: enabled is true or false, not {enabled!r}.")
    stage_on = body.get("stage_on", True)
    if not isinstance(stage_on, bool):
        raise EditError(f"{where}: stage_on is true or false, not {stage_on!r}.")
    name = body.get("name", "")
    if not isinstance(name, str) or len(name) > 200:
        raise EditError(f"{where}: name has to be a text of at most 200 characters.")
    touches = list_of(body.get("touches", []), f"{where}: touches", _MOST_TOUCHES)
    if touches and kind.touches is None:
        raise EditError(f"{where} holds no touches.")
    return Pass(
        id=id_of(body["id"], where),
        kind=kind.name,
        name=name,
        settings=check_all(kind.settings, settings, where),
        mask=mask_from_data(body.get("mask", {}), where),
        strength=check_number(body.get("strength", 100), 0, 100, f"{where}: strength"),
        blend=blend,
        enabled=enabled,
        stage_on=stage_on,
        touches=tuple(
            touch_from_data(t, kind, f"{where}, touch {i + 1}") for i, t in enumerate(touches)
        ),
    )


def pass_to_data(one: Pass, with_touches: bool = True, with_strokes: bool = True) -> dict[str, Any]:
    """Plain data of a pass; without its touches and the strokes of its mask on wish."""
    data: dict[str, Any] = {
        "id": one.id,
        "kind": one.kind,
        "name": one.name,
        "settings": dict(one.settings),
        "mask": mask_to_data(one.mask, with_strokes),
        "strength": one.strength,
        "blend": one.blend,
        "enabled": one.enabled,
        "stage_on": one.stage_on,
    }
    if with_touches:
        data["touches"] = [touch_to_data(t) for t in one.touches]
    return data


def touch_from_data(data: Any, kind: registry.PassKind, where: str = "touch") -> Touch:
    """A checked touch from parsed JSON."""
    if kind.touches is None:
        raise EditError(f"A pass of the kind {kind.name} holds no touches.")
    fields = {"id", "path", "values", "source", "spare", "enabled"}
    body = object_of(data, where, fields, {"id", "path"})
    values = body.get("values", {})
    if not isinstance(values, dict):
        raise EditError(f"{where}: values have to be an object.")
    source = body.get("source")
    if source is not None:
        pair = list_of(source, f"{where}: source", 2)
        if len(pair) != 2 or any(isinstance(v, bool) or not isinstance(v, int) for v in pair):
            raise EditError(f"{where}: source is two whole numbers, the offset in pixels.")
        dx, dy = (check_number(v, -FAR, FAR, f"{where}: source") for v in pair)
        source = (int(dx), int(dy))
    enabled = body.get("enabled", True)
    if not isinstance(enabled, bool):
        raise EditError(f"{where}: enabled is true or false, not {enabled!r}.")
    spare = list_of(body.get("spare", []), f"{where}: spare", _MOST_SPARED)
    return Touch(
        id=id_of(body["id"], where),
        path=points_of(body["path"], f"{where}: path", kind.touches.least_points),
        values=check_all(kind.touches.settings, values, where),
        source=source,
        spare=tuple(points_of(one, f"{where}: spare", 3) for one in spare),
        enabled=enabled,
    )


def touch_to_data(touch: Touch) -> dict[str, Any]:
    """Plain data of a touch."""
    return {
        "id": touch.id,
        "path": [list(p) for p in touch.path],
        "values": dict(touch.values),
        "source": list(touch.source) if touch.source is not None else None,
        "spare": [[list(p) for p in one] for one in touch.spare],
        "enabled": touch.enabled,
    }


def _unique(ids: list[str], what: str) -> None:
    if len(set(ids)) != len(ids):
        raise EditError(f"Two {what} have the same id.")


def schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of edits, with every registered kind's settings."""
    whole = {"type": "integer", "minimum": -FAR, "maximum": FAR}
    ident = {"type": "string", "pattern": f"^{ID.pattern}$"}
    kinds = []
    for kind in registry.all_kinds():
        properties: dict[str, Any] = {
            "id": ident,
            "kind": {"const": kind.name},
            "name": {"type": "string", "maxLength": 200},
            "settings": _settings_schema(kind.settings),
            "mask": {"$ref": "#/$defs/mask"},
            "strength": {"type": "number", "minimum": 0, "maximum": 100, "default": 100},
            "blend": {"enum": list(MODES), "default": "normal"},
            "enabled": {"type": "boolean", "default": True},
            "stage_on": {"type": "boolean", "default": True},
        }
        if kind.touches is not None:
            touch = {
                "type": "object",
                "properties": {
                    "id": ident,
                    "path": {
                        "type": "array",
                        "items": {"$ref": "#/$defs/point"},
                        "minItems": 1,
                        "maxItems": MOST_POINTS,
                    },
                    "values": _settings_schema(kind.touches.settings),
                    "source": {
                        "anyOf": [
                            {"type": "null"},
                            {"type": "array", "items": whole, "minItems": 2, "maxItems": 2},
                        ]
                    },
                    "spare": {
                        "type": "array",
                        "maxItems": _MOST_SPARED,
                        "items": {
                            "type": "array",
                            "items": {"$ref": "#/$defs/point"},
                            "minItems": 3,
                            "maxItems": MOST_POINTS,
                        },
                    },
                    "enabled": {"type": "boolean", "default": True},
                },
                "required": ["id", "path"],
                "additionalProperties": False,
            }
            properties["touches"] = {"type": "array", "items": touch, "maxItems": _MOST_TOUCHES}
        else:
            properties["touches"] = {"type": "array", "maxItems": 0}
        kinds.append(
            {
                "type": "object",
                "title": kind.title,
                "description": kind.meaning,
                "properties": properties,
                "required": ["id", "kind"],
                "additionalProperties": False,
            }
        )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Mellow Glass edit",
        "description": "All corrections of one portrait, lowest first. Geometry in pixels of the "
        "original: x right, y down, pixel centres at +0.5.",
        "type": "object",
        "properties": {
            "version": {"const": VERSION},
            "passes": {"type": "array", "items": {"oneOf": kinds}, "maxItems": _MOST_PASSES},
        },
        "required": ["version", "passes"],
        "additionalProperties": False,
        "$defs": {"point": POINT_SCHEMA, "mask": mask_schema()},
    }


def _settings_schema(settings: tuple[Any, ...]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {s.name: s.schema() for s in settings},
        "additionalProperties": False,
    }

"""An edit as JSON and back, checked, with its published schema (docs/formats/edit.schema.json)."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Any

from retouch.colour.blend import MODES
from retouch.edit.model import VERSION, Edit, Mask, MaskStroke, Pass, Point, Touch
from retouch.errors import EditError
from retouch.passes import registry
from retouch.passes.settings import check_all, check_number

# Places lie inside the largest picture that can be opened, with room for brushes beyond its edge.
_FAR = 200_000.0
_MOST_POINTS = 4096
_MOST_TOUCHES = 20_000
_MOST_PASSES = 500
_MOST_SPARED = 64
_MOST_STROKES = 4000
_ID = re.compile(r"[A-Za-z0-9_-]{1,64}")


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
    body = _object(data, "The edit", {"version", "passes"}, {"version", "passes"})
    if body["version"] != VERSION or isinstance(body["version"], bool):
        raise EditError(f"Edits of version {body['version']!r} can't be read here, only {VERSION}.")
    passes = tuple(
        pass_from_data(p, f"pass {i + 1}")
        for i, p in enumerate(_list(body["passes"], "passes", _MOST_PASSES))
    )
    _unique([p.id for p in passes], "passes")
    _unique([t.id for p in passes for t in p.touches], "touches")
    return Edit(passes)


def to_data(edit: Edit) -> dict[str, Any]:
    """Plain data of an edit, ready for JSON."""
    return {"version": edit.version, "passes": [pass_to_data(p) for p in edit.passes]}


def pass_from_data(data: Any, where: str = "pass") -> Pass:
    """A checked pass from parsed JSON."""
    optional = {"name", "settings", "mask", "strength", "blend", "enabled", "touches"}
    body = _object(data, where, {"id", "kind"} | optional, {"id", "kind"})
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
    name = body.get("name", "")
    if not isinstance(name, str) or len(name) > 200:
        raise EditError(f"{where}: name has to be a text of at most 200 characters.")
    touches = _list(body.get("touches", []), f"{where}: touches", _MOST_TOUCHES)
    if touches and kind.touches is None:
        raise EditError(f"{where} holds no touches.")
    return Pass(
        id=_id(body["id"], where),
        kind=kind.name,
        name=name,
        settings=check_all(kind.settings, settings, where),
        mask=_mask(body.get("mask", {"kind": "everything"}), where),
        strength=check_number(body.get("strength", 100), 0, 100, f"{where}: strength"),
        blend=blend,
        enabled=enabled,
        touches=tuple(
            touch_from_data(t, kind, f"{where}, touch {i + 1}") for i, t in enumerate(touches)
        ),
    )


def pass_to_data(one: Pass, with_touches: bool = True) -> dict[str, Any]:
    """Plain data of a pass; without its touches on wish."""
    data: dict[str, Any] = {
        "id": one.id,
        "kind": one.kind,
        "name": one.name,
        "settings": dict(one.settings),
        "mask": _mask_data(one.mask),
        "strength": one.strength,
        "blend": one.blend,
        "enabled": one.enabled,
    }
    if with_touches:
        data["touches"] = [touch_to_data(t) for t in one.touches]
    return data


def touch_from_data(data: Any, kind: registry.PassKind, where: str = "touch") -> Touch:
    """A checked touch from parsed JSON."""
    if kind.touches is None:
        raise EditError(f"A pass of the kind {kind.name} holds no touches.")
    fields = {"id", "path", "values", "source", "spare", "enabled"}
    body = _object(data, where, fields, {"id", "path"})
    values = body.get("values", {})
    if not isinstance(values, dict):
        raise EditError(f"{where}: values have to be an object.")
    source = body.get("source")
    if source is not None:
        pair = _list(source, f"{where}: source", 2)
        if len(pair) != 2 or any(isinstance(v, bool) or not isinstance(v, int) for v in pair):
            raise EditError(f"{where}: source is two whole numbers, the offset in pixels.")
        dx, dy = (check_number(v, -_FAR, _FAR, f"{where}: source") for v in pair)
        source = (int(dx), int(dy))
    enabled = body.get("enabled", True)
    if not isinstance(enabled, bool):
        raise EditError(f"{where}: enabled is true or false, not {enabled!r}.")
    spare = _list(body.get("spare", []), f"{where}: spare", _MOST_SPARED)
    return Touch(
        id=_id(body["id"], where),
        path=_points(body["path"], f"{where}: path", kind.touches.least_points),
        values=check_all(kind.touches.settings, values, where),
        source=source,
        spare=tuple(_points(one, f"{where}: spare", 3) for one in spare),
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


def _mask(data: Any, where: str) -> Mask:
    where = f"{where}: mask"
    fields = {"kind", "points", "feather_px", "invert", "strokes"}
    body = _object(data, where, fields, {"kind"})
    kind, invert = body["kind"], body.get("invert", False)
    if not isinstance(invert, bool):
        raise EditError(f"{where}: invert is true or false, not {invert!r}.")
    feather = check_number(body.get("feather_px", 0), 0, 2000, f"{where}: feather_px")
    strokes = tuple(
        _mask_stroke(one, f"{where}: stroke {n + 1}")
        for n, one in enumerate(_list(body.get("strokes", []), f"{where}: strokes", _MOST_STROKES))
    )
    if kind == "everything":
        return Mask(invert=invert, strokes=strokes)
    if kind == "outline":
        points = _points(body.get("points", []), f"{where}: points", 3)
        return Mask("outline", points, feather, invert, strokes)
    raise EditError(f"{where}: there is no mask of the kind {kind!r}.")


def _mask_stroke(data: Any, where: str) -> MaskStroke:
    fields = {"path", "radius_px", "softness", "flow", "reveal"}
    body = _object(data, where, fields, {"path", "radius_px"})
    reveal = body.get("reveal", False)
    if not isinstance(reveal, bool):
        raise EditError(f"{where}: reveal is true or false, not {reveal!r}.")
    return MaskStroke(
        _points(body["path"], f"{where}: path", 1),
        check_number(body["radius_px"], 0.5, 2000, f"{where}: radius_px"),
        check_number(body.get("softness", 50), 0, 100, f"{where}: softness"),
        check_number(body.get("flow", 100), 1, 100, f"{where}: flow"),
        reveal,
    )


def _mask_data(mask: Mask) -> dict[str, Any]:
    data: dict[str, Any] = {"kind": mask.kind, "invert": mask.invert}
    if mask.kind == "outline":
        data |= {"points": [list(p) for p in mask.points], "feather_px": mask.feather_px}
    if mask.strokes:
        data["strokes"] = [
            {
                "path": [list(p) for p in one.path],
                "radius_px": one.radius_px,
                "softness": one.softness,
                "flow": one.flow,
                "reveal": one.reveal,
            }
            for one in mask.strokes
        ]
    return data


def _object(data: Any, where: str, known: set[str], needed: set[str]) -> Mapping[str, Any]:
    if not isinstance(data, dict):
        raise EditError(f"{where} has to be an object.")
    for key in data:
        if key not in known:
            raise EditError(f"{where} has an unknown field {key!r}.")
    for key in sorted(needed):
        if key not in data:
            raise EditError(f"{where} lacks {key!r}.")
    return data


def _list(data: Any, where: str, most: int) -> list[Any]:
    if not isinstance(data, (list, tuple)):
        raise EditError(f"{where} has to be a list.")
    if len(data) > most:
        raise EditError(f"{where}: at most {most} fit in one edit.")
    return list(data)


def _id(value: Any, where: str) -> str:
    if not isinstance(value, str) or not _ID.fullmatch(value):
        raise EditError(f"{where}: id is 1 to 64 letters, digits, - and _.")
    return value


def _points(data: Any, where: str, least: int) -> tuple[Point, ...]:
    out: list[Point] = []
    for pair in _list(data, where, _MOST_POINTS):
        if not isinstance(pair, (list, tuple)) or len(pair) != 2:
            raise EditError(f"{where}: a point is two numbers, x and y.")
        x, y = (check_number(v, -_FAR, _FAR, where) for v in pair)
        out.append((x, y))
    if len(out) < least:
        raise EditError(f"{where} needs {least} point{'s' if least > 1 else ''} at least.")
    return tuple(out)


def _unique(ids: list[str], what: str) -> None:
    if len(set(ids)) != len(ids):
        raise EditError(f"Two {what} have the same id.")


def schema() -> dict[str, Any]:
    """JSON Schema (draft 2020-12) of edits, with every registered kind's settings."""
    number = {"type": "number", "minimum": -_FAR, "maximum": _FAR}
    point = {"type": "array", "prefixItems": [number, number], "minItems": 2, "maxItems": 2}
    whole = {"type": "integer", "minimum": -_FAR, "maximum": _FAR}
    ident = {"type": "string", "pattern": f"^{_ID.pattern}$"}
    mask = {
        "type": "object",
        "description": "Where the pass acts.",
        "properties": {
            "kind": {"enum": ["everything", "outline"]},
            "points": {"type": "array", "items": {"$ref": "#/$defs/point"}},
            "feather_px": {"type": "number", "minimum": 0, "maximum": 2000},
            "invert": {"type": "boolean"},
            "strokes": {
                "type": "array",
                "maxItems": _MOST_STROKES,
                "items": {
                    "type": "object",
                    "properties": {
                        "path": {
                            "type": "array",
                            "items": {"$ref": "#/$defs/point"},
                            "minItems": 1,
                            "maxItems": _MOST_POINTS,
                        },
                        "radius_px": {"type": "number", "minimum": 0.5, "maximum": 2000},
                        "softness": {"type": "number", "minimum": 0, "maximum": 100},
                        "flow": {"type": "number", "minimum": 1, "maximum": 100},
                        "reveal": {"type": "boolean"},
                    },
                    "required": ["path", "radius_px"],
                    "additionalProperties": False,
                },
            },
        },
        "required": ["kind"],
        "additionalProperties": False,
    }
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
                        "maxItems": _MOST_POINTS,
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
                            "maxItems": _MOST_POINTS,
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
        "$defs": {"point": point, "mask": mask},
    }


def _settings_schema(settings: tuple[Any, ...]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {s.name: s.schema() for s in settings},
        "additionalProperties": False,
    }

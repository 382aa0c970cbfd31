"""Masks as JSON and back, checked."""

from __future__ import annotations

from typing import Any, get_args

from retouch.edit.checking import MOST_POINTS, list_of, object_of, points_of
from retouch.edit.mask import (
    Area,
    Colour,
    GradientShape,
    Mask,
    MaskStroke,
    OutlineShape,
    RangeShape,
    Shape,
    Way,
    ZoneShape,
)
from retouch.errors import EditError
from retouch.face.names import ZONE_NAMES
from retouch.passes.settings import check_number

MOST_AREAS = 32
MOST_STROKES = 4000
MOST_COLOURS = 64
_MOST_PX = 2000.0
_KINDS = ("zone", "range", "outline", "gradient")
_FIELDS = {
    "zone": {"zone", "face"},
    "range": {"colours", "tolerance", "softness", "light", "saturation"},
    "outline": {"points", "feather_px"},
    "gradient": {"start", "end", "round"},
}
_NEEDED = {"zone": {"zone"}, "range": set(), "outline": {"points"}, "gradient": {"start", "end"}}


def mask_from_data(data: Any, where: str) -> Mask:
    """A checked mask from parsed JSON; `EditError` names what is wrong."""
    where = f"{where}: mask"
    body = object_of(data, where, {"areas", "invert", "grow_px", "feather_px", "strokes"}, set())
    areas = list_of(body.get("areas", []), f"{where}: areas", MOST_AREAS)
    strokes = list_of(body.get("strokes", []), f"{where}: strokes", MOST_STROKES)
    return Mask(
        tuple(area_from_data(a, f"{where}, area {n + 1}") for n, a in enumerate(areas)),
        _switch(body.get("invert", False), f"{where}: invert"),
        check_number(body.get("grow_px", 0), -_MOST_PX, _MOST_PX, f"{where}: grow_px"),
        check_number(body.get("feather_px", 0), 0, _MOST_PX, f"{where}: feather_px"),
        tuple(stroke_from_data(s, f"{where}: stroke {n + 1}") for n, s in enumerate(strokes)),
    )


def area_from_data(data: Any, where: str) -> Area:
    """A checked area."""
    kind = data.get("kind") if isinstance(data, dict) else None
    if not isinstance(kind, str) or kind not in _KINDS:
        raise EditError(f"{where}: kind is one of {', '.join(_KINDS)}, not {kind!r}.")
    needed = {"kind", *_NEEDED[kind]}
    body = object_of(data, where, {"kind", "way", "invert", *_FIELDS[kind]}, needed)
    way = body.get("way", "add")
    if way not in get_args(Way):
        raise EditError(f"{where}: way is one of {', '.join(get_args(Way))}, not {way!r}.")
    return Area(_shape(kind, body, where), way, _switch(body.get("invert", False), where))


def _shape(kind: str, body: Any, where: str) -> Shape:
    if kind == "zone":
        if body["zone"] not in ZONE_NAMES:
            raise EditError(f"{where}: there is no zone {body['zone']!r}.")
        face = body.get("face", -1)
        if isinstance(face, bool) or not isinstance(face, int) or not -1 <= face < 1000:
            raise EditError(f"{where}: face is a person's number, or -1 for everyone.")
        return ZoneShape(body["zone"], face)
    if kind == "outline":
        feather = check_number(body.get("feather_px", 0), 0, _MOST_PX, f"{where}: feather_px")
        return OutlineShape(points_of(body["points"], f"{where}: points", 3), feather)
    if kind == "gradient":
        start, end = (points_of([body[k]], f"{where}: {k}", 1)[0] for k in ("start", "end"))
        if start == end:
            raise EditError(f"{where}: a gradient needs two places.")
        return GradientShape(start, end, _switch(body.get("round", False), f"{where}: round"))
    colours = list_of(body.get("colours", []), f"{where}: colours", MOST_COLOURS)
    return RangeShape(
        tuple(_colour(c, where) for c in colours),
        check_number(body.get("tolerance", 12), 0.5, 100, f"{where}: tolerance"),
        check_number(body.get("softness", 50), 0, 100, f"{where}: softness"),
        _limits(body.get("light", [0, 100]), f"{where}: light"),
        _limits(body.get("saturation", [0, 100]), f"{where}: saturation"),
    )


def _colour(data: Any, where: str) -> Colour:
    values = list_of(data, f"{where}: colours", 3)
    if len(values) != 3:
        raise EditError(f"{where}: a colour is three numbers, L*, a*, b*.")
    light, a, b = (check_number(v, -200, 200, f"{where}: colours") for v in values)
    return light, a, b


def _limits(data: Any, where: str) -> tuple[float, float]:
    values = list_of(data, where, 2)
    if len(values) != 2:
        raise EditError(f"{where} is two numbers, the lowest and the highest.")
    low, high = (check_number(v, 0, 100, where) for v in values)
    if low > high:
        raise EditError(f"{where}: the lowest is above the highest.")
    return low, high


def _switch(value: Any, where: str) -> bool:
    if not isinstance(value, bool):
        raise EditError(f"{where} is true or false, not {value!r}.")
    return value


def stroke_from_data(data: Any, where: str) -> MaskStroke:
    """A checked stroke."""
    fields = {"path", "radius_px", "softness", "flow", "reveal", "edges"}
    body = object_of(data, where, fields, {"path", "radius_px"})
    return MaskStroke(
        points_of(body["path"], f"{where}: path", 1),
        check_number(body["radius_px"], 0.5, 2000, f"{where}: radius_px"),
        check_number(body.get("softness", 50), 0, 100, f"{where}: softness"),
        check_number(body.get("flow", 100), 1, 100, f"{where}: flow"),
        _switch(body.get("reveal", False), f"{where}: reveal"),
        check_number(body.get("edges", 0), 0, 100, f"{where}: edges"),
    )


def mask_to_data(mask: Mask, with_strokes: bool = True) -> dict[str, Any]:
    """Plain data of a mask; without its strokes on wish."""
    data: dict[str, Any] = {
        "areas": [_area_data(a) for a in mask.areas],
        "invert": mask.invert,
        "grow_px": mask.grow_px,
        "feather_px": mask.feather_px,
    }
    if with_strokes:
        data["strokes"] = [stroke_to_data(s) for s in mask.strokes]
    return data


def _area_data(area: Area) -> dict[str, Any]:
    shape, rest = area.shape, {"way": area.way, "invert": area.invert}
    if isinstance(shape, ZoneShape):
        return {"kind": "zone", **rest, "zone": shape.zone, "face": shape.face}
    if isinstance(shape, OutlineShape):
        points = [list(p) for p in shape.points]
        return {"kind": "outline", **rest, "points": points, "feather_px": shape.feather_px}
    if isinstance(shape, GradientShape):
        ends = {"start": list(shape.start), "end": list(shape.end), "round": shape.round}
        return {"kind": "gradient", **rest, **ends}
    return {
        "kind": "range",
        **rest,
        "colours": [list(c) for c in shape.colours],
        "tolerance": shape.tolerance,
        "softness": shape.softness,
        "light": list(shape.light),
        "saturation": list(shape.saturation),
    }


def stroke_to_data(stroke: MaskStroke) -> dict[str, Any]:
    """Plain data of a stroke."""
    return {
        "path": [list(p) for p in stroke.path],
        "radius_px": stroke.radius_px,
        "softness": stroke.softness,
        "flow": stroke.flow,
        "reveal": stroke.reveal,
        "edges": stroke.edges,
    }


def _number(low: float, high: float) -> dict[str, Any]:
    return {"type": "number", "minimum": low, "maximum": high}


def _object(properties: dict[str, Any], required: list[str]) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": properties,
        "required": required,
        "additionalProperties": False,
    }


def mask_schema() -> dict[str, Any]:
    """JSON Schema of a mask; refers to ``#/$defs/point``."""
    point = {"$ref": "#/$defs/point"}
    switch = {"type": "boolean", "default": False}
    limits = {"type": "array", "items": _number(0, 100), "minItems": 2, "maxItems": 2}
    colour = {"type": "array", "items": _number(-200, 200), "minItems": 3, "maxItems": 3}
    shapes: dict[str, dict[str, Any]] = {
        "zone": {
            "zone": {"enum": list(ZONE_NAMES)},
            "face": {"type": "integer", "minimum": -1, "maximum": 999},
        },
        "range": {
            "colours": {"type": "array", "items": colour, "maxItems": MOST_COLOURS},
            "tolerance": _number(0.5, 100),
            "softness": _number(0, 100),
            "light": limits,
            "saturation": limits,
        },
        "outline": {
            "points": {"type": "array", "items": point, "minItems": 3, "maxItems": MOST_POINTS},
            "feather_px": _number(0, _MOST_PX),
        },
        "gradient": {"start": point, "end": point, "round": switch},
    }
    areas = [
        _object(
            {
                "kind": {"const": kind},
                "way": {"enum": list(get_args(Way))},
                "invert": switch,
                **own,
            },
            ["kind", *sorted(_NEEDED[kind])],
        )
        for kind, own in shapes.items()
    ]
    stroke = _object(
        {
            "path": {"type": "array", "items": point, "minItems": 1, "maxItems": MOST_POINTS},
            "radius_px": _number(0.5, 2000),
            "softness": _number(0, 100),
            "flow": _number(1, 100),
            "reveal": switch,
            "edges": _number(0, 100),
        },
        ["path", "radius_px"],
    )
    return {
        "description": "Where the pass acts: areas combined in order, then painted on.",
        **_object(
            {
                "areas": {"type": "array", "items": {"oneOf": areas}, "maxItems": MOST_AREAS},
                "invert": switch,
                "grow_px": _number(-_MOST_PX, _MOST_PX),
                "feather_px": _number(0, _MOST_PX),
                "strokes": {"type": "array", "items": stroke, "maxItems": MOST_STROKES},
            },
            [],
        ),
    }

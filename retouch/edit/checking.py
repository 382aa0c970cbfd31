"""Checks of parsed JSON that edits and their parts share; each raises `EditError` by name."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from retouch.edit.mask import Point
from retouch.errors import EditError
from retouch.passes.settings import check_number

# Places lie inside the largest picture that can be opened, with room for brushes beyond its edge.
FAR = 200_000.0
MOST_POINTS = 4096
ID = re.compile(r"[A-Za-z0-9_-]{1,64}")

_NUMBER = {"type": "number", "minimum": -FAR, "maximum": FAR}
POINT_SCHEMA = {"type": "array", "prefixItems": [_NUMBER, _NUMBER], "minItems": 2, "maxItems": 2}


def object_of(data: Any, where: str, known: set[str], needed: set[str]) -> Mapping[str, Any]:
    """An object with known fields only, and those that are needed."""
    if not isinstance(data, dict):
        raise EditError(f"{where} has to be an object.")
    for key in data:
        if key not in known:
            raise EditError(f"{where} has an unknown field {key!r}.")
    for key in sorted(needed):
        if key not in data:
            raise EditError(f"{where} lacks {key!r}.")
    return data


def list_of(data: Any, where: str, most: int) -> list[Any]:
    """A list of at most ``most``."""
    if not isinstance(data, (list, tuple)):
        raise EditError(f"{where} has to be a list.")
    if len(data) > most:
        raise EditError(f"{where}: at most {most} fit in one edit.")
    return list(data)


def id_of(value: Any, where: str) -> str:
    """An identifier."""
    if not isinstance(value, str) or not ID.fullmatch(value):
        raise EditError(f"{where}: id is 1 to 64 letters, digits, - and _.")
    return value


def points_of(data: Any, where: str, least: int) -> tuple[Point, ...]:
    """Places, ``least`` at least."""
    out: list[Point] = []
    for pair in list_of(data, where, MOST_POINTS):
        if not isinstance(pair, (list, tuple)) or len(pair) != 2:
            raise EditError(f"{where}: a point is two numbers, x and y.")
        x, y = (check_number(v, -FAR, FAR, where) for v in pair)
        out.append((x, y))
    if len(out) < least:
        raise EditError(f"{where} needs {least} point{'s' if least > 1 else ''} at least.")
    return tuple(out)

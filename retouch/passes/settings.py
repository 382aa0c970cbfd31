"""Declared settings: name, type, range, default, unit and one line of meaning."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

from retouch.edit.values import MOST_CURVE, Value
from retouch.errors import EditError

_PICTURE = re.compile("|[0-9a-f]{64}")
# The points of a curve that changes nothing.
STRAIGHT = ((0.0, 0.0), (1.0, 1.0))


@dataclass(frozen=True)
class Setting:
    """One setting of a pass or touch.

    ``low`` and ``high`` bound numbers (inclusive); ``choices`` lists a choice's values. ``auto``
    names what the face or the picture gives (``px_per_mm``, ``skin_l``, …) in a kind's fitted settings.
    Settings of one ``group`` belong together; ``pair`` names that of the other side. One with ``when`` counts only
    while another setting (the name) is one of some values. A ``picture`` is another file by its content; "": none.
    """

    name: str
    title: str
    meaning: str
    type: Literal["number", "switch", "choice", "curve", "picture"] = "number"
    default: Value = 0.0
    low: float = 0.0
    high: float = 100.0
    step: float = 1.0
    unit: str = ""
    choices: tuple[str, ...] = ()
    auto: str = ""
    group: str = ""
    pair: str = ""
    when: tuple[str, tuple[str, ...]] | None = None

    def check(self, value: Any, where: str) -> Value:
        """The value in its proper type, or an `EditError` that names the setting."""
        label = f"{where}: {self.name}"
        if self.type == "switch":
            if not isinstance(value, bool):
                raise EditError(f"{label} is a switch, true or false, not {value!r}.")
            return value
        if self.type == "choice":
            if value not in self.choices:
                raise EditError(f"{label} is one of {', '.join(self.choices)}, not {value!r}.")
            return str(value)
        if self.type == "curve":
            return check_curve(value, label)
        if self.type == "picture":
            if not isinstance(value, str) or not _PICTURE.fullmatch(value):
                raise EditError(f"{label} is a file by its SHA-256, or empty, not {value!r}.")
            return value
        return check_number(value, self.low, self.high, label)

    def schema(self) -> dict[str, Any]:
        """JSON Schema of the value."""
        text = f"{self.meaning}{f' Unit: {self.unit}.' if self.unit else ''}"
        base: dict[str, Any] = {"description": text, "default": self.default}
        if self.type == "switch":
            return {"type": "boolean", **base}
        if self.type == "choice":
            return {"enum": list(self.choices), **base}
        if self.type == "picture":
            return {"type": "string", "pattern": f"^({_PICTURE.pattern})$", **base}
        if self.type == "curve":
            point = {
                "type": "array", "items": {"type": "number", "minimum": 0, "maximum": 1},
                "minItems": 2, "maxItems": 2,
            }  # fmt: skip
            base["default"] = [list(p) for p in STRAIGHT]
            return {
                "type": "array", "items": point, "minItems": 2, "maxItems": MOST_CURVE, **base,
            }  # fmt: skip
        return {"type": "number", "minimum": self.low, "maximum": self.high, **base}


def counts(one: Setting, values: Mapping[str, Any]) -> bool:
    """Whether a setting counts beside the others."""
    return one.when is None or values.get(one.when[0]) in one.when[1]


def check_curve(value: Any, label: str) -> Value:
    """Points of a curve, each further right than the one before."""
    if isinstance(value, str) or not isinstance(value, (list, tuple)):
        raise EditError(f"{label} is a list of points, not {value!r}.")
    if not 2 <= len(value) <= MOST_CURVE:
        raise EditError(f"{label} has 2 to {MOST_CURVE} points.")
    points: list[tuple[float, float]] = []
    for point in value:
        if not isinstance(point, (list, tuple)) or len(point) != 2:
            raise EditError(f"{label}: a point has two numbers, not {point!r}.")
        x, y = (check_number(v, 0, 1, label) for v in point)
        if points and x <= points[-1][0]:
            raise EditError(f"{label}: each point lies further right than the one before.")
        points.append((x, y))
    return tuple(points)


def check_number(value: Any, low: float, high: float, label: str) -> float:
    """A finite number within a range, as float."""
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise EditError(f"{label} has to be a number, not {value!r}.")
    try:
        number = float(value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise EditError(f"{label} has to be a finite number.")
    if not low <= number <= high:
        raise EditError(f"{label} goes from {low:g} to {high:g}, not {number:g}.")
    return number


def check_all(
    declared: tuple[Setting, ...], given: Mapping[str, Any], where: str
) -> dict[str, Any]:
    """Complete and checked values: defaults filled in, unknown names refused."""
    known = {s.name: s for s in declared}
    for name in given:
        if name not in known:
            raise EditError(f"{where} has no setting {name!r}.")
    return {n: s.check(given[n], where) if n in given else s.default for n, s in known.items()}

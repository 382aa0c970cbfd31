"""What is wrong with data, said in one plain sentence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from pydantic import ValidationError

from retouch.errors import EditError

# Lists whose entries are counted in words: "pass 2, touch 5".
_ENTRIES = {
    "passes": "pass",
    "touches": "touch",
    "areas": "area",
    "strokes": "stroke",
    "colours": "colour",
}
# Longer lists of what something may be aren't told.
_MOST_LISTED = 200
# Parts of a place that are names of alternatives, not of fields.
_TAGS = ("zone", "range", "outline", "gradient")


def refusal(error: ValidationError, data: Any, where: str) -> EditError:
    """The first thing that is wrong, by its place in words."""
    return refused(error.errors(include_url=False), data, where)


def refused(found: Sequence[Any], data: Any, where: str) -> EditError:
    """The first of pydantic's errors about data, by its place in words."""
    first = found[0]
    place = _plain(first["loc"], data)
    # Alternatives that all fail tell nothing each: what was given can't be any of them.
    if any(_plain(e["loc"], data) == place for e in found[1:]):
        given = _at(place, data)
        return EditError(f"{_capital(place_of(place, where) or 'This')} can't be {_short(given)}.")
    given = first.get("input")
    if "input" not in first and first["type"] != "missing":
        given = _at(place, data)
    return EditError(_sentence(first, place, where, given))


def _at(place: Sequence[Any], data: Any) -> Any:
    for part in place:
        data = data[part]
    return data


def _plain(loc: Sequence[Any], data: Any) -> list[Any]:
    """The place without names of alternatives, which stand in no data."""
    out: list[Any] = []
    here, told = data, False
    for n, part in enumerate(loc):
        if not told and part in _TAGS and isinstance(here, dict) and here.get("kind") == part:
            # A field may be called like the alternative that it belongs to.
            told = True
            continue
        try:
            here = here[part]
        except (KeyError, IndexError, TypeError):
            # A field that is missing comes last.
            last = n == len(loc) - 1 and isinstance(here, dict) and isinstance(part, str)
            if last and part not in _TAGS and "[" not in part:
                out.append(part)
            continue
        told = False
        out.append(part)
    return out


def place_of(loc: Sequence[Any], where: str) -> str:
    """A place in words: ``pass 2, touch 5: values``."""
    parts = [where] if where else []
    last = ""
    for part in loc:
        if isinstance(part, int):
            if last in _ENTRIES:
                parts[-1] = f"{_ENTRIES[last]} {part + 1}"
            continue
        last = str(part)
        parts.append(last)
    return ", ".join(parts[:-1]) + (": " if len(parts) > 1 else "") + parts[-1] if parts else ""


_WORDS: dict[str, Callable[[dict[str, Any]], str]] = {
    "float_type": lambda c: "has to be a number",
    "int_type": lambda c: "has to be a whole number",
    "int_from_float": lambda c: "has to be a whole number",
    "finite_number": lambda c: "has to be a finite number",
    "bool_type": lambda c: "is true or false",
    "string_type": lambda c: "has to be a text",
    "string_too_long": lambda c: f"has to be a text of at most {c['max_length']} characters",
    "string_pattern_mismatch": lambda c: "is 1 to 64 letters, digits, - and _",
    "greater_than_equal": lambda c: f"is {c['ge']:g} at least",
    "less_than_equal": lambda c: f"is {c['le']:g} at most",
    "too_long": lambda c: f"holds at most {c['max_length']}",
    "tuple_type": lambda c: "has to be a list",
    "list_type": lambda c: "has to be a list",
    "mapping_type": lambda c: "has to be an object",
    "dict_type": lambda c: "has to be an object",
    "dataclass_type": lambda c: "has to be an object",
    "model_attributes_type": lambda c: "has to be an object",
    "literal_error": lambda c: f"is one of {c['expected']}",
    "union_tag_invalid": lambda c: f"kind is one of {c['expected_tags']}",
    "union_tag_not_found": lambda c: "lacks 'kind'",
}


def _sentence(error: Any, loc: list[Any], where: str, given: Any) -> str:
    kind, context = error["type"], error.get("ctx", {})
    if kind in ("missing", "unexpected_keyword_argument", "extra_forbidden"):
        name = loc[-1] if loc else error["loc"][-1]
        if isinstance(error["loc"][-1], int):
            return f"{_capital(place_of(loc, where))} has too few values."
        what = "lacks" if kind == "missing" else "has an unknown field"
        return f"{_capital(place_of(loc[:-1], where) or 'The edit')} {what} {name!r}."
    place = _capital(place_of(loc, where) or "The edit")
    if kind == "too_short":
        least = context["min_length"]
        if (loc and loc[-1] in ("path", "points", "spare")) or (loc and isinstance(loc[-1], int)):
            return f"{place} needs {least} point{'s' if least > 1 else ''} at least."
        return f"{place} has to have {least} at least."
    if kind == "literal_error" and len(context["expected"]) > _MOST_LISTED:
        name = next((p for p in reversed(loc) if isinstance(p, str)), "such value")
        return f"{_capital(place_of(loc[:-1], where))}: there is no {name} {_short(given)}."
    said = _WORDS.get(kind)
    text = said(context) if said else str(error["msg"]).lower()
    if isinstance(given, (str, int, float, bool)) and kind not in ("too_long", "string_too_long"):
        text += f", not {_short(given)}"
    return f"{place} {text}."


def _short(given: Any) -> str:
    text = repr(given)
    return text if len(text) <= 40 else text[:37] + "…"


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]

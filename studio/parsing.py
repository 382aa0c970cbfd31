"""JSON bodies as they are taken: what no text or number can mean is refused before anything looks at it."""

from __future__ import annotations

import json
import re
from typing import Any, NoReturn

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser

# How deep a body may be nested, and how many digits a number may have.
MOST_DEPTH, MOST_DIGITS = 40, 400
_LONE = re.compile("[\ud800-\udfff]")


def _no_constant(name: str) -> NoReturn:
    raise HttpError(422, f"{name} is no number that can be used here.")


def _number(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise HttpError(422, f"A number here has {MOST_DIGITS} digits at most.")
    return int(digits)


def parsed(text: bytes) -> Any:
    """The value of a JSON text; `HttpError` in words where it can't be used."""
    try:
        data = json.loads(text, parse_constant=_no_constant, parse_int=_number)
    except RecursionError:
        raise HttpError(422, "This is nested too deeply.") from None
    except ValueError:
        raise HttpError(400, "The request's body isn't valid JSON.") from None
    # Halves of characters and zero bytes: nothing that is stored or shown may hold them.
    if b"\\u" in text or b"\x00" in text:
        _check(data, 0)
    return data


def _check(value: Any, depth: int) -> None:
    if depth > MOST_DEPTH:
        raise HttpError(422, "This is nested too deeply.")
    if isinstance(value, str):
        if "\x00" in value or _LONE.search(value):
            raise HttpError(422, "A text here holds characters that can't be stored.")
    elif isinstance(value, dict):
        for key, part in value.items():
            _check(key, depth + 1)
            _check(part, depth + 1)
    elif isinstance(value, list):
        for part in value:
            _check(part, depth + 1)


class StrictParser(Parser):
    """Ninja's parser with these rules."""

    def parse_body(self, request: HttpRequest) -> Any:
        return parsed(request.body)

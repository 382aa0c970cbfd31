"""Errors as the API tells them: a status, a code for programs, a sentence for people."""

from __future__ import annotations

from typing import Any


class Problem(Exception):
    """Raised anywhere below the API; becomes ``{"code", "message", …}``."""

    def __init__(self, status: int, code: str, message: str, **extra: Any) -> None:
        super().__init__(message)
        self.status = status
        self.body: dict[str, Any] = {"code": code, "message": message, **extra}


def not_found(what: str = "portrait") -> Problem:
    return Problem(404, "not_found", f"There is no such {what}.")

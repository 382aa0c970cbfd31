"""Whose portraits there are: to anybody else they don't exist."""

from __future__ import annotations

from typing import Any

from studio.errors import Problem
from studio.portraits.models import Portrait


def visible(user: Any) -> Any:
    """The user's portraits that aren't deleted."""
    return Portrait.objects.filter(owner=user, deleted_at=None, part_of=None)


def deleted(user: Any) -> Any:
    """The user's deleted portraits, the last one first."""
    return (
        Portrait.objects.filter(owner=user, part_of=None)
        .exclude(deleted_at=None)
        .order_by("-deleted_at")
    )


def find(user: Any, portrait_id: str, deleted: bool = False) -> Portrait:
    """A portrait of the user; to anybody else it doesn't exist."""
    query = Portrait.objects.filter(owner=user, id=portrait_id, part_of=None)
    query = query.exclude(deleted_at=None) if deleted else query.filter(deleted_at=None)
    found = query.first()
    if found is None:
        raise Problem(404, "not_found", "There is no such portrait.")
    return found

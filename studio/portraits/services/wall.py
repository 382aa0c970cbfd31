"""The wall: sessions, what is shown of it, what is said about many portraits at once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from django.db.models import Count, Q

from retouch.plain import plain
from studio.errors import Problem
from studio.portraits.models import Portrait, PortraitSession
from studio.portraits.services import finding

Sort = Literal["worked", "added", "name"]
Flag = Literal["", "todo", "again", "done"]
FLAGS: tuple[Flag, ...] = ("", "todo", "again", "done")
_MOST_SESSIONS = 1000
_SORTS = {"worked": ("-worked_at", "id"), "added": ("-created_at", "id"), "name": ("name", "id")}


@dataclass(frozen=True)
class Wanted:
    """What of the wall is wanted: ``session`` is an id, "none" for what is in none, "" for all."""

    session: str = ""
    flag: str = "any"
    starred: bool = False
    search: str = ""
    sort: Sort = "worked"


def shown(user: Any, wanted: Wanted) -> Any:
    """The portraits of a part of the wall, in its order."""
    rows = finding.visible(user)
    if wanted.session == "none":
        rows = rows.filter(session=None)
    elif wanted.session:
        rows = rows.filter(session=find_session(user, wanted.session))
    if wanted.flag != "any":
        rows = rows.filter(flag=wanted.flag)
    if wanted.starred:
        rows = rows.filter(star=True)
    if wanted.search.strip():
        rows = rows.filter(name__icontains=wanted.search.strip())
    return rows.order_by(*_SORTS[wanted.sort])


def sessions(user: Any) -> Any:
    """The user's sessions, the newest first, with how many portraits are in each."""
    there = Q(portraits__deleted_at=None)
    return PortraitSession.objects.filter(owner=user).annotate(
        count=Count("portraits", filter=there)
    )


def find_session(user: Any, session_id: str) -> PortraitSession:
    """A session of the user; to anybody else it doesn't exist."""
    found = PortraitSession.objects.filter(owner=user, pk=session_id).first()
    if found is None:
        raise Problem(404, "not_found", "There is no such session.")
    return found


def make_session(user: Any, name: str) -> PortraitSession:
    """A new session."""
    if PortraitSession.objects.filter(owner=user).count() >= _MOST_SESSIONS:
        raise Problem(422, "too_many", f"Up to {_MOST_SESSIONS} sessions are kept.")
    return PortraitSession.objects.create(owner=user, name=_clean(name))


def change_session(one: PortraitSession, name: str | None, travel: bool | None) -> None:
    """Another name; whether marks travel in it."""
    if name is not None:
        one.name = _clean(name)
    if travel is not None:
        one.travel = travel
    one.save(update_fields=["name", "travel"])


def _clean(name: str) -> str:
    made = plain(name)
    if not 1 <= len(made) <= 120:
        raise Problem(422, "bad_name", "A name has 1 to 120 characters.")
    return made


def arrange(
    user: Any, ids: list[str], session: str | None, star: bool | None, flag: Flag | None
) -> int:
    """Move portraits into a session (\"none\": out of all), star or flag them; how many there were."""
    changes: dict[str, Any] = {}
    if session is not None:
        changes["session"] = None if session == "none" else find_session(user, session)
    if star is not None:
        changes["star"] = star
    if flag is not None:
        changes["flag"] = flag
    rows = Portrait.objects.filter(owner=user, deleted_at=None, pk__in=ids)
    return rows.update(**changes) if changes else rows.count()

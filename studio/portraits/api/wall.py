"""The wall: a page of it, sessions, many portraits at once."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from django.http import HttpRequest
from ninja import Query, Router, Schema, Status
from pydantic import Field

from studio.portraits.api.edit_schemas import Strict
from studio.portraits.api.library import portrait_out
from studio.portraits.api.schemas import Message, PortraitOut
from studio.portraits.models import PortraitSession
from studio.portraits.services import wall

router = Router(tags=["wall"])

_MOST_PER_PAGE = 200


class PortraitsOut(Schema):
    """A page of the wall; ``count`` in all."""

    count: int
    portraits: list[PortraitOut]


class PortraitSessionOut(Schema):
    """A session with how many portraits are in it; ``travel``: marks are looked for on its other pictures."""

    id: str
    name: str
    travel: bool
    created_at: datetime
    count: int


class PortraitSessionIn(Strict):
    name: Annotated[str, Field(max_length=200)]


class ChangePortraitSessionIn(Strict):
    """What isn't given stays."""

    name: Annotated[str, Field(max_length=200)] | None = None
    travel: bool | None = None


class ArrangeIn(Strict):
    """What to do with portraits: into a session ("none": out of all), starred, flagged; what isn't given stays."""

    ids: Annotated[
        list[Annotated[str, Field(max_length=32)]], Field(min_length=1, max_length=10_000)
    ]
    session: Annotated[str, Field(max_length=32)] | None = None
    star: bool | None = None
    flag: Literal["", "todo", "again", "done"] | None = None


class ArrangedOut(Schema):
    count: int


@router.get("/wall", response={200: PortraitsOut, 404: Message}, operation_id="list_wall")
def list_wall(
    request: HttpRequest,
    session: Annotated[str, Query(max_length=64)] = "",
    flag: Literal["any", "", "todo", "again", "done"] = "any",
    starred: bool = False,
    search: Annotated[str, Query(max_length=200)] = "",
    sort: wall.Sort = "worked",
    start: int = 0,
    count: int = 60,
) -> PortraitsOut:
    """A page of the user's portraits."""
    rows = wall.shown(request.user, wall.Wanted(session, flag, starred, search[:200], sort))
    begin, most = max(0, min(start, 1_000_000)), max(1, min(count, _MOST_PER_PAGE))
    return PortraitsOut(
        count=rows.count(), portraits=[portrait_out(p) for p in rows[begin : begin + most]]
    )


@router.get(
    "/portrait-sessions", response=list[PortraitSessionOut], operation_id="list_portrait_sessions"
)
def list_portrait_sessions(request: HttpRequest) -> Any:
    """The user's sessions, the newest first."""
    return wall.sessions(request.user)


def _out(one: PortraitSession) -> PortraitSessionOut:
    count = one.portraits.filter(deleted_at=None).count()
    return PortraitSessionOut(
        id=one.pk, name=one.name, travel=one.travel, created_at=one.created_at, count=count
    )


@router.post(
    "/portrait-sessions",
    response={201: PortraitSessionOut, 422: Message},
    operation_id="make_portrait_session",
)
def make_portrait_session(
    request: HttpRequest, body: PortraitSessionIn
) -> Status[PortraitSessionOut]:
    """A new session."""
    return Status(201, _out(wall.make_session(request.user, body.name)))


@router.patch(
    "/portrait-sessions/{session_id}",
    response={200: PortraitSessionOut, 404: Message, 422: Message},
    operation_id="change_portrait_session",
)
def change_portrait_session(
    request: HttpRequest, session_id: str, body: ChangePortraitSessionIn
) -> PortraitSessionOut:
    """Another name; whether marks travel in it."""
    one = wall.find_session(request.user, session_id)
    wall.change_session(one, body.name, body.travel)
    return _out(one)


@router.delete(
    "/portrait-sessions/{session_id}",
    response={204: None, 404: Message},
    operation_id="delete_portrait_session",
)
def delete_portrait_session(request: HttpRequest, session_id: str) -> Status[None]:
    """Take a session away; its portraits stay, in none."""
    wall.find_session(request.user, session_id).delete()
    return Status(204, None)


@router.post(
    "/wall/arrange",
    response={200: ArrangedOut, 404: Message, 422: Message},
    operation_id="arrange_portraits",
)
def arrange_portraits(request: HttpRequest, body: ArrangeIn) -> ArrangedOut:
    """Move, star or flag many portraits."""
    return ArrangedOut(
        count=wall.arrange(request.user, body.ids, body.session, body.star, body.flag)
    )

"""The API of links and pins, for whoever works in the studio."""

from __future__ import annotations

from typing import Annotated

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Status

from studio.clients import schemas
from studio.clients.models import ClientLink, Pin
from studio.clients.services import links, wishes
from studio.portraits.api.schemas import Message
from studio.portraits.services import library

router = Router(tags=["clients"])

_MOST_PER_PAGE = 50


def _out(link: ClientLink) -> schemas.LinkOut:
    state = (
        "withdrawn" if link.withdrawn_at is not None
        else "expired" if link.expires_at <= timezone.now()
        else "open"
    )  # fmt: skip
    return schemas.LinkOut(
        id=link.pk, title=link.title, phrase=bool(link.phrase), compare=link.compare,
        watermark=link.watermark, long_side=link.long_side, created_at=link.created_at,
        expires_at=link.expires_at, state=state, opened=link.opened, opened_at=link.opened_at,  # type: ignore[arg-type]
        answered_at=link.answered_at, signed_by=link.signed_by,
        shows=list(link.shown.values_list("portrait_id", flat=True)), **links.counts(link),
    )  # fmt: skip


def _pin(pin: Pin) -> schemas.BenchPinOut:
    return schemas.BenchPinOut(
        id=pin.pk, kind=pin.kind, words=pin.words, x=pin.x_px, y=pin.y_px,  # type: ignore[arg-type]
        link=pin.shown.link.title, created_at=pin.created_at, fresh=pin.seen_at is None,
        done=pin.done_at is not None, heeded=pin.heeded,
    )  # fmt: skip


@router.post(
    "/links",
    response={201: schemas.NewLinkOut, 404: Message, 422: Message},
    operation_id="make_link",
)
def make_link(request: HttpRequest, body: schemas.LinkIn) -> Status[schemas.NewLinkOut]:
    """A link to portraits as they stand now."""
    link, token = links.make(
        request.user, body.portraits, body.title, body.days, body.phrase, body.compare,
        body.watermark, body.long_side,
    )  # fmt: skip
    return Status(201, schemas.NewLinkOut(link=_out(link), token=token))


@router.get("/links", response=list[schemas.LinkOut], operation_id="list_links")
def list_links(
    request: HttpRequest, portrait: Annotated[str, Query(max_length=64)] = "", page: int = 0
) -> list[schemas.LinkOut]:
    """The user's links, the newest first, fifty to a page; those of one portrait if it is named."""
    begin = max(0, min(page, 10_000)) * _MOST_PER_PAGE
    return [
        _out(one) for one in links.listed(request.user, portrait)[begin : begin + _MOST_PER_PAGE]
    ]


@router.get(
    "/links/{link_id}", response={200: schemas.LinkOut, 404: Message}, operation_id="get_link"
)
def get_link(request: HttpRequest, link_id: str) -> schemas.LinkOut:
    """How a link stands."""
    return _out(links.find(request.user, link_id))


@router.patch(
    "/links/{link_id}",
    response={200: schemas.LinkOut, 404: Message, 422: Message},
    operation_id="change_link",
)
def change_link(request: HttpRequest, link_id: str, body: schemas.ChangeLinkIn) -> schemas.LinkOut:
    """Another title, end or pass phrase."""
    link = links.find(request.user, link_id)
    links.change(link, body.title, body.days, body.phrase)
    return _out(link)


@router.post(
    "/links/{link_id}/token",
    response={200: schemas.NewLinkOut, 404: Message, 409: Message},
    operation_id="renew_token",
)
def renew_token(request: HttpRequest, link_id: str) -> schemas.NewLinkOut:
    """Another address; the old one opens nothing any more."""
    link = links.find(request.user, link_id)
    return schemas.NewLinkOut(token=links.another_token(link), link=_out(link))


@router.post(
    "/links/{link_id}/show",
    response={200: schemas.LinkOut, 404: Message, 409: Message},
    operation_id="show_anew",
)
def show_anew(request: HttpRequest, link_id: str) -> schemas.LinkOut:
    """Show the portraits as they stand now."""
    link = links.find(request.user, link_id)
    links.show_anew(link)
    return _out(links.find(request.user, link_id))


@router.delete(
    "/links/{link_id}", response={200: schemas.LinkOut, 404: Message}, operation_id="withdraw_link"
)
def withdraw_link(request: HttpRequest, link_id: str) -> schemas.LinkOut:
    """Withdraw a link: its page is gone at once, and for good."""
    links.withdraw(links.find(request.user, link_id))
    return _out(links.find(request.user, link_id))


@router.get("/wishes", response=list[schemas.WishesOut], operation_id="list_wishes")
def list_wishes(request: HttpRequest) -> list[schemas.WishesOut]:
    """What clients said of the user's portraits; those of which nothing was said aren't listed."""
    told = wishes.told(request.user)
    return [
        schemas.WishesOut(
            portrait=pk,
            open=t.open,
            fresh=t.fresh,
            verdict=t.verdict,  # type: ignore[arg-type]
            signed=t.signed,
        )
        for pk, t in told.items()
    ]


@router.get(
    "/portraits/{portrait_id}/pins",
    response={200: list[schemas.BenchPinOut], 404: Message},
    operation_id="list_pins",
)
def list_pins(request: HttpRequest, portrait_id: str) -> list[schemas.BenchPinOut]:
    """Clients' pins on a portrait, the first first."""
    return [_pin(p) for p in wishes.pins_of(library.find(request.user, portrait_id))]


@router.post(
    "/portraits/{portrait_id}/pins/seen",
    response={204: None, 404: Message},
    operation_id="see_pins",
)
def see_pins(request: HttpRequest, portrait_id: str) -> Status[None]:
    """The pins were looked at; none is new any more."""
    wishes.looked_at(library.find(request.user, portrait_id))
    return Status(204, None)


@router.post(
    "/portraits/{portrait_id}/pins/heed",
    response={200: schemas.HeededOut, 404: Message, 409: Message, 422: Message},
    operation_id="heed_pins",
)
def heed_pins(request: HttpRequest, portrait_id: str, body: schemas.HeedIn) -> schemas.HeededOut:
    """Mark the places as kept that clients want kept: one gesture, none where all are."""
    portrait = library.find(request.user, portrait_id)
    count, revision = wishes.heed(portrait, body.revision)
    return schemas.HeededOut(count=count, revision=revision)


@router.put(
    "/pins/{pin_id}/done",
    response={200: schemas.BenchPinOut, 404: Message},
    operation_id="finish_pin",
)
def finish_pin(request: HttpRequest, pin_id: str, body: schemas.DoneIn) -> schemas.BenchPinOut:
    """A wish is fulfilled, or isn't after all."""
    return _pin(wishes.done(request.user, pin_id, body.done))

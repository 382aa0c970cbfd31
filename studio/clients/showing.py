"""The API of a client's page. Its routes know the token in their address and nobody signed in."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Path, Router, Status

from studio.clients import schemas
from studio.clients.models import ClientLink, Pin, ShownPortrait
from studio.clients.services import pictures, visits
from studio.errors import Problem
from studio.portraits.api.schemas import Message
from studio.portraits.services.papers import card_of

router = Router(tags=["showing"], auth=None)

_COOKIE_S = 30 * 86_400
_REFUSED = {404: Message, 409: Message, 422: Message, 429: Message}


def _pin(pin: Pin) -> schemas.PinOut:
    return schemas.PinOut(
        id=pin.pk,
        kind=pin.kind,  # type: ignore[arg-type]
        words=pin.words,
        x=pin.u,
        y=pin.v,
        done=pin.done_at is not None,
    )


def _shown(one: ShownPortrait) -> schemas.ShownOut:
    return schemas.ShownOut(
        number=one.number, name=one.portrait.name, state=one.state, version=one.version,  # type: ignore[arg-type]
        width=one.width, height=one.height, verdict=one.verdict,  # type: ignore[arg-type]
        pins=[_pin(p) for p in one.pins.all()],
    )  # fmt: skip


def _showing(link: ClientLink) -> schemas.ShowingOut:
    shown = visits.seen_by(link).prefetch_related("pins")
    return schemas.ShowingOut(
        locked=False, title=link.title, by=card_of(link.owner).creator, expires_at=link.expires_at,
        compare=link.compare, answered=link.answered_at is not None, signed_by=link.signed_by,
        pictures=[_shown(one) for one in shown],
    )  # fmt: skip


def _inside(request: HttpRequest, token: str) -> ClientLink:
    """The link, whose pass phrase was given if there is one."""
    link = visits.visited(request, token)
    if not visits.entered(request, link):
        raise Problem(403, "locked", "Give the pass phrase first.")
    return link


@router.get(
    "/{token}",
    response={200: schemas.ShowingOut, 404: Message, 429: Message},
    operation_id="get_showing",
)
def showing(request: HttpRequest, response: HttpResponse, token: str) -> schemas.ShowingOut:
    """The page's content; counts as an opening."""
    link = visits.visited(request, token)
    response["Cache-Control"] = "no-store"
    if not visits.entered(request, link):
        return schemas.ShowingOut(locked=True)
    visits.opened(link)
    return _showing(link)


@router.get(
    "/{token}/state", response={200: schemas.ShowingOut, 403: Message, 404: Message, 429: Message},
    operation_id="get_showing_again",
)  # fmt: skip
def showing_again(request: HttpRequest, response: HttpResponse, token: str) -> schemas.ShowingOut:
    """The same while the page stays open."""
    response["Cache-Control"] = "no-store"
    return _showing(_inside(request, token))


@router.post(
    "/{token}/phrase",
    response={200: schemas.ShowingOut, 400: Message, 404: Message, 422: Message, 429: Message},
    operation_id="give_phrase",
)
def give_phrase(
    request: HttpRequest, response: HttpResponse, token: str, body: schemas.PhraseIn
) -> schemas.ShowingOut:
    """Give the pass phrase; a cookie of this page alone remembers it."""
    link = visits.visited(request, token)
    if link.phrase:
        response.set_cookie(
            visits.cookie_of(link), visits.enter(request, link, body.phrase), max_age=_COOKIE_S,
            path=f"/api/showing/{token}", secure=settings.PRODUCTION, httponly=True, samesite="Strict",
        )  # fmt: skip
    visits.opened(link)
    return _showing(link)


@router.get(
    "/{token}/{int:number}/{side}/{size}",
    operation_id="get_showing_picture",
    response={404: Message, 403: Message, 409: Message, 429: Message},
    openapi_extra={"responses": {200: {"description": "A JPEG.", "content": {"image/jpeg": {}}}}},
)
def showing_picture(
    request: HttpRequest,
    token: str,
    number: int,
    side: Path[pictures.Side],
    size: Path[pictures.Size],
) -> HttpResponse:
    """A picture: the result, or the original where the link says so, for a screen or as large as is allowed."""
    link = _inside(request, token)
    one = visits.one_of(link, number)
    if side == "original" and not link.compare:
        raise Problem(404, "not_found", "The original isn't shown here.")
    path = pictures.ready(one, side, size)
    if path is None:
        raise Problem(409, "not_ready", one.message or "This picture is still being made ready.")
    # Asked for again each time, so that what was withdrawn is gone; the same isn't sent twice.
    tag = f'"{one.pk}-{one.version}"'
    headers = {"Cache-Control": "private, no-cache", "ETag": tag}
    if request.headers.get("If-None-Match") == tag:
        return HttpResponse(status=304, headers=headers)
    return HttpResponse(path.read_bytes(), content_type="image/jpeg", headers=headers)


@router.post(
    "/{token}/{int:number}/pins",
    response={201: schemas.PinOut, 403: Message, **_REFUSED},
    operation_id="set_pin",
)
def set_pin(
    request: HttpRequest, token: str, number: int, body: schemas.PinIn
) -> Status[schemas.PinOut]:
    """Set a pin with a wish."""
    link = _inside(request, token)
    return Status(201, _pin(visits.pin(link, number, body.kind, body.words, body.x, body.y)))


@router.delete(
    "/{token}/pins/{pin_id}",
    response={204: None, 403: Message, **_REFUSED},
    operation_id="take_pin",
)
def take_pin(request: HttpRequest, token: str, pin_id: str) -> Status[None]:
    """Take a pin away."""
    visits.unpin(_inside(request, token), pin_id)
    return Status(204, None)


@router.put(
    "/{token}/{int:number}/verdict",
    response={200: schemas.ShowingOut, 403: Message, **_REFUSED},
    operation_id="decide",
)
def decide(
    request: HttpRequest, token: str, number: int, body: schemas.VerdictIn
) -> schemas.ShowingOut:
    """Say of a picture that it is fine, or to be changed."""
    link = _inside(request, token)
    visits.decide(link, number, body.verdict)
    return _fresh(link)


@router.post(
    "/{token}/answer",
    response={200: schemas.ShowingOut, 403: Message, **_REFUSED},
    operation_id="answer",
)
def answer(request: HttpRequest, token: str, body: schemas.AnswerIn) -> schemas.ShowingOut:
    """Send the wishes, or sign off by a name."""
    link = _inside(request, token)
    visits.answer(link, body.name)
    return _fresh(link)


def _fresh(link: ClientLink) -> Any:
    link.refresh_from_db()
    return _showing(link)

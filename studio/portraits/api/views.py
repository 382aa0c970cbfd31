"""Pixels for the screen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from retouch.bands import Sizes
from retouch.render.shows import CHANGE_STOPS
from studio.errors import Problem
from studio.portraits.api.schemas import (
    ChangeStop,
    DraftView,
    Message,
    ReadyIn,
    SampleOut,
    Show,
    SkinOut,
    SpreadOut,
    TonesOut,
)
from studio.portraits.models import Portrait
from studio.portraits.services import desk, library, readying, tones, viewing
from studio.portraits.services.view_request import ViewRequest

router = Router(tags=["view"])

_WIDEST_PX = 1500

_JPEG: dict[str, Any] = {
    "responses": {
        200: {"description": "A JPEG in sRGB.", "content": {"image/jpeg": {}}},
        204: {"description": "Something newer was asked for, or saved, meanwhile."},
    }
}
# Told with an answer without a picture: the revision that the portrait has now.
_REVISION = "Portrait-Revision"


def _check(portrait: Portrait, revision: int | None, frame: str | None = None) -> None:
    """Refuse what was asked for of another revision or frame than the portrait's."""
    moved = frame is not None and frame != desk.warp_of(portrait).flat.key
    if moved or (revision is not None and revision != portrait.revision):
        raise Problem(
            409,
            "stale",
            "This portrait was changed in another window. It has been brought up to date.",
            revision=portrait.revision,
        )


def _late(portrait: Portrait) -> HttpResponse:
    """The answer to what was on its way while a gesture was saved: no error, only late."""
    return HttpResponse(status=204, headers={_REVISION: str(portrait.revision)})


def _sizes(px_per_mm: float, divide_mm: float) -> Sizes:
    """Sizes of bands, up to those of a face that fills the largest picture."""
    if px_per_mm * divide_mm > _WIDEST_PX:
        raise Problem(422, "too_wide", f"Tone and detail divide at {_WIDEST_PX} pixels at most.")
    return Sizes(px_per_mm, divide_mm)


def _no_longer_asked(request: HttpRequest, window: str | None, number: int) -> Callable[[], bool]:
    """Whether the window has asked for a newer view meanwhile, or is gone."""
    overtaken = viewing.newest.arrive(window, number)
    left: Callable[[], bool] = request.META.get("waitress.client_disconnected", lambda: False)
    return lambda: overtaken() or left()


def _unless_overtaken(make: Callable[[], bytes]) -> bytes | None:
    """A picture, or None where the window has asked for a newer one: nothing is wrong then."""
    try:
        return make()
    except Problem as problem:
        if problem.body["code"] == "overtaken":
            return None
        raise


@router.get("/portraits/{portrait_id}/view", operation_id="get_view", openapi_extra=_JPEG)
def get_view(
    request: HttpRequest,
    portrait_id: str,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    show: Show = "result",
    of: Annotated[str, Query(max_length=200)] = "",
    px_per_mm: Annotated[float, Query(ge=0.2, le=300)] = 8.0,
    divide_mm: Annotated[float, Query(ge=0.1, le=20)] = 1.0,
    revision: int | None = None,
    faces: Annotated[str, Query(max_length=200)] = "",
    frame: Annotated[str | None, Query(max_length=200)] = None,
    unframed: bool = False,
    window: Annotated[str | None, Query(max_length=64)] = None,
    number: int = 0,
) -> HttpResponse:
    """The saved state in a view. With ``window`` and ``number``, older requests of it stop.

    ``faces`` names the analysis that the window knows: a view is kept by the browser only under the
    analysis that it was made with. ``frame`` is the key of the frame it knows: places of another
    would lie elsewhere. ``unframed``: the whole picture, as it lies in the original.
    """
    overtaken = _no_longer_asked(request, window, number)
    portrait = library.find(request.user, portrait_id)
    meant = None if show in ("original", "take", "step") else revision
    if meant is not None and meant < portrait.revision:
        return _late(portrait)
    _check(portrait, meant, frame)
    sizes = _sizes(px_per_mm, divide_mm)
    wish = ViewRequest(x, y, scale, width, height, show, of, sizes=sizes, unframed=unframed)
    data = _unless_overtaken(lambda: viewing.view(portrait, wish, cancelled=overtaken))
    if data is None:
        return HttpResponse(status=204)
    lasting = (show == "original" and frame is not None) or (
        revision is not None and show != "take" and faces == viewing.faces_of(portrait)
    )
    cache = "private, max-age=3600" if lasting else "no-store"
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": cache})


@router.post("/portraits/{portrait_id}/draft", operation_id="draft_view", openapi_extra=_JPEG)
def draft_view(request: HttpRequest, portrait_id: str, body: DraftView) -> HttpResponse:
    """A view with operations that aren't saved yet: a slider on its way, a source dragged."""
    overtaken = _no_longer_asked(request, body.window, body.number)
    portrait = library.find(request.user, portrait_id)
    if body.revision is not None and body.revision < portrait.revision:
        return _late(portrait)
    _check(portrait, body.revision)
    wish = ViewRequest(
        body.x, body.y, body.scale, body.width, body.height, body.show, body.of, True,
        _sizes(body.px_per_mm, body.divide_mm), body.unframed,
    )  # fmt: skip
    data = _unless_overtaken(lambda: viewing.view(portrait, wish, body.operations, overtaken))
    if data is None:
        return HttpResponse(status=204)
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": "no-store"})


@router.post(
    "/portraits/{portrait_id}/ready",
    response={202: None, 404: Message, 422: Message},
    operation_id="make_ready",
)
def make_ready(request: HttpRequest, portrait_id: str, body: ReadyIn) -> tuple[int, None]:
    """Begin to make what a slider or a stroke will need; the answer doesn't wait for it."""
    overtaken = viewing.newest.arrive(body.window, body.number)
    portrait = library.find(request.user, portrait_id)
    wish = body.seen.request()
    if body.hand == "look":
        viewing.guess(portrait, wish)
    else:
        readying.make_ready(portrait, wish, body.pass_id, body.hand, overtaken)
    return 202, None


@router.get("/portraits/{portrait_id}/sample", response=SampleOut, operation_id="sample_colour")
def sample_colour(
    request: HttpRequest, portrait_id: str, x: float, y: float, seen: bool = False
) -> SampleOut:
    """The colour around a place: of the original, for masks by range, or of the result ``seen``."""
    portrait = library.find(request.user, portrait_id)
    found = viewing.sample(portrait, x, y, seen)
    return SampleOut(lab=found.lab, hue=found.hue)


@router.get("/portraits/{portrait_id}/tones", response=TonesOut, operation_id="read_tones")
def read_tones(request: HttpRequest, portrait_id: str) -> TonesOut:
    """Where the tones of the face, the hair and the clothes lie, and the hue of everybody's skin."""
    portrait = library.find(request.user, portrait_id)
    found = tones.read(portrait)
    return TonesOut(
        spreads=[SpreadOut(**asdict(s)) for s in found.spreads],
        skins=[SkinOut(**asdict(s)) for s in found.skins],
        before=[SkinOut(**asdict(s)) for s in found.before],
    )


@router.get("/change-scale", response=list[ChangeStop], operation_id="get_change_scale")
def get_change_scale(request: HttpRequest) -> list[ChangeStop]:
    """The colours in which changes are shown."""
    return [ChangeStop(difference=d, colour=list(c)) for d, c in CHANGE_STOPS]

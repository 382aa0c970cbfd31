"""Pixels for the screen."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from retouch.bands import Sizes
from studio.errors import Problem
from studio.portraits.api.schemas import DraftView
from studio.portraits.models import Portrait
from studio.portraits.services import bands, library, viewing

router = Router(tags=["view"])

_JPEG: dict[str, Any] = {
    "responses": {200: {"description": "A JPEG in sRGB.", "content": {"image/jpeg": {}}}}
}


def _check(portrait: Portrait, revision: int | None) -> None:
    if revision is not None and revision != portrait.revision:
        raise Problem(
            409,
            "stale",
            "This portrait was changed in another window. It has been brought up to date.",
            revision=portrait.revision,
        )


@router.get("/portraits/{portrait_id}/view", operation_id="get_view", openapi_extra=_JPEG)
def get_view(
    request: HttpRequest,
    portrait_id: str,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    show: Literal["result", "original", "without"] = "result",
    without_pass: str | None = None,
    revision: int | None = None,
    window: str | None = None,
    number: int = 0,
) -> HttpResponse:
    """The saved state in a view. With ``window`` and ``number``, older requests of it stop."""
    overtaken = viewing.newest.arrive(window, number)
    portrait = library.find(request.user, portrait_id)
    if show != "original":
        _check(portrait, revision)
    wish = viewing.ViewRequest(x, y, scale, width, height, show, without_pass)
    data = viewing.view(portrait, wish, cancelled=overtaken)
    lasting = show == "original" or revision is not None
    cache = "private, max-age=3600" if lasting else "no-store"
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": cache})


@router.post("/portraits/{portrait_id}/draft", operation_id="draft_view", openapi_extra=_JPEG)
def draft_view(request: HttpRequest, portrait_id: str, body: DraftView) -> HttpResponse:
    """A view with operations that aren't saved yet: a slider on its way, a source dragged."""
    overtaken = viewing.newest.arrive(body.window, body.number)
    portrait = library.find(request.user, portrait_id)
    _check(portrait, body.revision)
    wish = viewing.ViewRequest(body.x, body.y, body.scale, body.width, body.height, moving=True)
    operations = [o.model_dump(exclude_none=True) for o in body.operations]
    data = viewing.view(portrait, wish, operations, overtaken)
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": "no-store"})


@router.get("/portraits/{portrait_id}/band", operation_id="get_band", openapi_extra=_JPEG)
def get_band(
    request: HttpRequest,
    portrait_id: str,
    name: str,
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    px_per_mm: Annotated[float, Query(ge=0.2, le=300)],
    divide_mm: Annotated[float, Query(ge=0.1, le=20)] = 1.0,
) -> HttpResponse:
    """One band of detail of the saved state, its levels stretched; ``tone`` and ``detail`` too."""
    portrait = library.find(request.user, portrait_id)
    sizes = Sizes(px_per_mm, divide_mm)
    data = bands.band_view(portrait, name, sizes, x, y, scale, width, height)
    return HttpResponse(data, content_type="image/jpeg", headers={"Cache-Control": "no-store"})

"""Pixels for the screen."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router

from studio.errors import Problem
from studio.portraits.api.schemas import DraftView
from studio.portraits.models import Portrait
from studio.portraits.services import library, viewing

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

"""Takes: named states of a portrait."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from studio.portraits.api.schemas import Message, TakeIn, TakeOut
from studio.portraits.models import Take
from studio.portraits.services import layers, library, takes, thumbnails

router = Router(tags=["takes"])

_JPEG: dict[str, Any] = {
    "responses": {200: {"description": "A JPEG in sRGB.", "content": {"image/jpeg": {}}}}
}


def _out(take: Take) -> TakeOut:
    return TakeOut(id=take.pk, name=take.name, created_at=take.created_at, step=take.step)


@router.get("/portraits/{portrait_id}/takes", response=list[TakeOut], operation_id="list_takes")
def list_takes(request: HttpRequest, portrait_id: str) -> list[TakeOut]:
    """All takes, the first first."""
    return [_out(t) for t in takes.listed(library.find(request.user, portrait_id))]


@router.post(
    "/portraits/{portrait_id}/takes",
    response={200: TakeOut, 404: Message, 422: Message},
    operation_id="keep_take",
)
def keep_take(request: HttpRequest, portrait_id: str, body: TakeIn) -> TakeOut:
    """Keep the present state under a name."""
    return _out(takes.keep(library.find(request.user, portrait_id), body.name))


@router.get(
    "/portraits/{portrait_id}/layers",
    response={200: list[str], 404: Message, 410: Message, 422: Message},
    operation_id="list_layers",
)
def list_layers(request: HttpRequest, portrait_id: str) -> list[str]:
    """Names of the layers that the portrait's file holds, the lowest first; none: it holds one picture."""
    return list(layers.names(library.find(request.user, portrait_id)))


@router.post(
    "/portraits/{portrait_id}/layers/{number}",
    response={200: TakeOut, 404: Message, 410: Message, 422: Message, 507: Message},
    operation_id="keep_layer",
)
def keep_layer(request: HttpRequest, portrait_id: str, number: int) -> TakeOut:
    """Keep the picture with its file's layers up to one (from 0) as a take."""
    return _out(layers.keep(library.find(request.user, portrait_id), number))


@router.patch(
    "/portraits/{portrait_id}/takes/{take_id}",
    response={200: TakeOut, 404: Message, 422: Message},
    operation_id="rename_take",
)
def rename_take(request: HttpRequest, portrait_id: str, take_id: str, body: TakeIn) -> TakeOut:
    """Give a take another name."""
    return _out(takes.rename(library.find(request.user, portrait_id), take_id, body.name))


@router.delete(
    "/portraits/{portrait_id}/takes/{take_id}",
    response={204: None, 404: Message},
    operation_id="delete_take",
)
def delete_take(request: HttpRequest, portrait_id: str, take_id: str) -> HttpResponse:
    """Delete a take; the portrait stays as it is."""
    takes.delete(library.find(request.user, portrait_id), take_id)
    return HttpResponse(status=204)


@router.get(
    "/portraits/{portrait_id}/takes/{take_id}/thumbnail",
    operation_id="get_take_thumbnail",
    openapi_extra=_JPEG,
)
def get_take_thumbnail(request: HttpRequest, portrait_id: str, take_id: str) -> HttpResponse:
    """A small picture of a take."""
    small = thumbnails.of_take(library.find(request.user, portrait_id), take_id)
    # The analysis that it hangs on may be made anew.
    headers = {"Cache-Control": "no-cache"}
    return HttpResponse(small.data, content_type="image/jpeg", headers=headers)

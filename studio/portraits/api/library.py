"""The wall of portraits: list, upload, rename, delete, take back, thumbnails."""

from __future__ import annotations

from typing import Annotated, Literal

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile

from retouch.picture.read import MOST_BYTES, MOST_PIXELS
from studio.portraits.api.schemas import LimitsOut, Message, PortraitOut, RenameIn
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, library, thumbnails, wall

router = Router(tags=["library"])


def portrait_out(portrait: Portrait) -> PortraitOut:
    return PortraitOut(
        id=portrait.id,
        name=portrait.name,
        width=portrait.width,
        height=portrait.height,
        bits=portrait.bits,
        format=portrait.format,
        profile=portrait.profile,
        size_bytes=portrait.size_bytes,
        content=portrait.sha256,
        session=portrait.session_id,
        star=portrait.star,
        flag=portrait.flag,  # type: ignore[arg-type]  # one of the flags
        revision=portrait.revision,
        touched=portrait.history_at > 0,
        created_at=portrait.created_at,
        worked_at=portrait.worked_at,
        deleted_at=portrait.deleted_at,
    )


@router.get("/limits", response=LimitsOut, operation_id="get_limits")
def get_limits(request: HttpRequest) -> LimitsOut:
    """What can be uploaded."""
    return LimitsOut(
        most_bytes=min(MOST_BYTES, settings.UPLOAD_BYTES),
        most_pixels=MOST_PIXELS,
        formats=["JPEG", "PNG", "TIFF", "WebP", "HEIC", "AVIF", "JPEG XL", "raw"],
        trash_days=settings.TRASH_DAYS,
    )


@router.get("/portraits", response=list[PortraitOut], operation_id="list_portraits")
def list_portraits(request: HttpRequest, deleted: bool = False) -> list[PortraitOut]:
    """The user's portraits, the one worked on last first."""
    if deleted:
        return [portrait_out(p) for p in library.deleted(request.user)]
    return [portrait_out(p) for p in library.visible(request.user)]


@router.post(
    "/portraits",
    response={201: PortraitOut, 404: Message, 422: Message},
    operation_id="upload_portrait",
)
def upload_portrait(
    request: HttpRequest,
    file: File[UploadedFile],
    session: Annotated[str, Query(max_length=64)] = "",
) -> Status[PortraitOut]:
    """Upload one photograph, into a session if one is given."""
    into = wall.find_session(request.user, session) if session else None
    portrait = library.take_in(request.user, file, file.name or "", file.size or 0)
    if into is not None:
        portrait.session = into
        portrait.save(update_fields=["session"])
    analysing.status(portrait)  # starts it
    return Status(201, portrait_out(portrait))


@router.patch(
    "/portraits/{portrait_id}",
    response={200: PortraitOut, 404: Message, 422: Message},
    operation_id="rename_portrait",
)
def rename_portrait(request: HttpRequest, portrait_id: str, body: RenameIn) -> PortraitOut:
    """Give a portrait another name."""
    portrait = library.find(request.user, portrait_id)
    library.rename(portrait, body.name)
    return portrait_out(portrait)


@router.delete(
    "/portraits/{portrait_id}",
    response={200: PortraitOut, 404: Message, 409: Message},
    operation_id="delete_portrait",
)
def delete_portrait(request: HttpRequest, portrait_id: str, anyway: bool = False) -> PortraitOut:
    """Put a portrait away; it can be taken back for a while.

    One that other portraits borrow from goes only ``anyway``; 409 says which do.
    """
    portrait = library.find(request.user, portrait_id)
    library.delete(portrait, anyway)
    return portrait_out(portrait)


@router.post(
    "/portraits/{portrait_id}/restore",
    response={200: PortraitOut, 404: Message},
    operation_id="restore_portrait",
)
def restore_portrait(request: HttpRequest, portrait_id: str) -> PortraitOut:
    """Take a deleted portrait back."""
    portrait = library.find(request.user, portrait_id, deleted=True)
    library.restore(portrait)
    return portrait_out(portrait)


@router.get(
    "/portraits/{portrait_id}/thumbnail",
    operation_id="get_thumbnail",
    openapi_extra={
        "responses": {
            200: {"description": "A JPEG.", "content": {"image/jpeg": {}}},
            204: {"description": "It isn't at hand."},
        }
    },
)
def get_thumbnail(
    request: HttpRequest,
    portrait_id: str,
    side: Literal["before", "after"] = "after",
    at_hand: bool = False,
) -> HttpResponse:
    """A small picture, as photographed or as it stands; ``at_hand``: only if it needn't be drawn."""
    portrait = library.find(request.user, portrait_id)
    small = thumbnails.thumbnail(portrait, side, at_hand)
    if small is None:
        return HttpResponse(status=204)
    lasting = small.lasting and side == "before"
    headers = {"Cache-Control": "private, max-age=86400" if lasting else "no-cache"}
    return HttpResponse(small.data, content_type="image/jpeg", headers=headers)

"""Deliver: make the finished file, watch it, fetch it."""

from __future__ import annotations

from typing import Annotated

from django.http import FileResponse, HttpRequest
from ninja import Query, Router, Status

from retouch.picture import Output
from retouch.render.delivered import printed_side
from studio.errors import Problem
from studio.portraits.api.schemas import DeliveryIn, DeliveryOut, Message
from studio.portraits.services import delivering, library

router = Router(tags=["deliver"])

_LONGEST_WAIT = 10.0
_MOST_PACKED = 500


def delivery_out(job: delivering.Delivery) -> DeliveryOut:
    """A delivery as the API tells it."""
    return DeliveryOut(
        id=job.id,
        state=job.state,
        progress=job.progress,
        message=job.message,
        file_name=job.file_name,
        size_bytes=job.size_bytes,
    )


def wish_of(body: DeliveryIn) -> delivering.Wish:
    """What is wished, from its form."""
    long_side, per_inch = body.long_side, None
    if body.print_cm is not None:
        per_inch = body.per_inch
        printed = printed_side(body.print_cm, per_inch)
        long_side = printed if long_side is None else min(long_side, printed)
    output = Output(
        body.format, body.quality, body.subsampling, body.bits, body.keep_metadata, body.packing,
        body.keep_place, per_inch=per_inch,
    )  # fmt: skip
    convert = (body.profile, body.intent, body.black_point)
    return delivering.Wish(
        output, long_side, body.profile == "srgb", body.tell, body.sharpen, body.most_bytes,
        body.name, body.megapixels,
        None if body.border is None else (body.border, body.border_lab),
        None if body.profile in ("keep", "srgb") else convert, body.preset, body.number, body.credentials,
    )  # fmt: skip


@router.post(
    "/portraits/{portrait_id}/deliveries",
    response={202: DeliveryOut, 404: Message, 422: Message},
    operation_id="start_delivery",
)
def start_delivery(request: HttpRequest, portrait_id: str, body: DeliveryIn) -> Status[DeliveryOut]:
    """Begin to make the finished file of the portrait as it is now."""
    portrait = library.find(request.user, portrait_id)
    wish = wish_of(body)
    return Status(202, delivery_out(delivering.start(portrait, wish)))


@router.get(
    "/portraits/{portrait_id}/deliveries",
    response={200: list[DeliveryOut], 404: Message},
    operation_id="list_deliveries",
)
def list_deliveries(request: HttpRequest, portrait_id: str) -> list[DeliveryOut]:
    """The newest deliveries of a portrait: under way, done and still kept, failed, stopped."""
    return [delivery_out(d) for d in delivering.earlier(library.find(request.user, portrait_id))]


@router.post(
    "/deliveries/{job_id}/again",
    response={202: DeliveryOut, 404: Message},
    operation_id="begin_delivery_again",
)
def begin_delivery_again(request: HttpRequest, job_id: str) -> Status[DeliveryOut]:
    """Begin one that failed or was stopped once more."""
    return Status(202, delivery_out(delivering.again(request.user, job_id)))


@router.get(
    "/deliveries-batch",
    response={200: list[DeliveryOut], 404: Message},
    operation_id="list_batch",
)
def list_batch(
    request: HttpRequest, batch: Annotated[str, Query(max_length=64)]
) -> list[DeliveryOut]:
    """Where deliveries that were begun together stand."""
    return [delivery_out(d) for d in delivering.batch(request.user, batch)]


@router.get("/deliveries-packed", operation_id="fetch_deliveries")
def fetch_deliveries(
    request: HttpRequest,
    ids: Annotated[str, Query(max_length=70_000)] = "",
    batch: Annotated[str, Query(max_length=64)] = "",
) -> FileResponse:
    """Several finished files as one ZIP: ``ids``, joined by commas, or those of a ``batch`` that are done."""
    wanted = [one for one in ids.split(",") if one][:_MOST_PACKED]
    if batch:
        wanted = [d.id for d in delivering.batch(request.user, batch) if d.state == "done"]
    if not wanted:
        raise Problem(422, "nothing", "Say which files are to be packed.")
    return FileResponse(
        delivering.packed(request.user, wanted), as_attachment=True, filename="Mellow Glass.zip",
        content_type="application/zip",
    )  # fmt: skip


@router.get(
    "/deliveries/{job_id}",
    response={200: DeliveryOut, 404: Message},
    operation_id="get_delivery",
)
def get_delivery(request: HttpRequest, job_id: str, wait: float = 0) -> DeliveryOut:
    """Where a delivery stands; ``wait`` up to 10 seconds for its end."""
    # Not a number fails every comparison.
    seconds = wait if 0 < wait <= _LONGEST_WAIT else _LONGEST_WAIT if wait > 0 else 0.0
    return delivery_out(delivering.wait(request.user, job_id, seconds))


@router.delete(
    "/deliveries/{job_id}",
    response={200: DeliveryOut, 404: Message},
    operation_id="cancel_delivery",
)
def cancel_delivery(request: HttpRequest, job_id: str) -> DeliveryOut:
    """Stop a delivery."""
    return delivery_out(delivering.cancel(request.user, job_id))


@router.get("/deliveries/{job_id}/file", operation_id="fetch_delivery")
def fetch_delivery(request: HttpRequest, job_id: str) -> FileResponse:
    """The finished file, as a download."""
    job = delivering.find(request.user, job_id)
    if job.state != "done" or not job.path.exists():
        raise Problem(404, "not_ready", "This file isn't ready, or no longer kept. Deliver again.")
    return FileResponse(
        open(job.path, "rb"), as_attachment=True, filename=job.file_name, content_type=job.media
    )

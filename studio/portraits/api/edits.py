"""The edit of a portrait: open it, change it, walk its history."""

from __future__ import annotations

import base64
from dataclasses import fields
from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from retouch.edit import Pass
from retouch.edit.model import PassHead
from retouch.forms.form import to_data
from studio.portraits.api.edit_schemas import PassOut
from studio.portraits.api.framing import frame_out
from studio.portraits.api.library import portrait_out
from studio.portraits.api.schemas import (
    DeskOut,
    GestureIn,
    HistoryEntryOut,
    HistoryOut,
    Message,
    OutcomeOut,
    PixelsOut,
    RepeatOut,
    Seen,
    StepIn,
    WorkOut,
)
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import desk, gestures, library, thumbnails, viewing, working

router = Router(tags=["edit"])

_JPEG: dict[str, Any] = {
    "responses": {200: {"description": "A JPEG in sRGB.", "content": {"image/jpeg": {}}}}
}


def _history(portrait: Portrait) -> HistoryOut:
    state = gestures.history_state(portrait)
    return HistoryOut(at=state.at, count=state.count, undo=state.undo, redo=state.redo)


def _pass(one: Pass) -> PassOut:
    own = {f.name: getattr(one.head, f.name) for f in fields(PassHead)}
    return PassOut(**own, touches=one.touches, strokes=len(one.mask.strokes))


def _ahead(portrait: Portrait, seen: Seen | None) -> viewing.LookAhead | None:
    """What begins to compute the part of a view that a gesture changes."""
    if seen is None:
        return None
    return viewing.LookAhead(portrait, seen.request())


def _pixels(ahead: viewing.LookAhead | None) -> PixelsOut | None:
    made = ahead.picture() if ahead is not None else None
    if made is None:
        return None
    part, text = made.part, base64.b64encode(made.jpeg).decode()
    return PixelsOut(
        x=part.x,
        y=part.y,
        scale=part.scale,
        width=part.width,
        height=part.height,
        jpeg=text,
        nearly=made.nearly,
    )


def _outcome(outcome: gestures.Outcome, ahead: viewing.LookAhead | None) -> OutcomeOut:
    warp = outcome.warp
    return OutcomeOut(
        revision=outcome.portrait.revision,
        changes=outcome.changes,  # type: ignore[arg-type]  # pydantic parses them
        dirty=list(warp.covers(outcome.dirty).as_tuple()),
        touch_id=outcome.touch_id,
        pass_id=outcome.pass_id,
        notice=outcome.notice,
        history=_history(outcome.portrait),
        worked_at=outcome.portrait.worked_at,
        frame=frame_out(warp) if outcome.reframed else None,
        pixels=_pixels(ahead),
    )


@router.get(
    "/portraits/{portrait_id}/desk",
    response={200: DeskOut, 404: Message},
    operation_id="open_portrait",
)
def open_portrait(request: HttpRequest, portrait_id: str) -> DeskOut:
    """The portrait with all its passes and touches."""
    portrait = library.find(request.user, portrait_id)
    edit = desk.edit_of(portrait)
    return DeskOut(
        portrait=portrait_out(portrait),
        faces=edit.analysis,
        frame=frame_out(desk.warp_of(portrait, edit)),
        passes=[_pass(p) for p in edit.passes],
        history=_history(portrait),
        left=list(desk.left_of(portrait)),
    )


@router.post(
    "/portraits/{portrait_id}/gestures",
    response={200: OutcomeOut, 404: Message, 409: Message, 422: Message},
    operation_id="make_gesture",
)
def make_gesture(request: HttpRequest, portrait_id: str, body: GestureIn) -> OutcomeOut:
    """Carry out and save a finished gesture."""
    portrait = library.find(request.user, portrait_id)
    ahead = _ahead(portrait, body.seen)
    done = gestures.perform(portrait, body.revision, body.operation, ahead, body.goes_on)
    return _outcome(done, ahead)


@router.get(
    "/portraits/{portrait_id}/passes/{pass_id}/repeats",
    response={200: list[RepeatOut], 404: Message},
    operation_id="find_repeats",
)
def find_repeats(request: HttpRequest, portrait_id: str, pass_id: str) -> list[RepeatOut]:
    """Touches of a pass that visibly repeat the place they were taken from."""
    portrait = library.find(request.user, portrait_id)
    return [
        RepeatOut(touch_id=r.id, likeness=round(r.likeness, 3))
        for r in gestures.repeats(portrait, pass_id)
    ]


@router.get("/portraits/{portrait_id}/work", response=WorkOut, operation_id="get_work")
def get_work(request: HttpRequest, portrait_id: str) -> WorkOut:
    """How far a long gesture (a large fill) is."""
    return WorkOut(done=working.progress(library.find(request.user, portrait_id).id))


@router.delete("/portraits/{portrait_id}/work", response=WorkOut, operation_id="stop_work")
def stop_work(request: HttpRequest, portrait_id: str) -> WorkOut:
    """Stop it; the gesture is then refused and nothing has changed."""
    portrait = library.find(request.user, portrait_id)
    working.stop(portrait.id)
    return WorkOut(done=working.progress(portrait.id))


@router.post(
    "/portraits/{portrait_id}/history",
    response={200: OutcomeOut, 400: Message, 404: Message, 409: Message},
    operation_id="step_history",
)
def step_history(request: HttpRequest, portrait_id: str, body: StepIn) -> OutcomeOut:
    """Undo or redo, any number of steps at once."""
    portrait = library.find(request.user, portrait_id)
    ahead = _ahead(portrait, body.seen)
    return _outcome(gestures.step(portrait, body.revision, body.to, ahead), ahead)


@router.get(
    "/portraits/{portrait_id}/history",
    response={200: list[HistoryEntryOut], 404: Message},
    operation_id="list_history",
)
def list_history(request: HttpRequest, portrait_id: str) -> list[HistoryEntryOut]:
    """All gestures, the first first."""
    portrait = library.find(request.user, portrait_id)
    entries = HistoryEntry.objects.filter(portrait=portrait).only(
        "number", "label", "region", "created_at"
    )
    return [
        HistoryEntryOut(number=e.number, label=e.label, region=e.region, created_at=e.created_at)
        for e in entries
    ]


@router.get(
    "/portraits/{portrait_id}/history/{number}/thumbnail",
    operation_id="get_step_thumbnail",
    openapi_extra=_JPEG,
)
def get_step_thumbnail(request: HttpRequest, portrait_id: str, number: int) -> HttpResponse:
    """What a step of the history changed, as it was after it."""
    portrait = library.find(request.user, portrait_id)
    small = thumbnails.of_step(portrait, number)
    headers = {"Cache-Control": "no-store"}
    return HttpResponse(small.data, content_type="image/jpeg", headers=headers)


@router.get(
    "/portraits/{portrait_id}/looks/{name}/sample",
    operation_id="get_look_sample",
    openapi_extra=_JPEG,
)
def get_look_sample(request: HttpRequest, portrait_id: str, name: str) -> HttpResponse:
    """What a ready look would make of the portrait as it stands, small."""
    portrait = library.find(request.user, portrait_id)
    small = thumbnails.of_look(portrait, name)
    headers = {"Cache-Control": "no-store"}
    return HttpResponse(small.data, content_type="image/jpeg", headers=headers)


@router.get("/portraits/{portrait_id}/edit", operation_id="get_edit")
def get_edit(request: HttpRequest, portrait_id: str) -> dict[str, object]:
    """The edit in its published form (docs/formats/edit.schema.json), for the command line."""
    portrait = library.find(request.user, portrait_id)
    return to_data(desk.edit_of(portrait))

"""The API of routines and runs."""

from __future__ import annotations

from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Status
from ninja.files import UploadedFile

from retouch.forms.routines import routine_dumps, routine_to_data
from retouch.passes import registry
from retouch.work.routines import Foreseen, foreseen
from studio.errors import Problem
from studio.portraits.api.deliveries import delivery_out, wish_of
from studio.portraits.api.library import portrait_out
from studio.portraits.api.schemas import Message
from studio.portraits.services import analysing, desk, library, thumbnails
from studio.runs import schemas
from studio.runs.models import Run, RunItem
from studio.runs.services import reviewing, routines, running

router = Router(tags=["runs"])

_MOST_PER_PAGE = 100
_ORDERS = {"worry": ("-worry", "number"), "number": ("number",)}


def _routine_out(one: routines.Known) -> schemas.RoutineOut:
    r = one.routine
    return schemas.RoutineOut(
        name=one.name, own=one.own, title=r.title, meaning=r.note, stage=r.stage, glasses=r.glasses,
        spots_from=r.spots_from, revision=r.revision,
        steps=[s.name or registry.kind(s.kind).title for s in r.steps],
        deliveries=list(r.deliveries), routine=routine_to_data(r),
    )  # fmt: skip


@router.get("/routines", response=list[schemas.RoutineOut], operation_id="list_routines")
def list_routines(request: HttpRequest) -> list[schemas.RoutineOut]:
    """The routines that ship, the lightest first, then the user's own."""
    return [_routine_out(r) for r in routines.known(request.user)]


@router.post(
    "/portraits/{portrait_id}/learn",
    response={200: schemas.LearnedOut, 404: Message, 422: Message},
    operation_id="learn_routine",
)
def learn_routine(
    request: HttpRequest, portrait_id: str, body: schemas.LearnIn
) -> schemas.LearnedOut:
    """A routine of what was done on a portrait."""
    portrait = library.find(request.user, portrait_id)
    found = routines.learn(
        portrait, body.title, body.note, body.ids, body.spots_from, body.alone, body.deliveries
    )
    name = routines.keep(request.user, found).name if body.keep else ""
    steps = [s.name or registry.kind(s.kind).title for s in found.routine.steps]
    return schemas.LearnedOut(
        name=name, title=found.routine.title, steps=steps, fitted=list(found.fitted),
        left_out=list(found.left_out),
    )  # fmt: skip


@router.post(
    "/routines", response={201: schemas.TakenRoutineOut, 422: Message}, operation_id="add_routine"
)
def add_routine(request: HttpRequest, file: File[UploadedFile]) -> Status[schemas.TakenRoutineOut]:
    """A routine from a file."""
    if (file.size or 0) > routines.MOST_BYTES:
        most = routines.MOST_BYTES // 1_000_000
        raise Problem(422, "too_large", f"A routine's file has {most} MB at most.")
    known, left = routines.take_in(request.user, file.read())
    return Status(201, schemas.TakenRoutineOut(routine=_routine_out(known), left_out=list(left)))


@router.get("/routines/{name}/file", operation_id="fetch_routine")
def fetch_routine(request: HttpRequest, name: str) -> HttpResponse:
    """A routine as a JSON file."""
    found = routines.find(request.user, name).routine
    return HttpResponse(
        routine_dumps(found), content_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="routine.json"'},
    )  # fmt: skip


@router.patch(
    "/routines/{name}",
    response={200: schemas.RoutineOut, 404: Message, 422: Message},
    operation_id="change_routine",
)
def change_routine(
    request: HttpRequest, name: str, body: schemas.ChangeRoutineIn
) -> schemas.RoutineOut:
    """Another title, note, confidence from which spots are healed, or presets of delivery."""
    given = {n: v for n in ("title", "note", "spots_from") if (v := getattr(body, n)) is not None}
    if body.no_spots:
        given["spots_from"] = None
    if body.deliveries is not None:
        given["deliveries"] = tuple(body.deliveries)
    return _routine_out(routines.change(request.user, name, **given))


@router.post(
    "/routines/{name}/copy",
    response={201: schemas.RoutineOut, 404: Message, 422: Message},
    operation_id="copy_routine",
)
def copy_routine(request: HttpRequest, name: str) -> Status[schemas.RoutineOut]:
    """A routine once more, as one of one's own."""
    return Status(201, _routine_out(routines.copy(request.user, name)))


@router.delete(
    "/routines/{name}", response={204: None, 404: Message}, operation_id="delete_routine"
)
def delete_routine(request: HttpRequest, name: str) -> Status[None]:
    """Put a routine away; it can be taken back."""
    routines.delete(request.user, name)
    return Status(204, None)


@router.post(
    "/routines/{name}/restore",
    response={200: schemas.RoutineOut, 404: Message},
    operation_id="restore_routine",
)
def restore_routine(request: HttpRequest, name: str) -> schemas.RoutineOut:
    """Take a deleted routine back."""
    return _routine_out(routines.restore(request.user, name))


@router.get(
    "/portraits/{portrait_id}/routines/{name}/foreseen",
    response={200: list[schemas.ForeseenOut], 404: Message},
    operation_id="foresee_routine",
)
def foresee_routine(request: HttpRequest, portrait_id: str, name: str) -> list[Foreseen]:
    """What a routine will do on this portrait, before it does it."""
    portrait = library.find(request.user, portrait_id)
    one = routines.find(request.user, name).routine
    return foreseen(one, analysing.of_edit(portrait.id, desk.edit_of(portrait)))


@router.get(
    "/portraits/{portrait_id}/routines/{name}/sample",
    operation_id="sample_routine",
    openapi_extra={"responses": {200: {"description": "A JPEG.", "content": {"image/jpeg": {}}}}},
)
def sample_routine(request: HttpRequest, portrait_id: str, name: str) -> HttpResponse:
    """A small picture of what a routine's passes do on this portrait, without spots healed."""
    portrait = library.find(request.user, portrait_id)
    one = routines.find(request.user, name).routine
    small = thumbnails.routine_sample(portrait, one)
    return HttpResponse(
        small.data, content_type="image/jpeg", headers={"Cache-Control": "no-cache"}
    )


def _run_out(run: Run) -> schemas.RunOut:
    found = running.counts(run)
    return schemas.RunOut(
        id=run.pk, title=run.title, state=run.state, strength=run.strength,  # type: ignore[arg-type]
        created_at=run.created_at, seconds_left=running.seconds_left(run, found),
        deliveries=run.routine.get("deliveries", []), **found,
    )  # fmt: skip


@router.post(
    "/runs",
    response={201: schemas.RunOut, 404: Message, 422: Message},
    operation_id="start_run",
)
def start_run(request: HttpRequest, body: schemas.RunIn) -> Status[schemas.RunOut]:
    """Begin a run."""
    run = running.start(
        request.user, body.portraits, body.routine, body.strength, body.spots_from, body.title
    )
    return Status(201, _run_out(run))


@router.get("/runs", response=list[schemas.RunOut], operation_id="list_runs")
def list_runs(request: HttpRequest, page: int = 0) -> list[schemas.RunOut]:
    """The user's runs, the newest first, twenty to a page."""
    begin = max(0, min(page, 10_000)) * 20
    return [_run_out(r) for r in Run.objects.filter(owner=request.user)[begin : begin + 20]]  # type: ignore[misc]


@router.get("/runs/{run_id}", response={200: schemas.RunOut, 404: Message}, operation_id="get_run")
def get_run(request: HttpRequest, run_id: str) -> schemas.RunOut:
    """Where a run stands."""
    return _run_out(running.find(request.user, run_id))


@router.get(
    "/runs/{run_id}/items",
    response={200: schemas.ItemsOut, 404: Message},
    operation_id="list_run_items",
)
def list_run_items(
    request: HttpRequest,
    run_id: str,
    state: Literal["all", "open", "accepted", "failed", "going"] = "all",
    order: Literal["worry", "number"] = "worry",
    start: int = 0,
    count: int = 40,
) -> schemas.ItemsOut:
    """A page of a run's portraits: what needs eyes first, or in their order."""
    run = running.find(request.user, run_id)
    items = RunItem.objects.filter(run=run)
    if state == "open":
        items = items.filter(state="done", review="open")
    elif state == "accepted":
        items = items.filter(review="accepted")
    elif state == "failed":
        items = items.filter(state__in=("failed", "cancelled"))
    elif state == "going":
        items = items.filter(state__in=("waiting", "working"))
    begin, most = max(0, min(start, 100_000)), max(1, min(count, _MOST_PER_PAGE))
    page = items.select_related("portrait").order_by(*_ORDERS[order])[begin : begin + most]
    return schemas.ItemsOut(count=items.count(), items=[_item_out(i) for i in page])


def _item_out(item: RunItem) -> schemas.ItemOut:
    share, doing = running.runner.told(item) or (None, "")
    return schemas.ItemOut(
        share=share, doing=doing,
        number=item.number, portrait=portrait_out(item.portrait), state=item.state,  # type: ignore[arg-type]
        message=item.message, note=item.note, faces=item.faces, asked=item.asked, healed=item.healed,
        texture=item.texture, colour=item.colour, beyond=item.beyond, review=item.review,  # type: ignore[arg-type]
        can_ease=bool(item.bound) and item.review != "undone",
    )  # fmt: skip


@router.post(
    "/runs/{run_id}/{action}",
    response={200: schemas.RunOut, 404: Message, 422: Message},
    operation_id="steer_run",
)
def steer_run(
    request: HttpRequest,
    run_id: str,
    action: Literal["pause", "go-on", "cancel", "first", "retry"],
    body: schemas.ChosenIn | None = None,
) -> schemas.RunOut:
    """Pause a run, go on, cancel what isn't done, put it before the others, try failed ones again."""
    run = running.find(request.user, run_id)
    if action == "retry":
        running.retry(run, body.numbers if body is not None else None)
    else:
        steer = {"pause": running.pause, "go-on": running.go_on, "cancel": running.cancel, "first": running.first}  # fmt: skip
        steer[action](run)
    return _run_out(running.find(request.user, run_id))


@router.post(
    "/runs/{run_id}/review/accept",
    response={200: schemas.RunOut, 404: Message},
    operation_id="accept_results",
)
def accept_results(request: HttpRequest, run_id: str, body: schemas.AcceptIn) -> schemas.RunOut:
    """Accept results, or take that back."""
    run = running.find(request.user, run_id)
    reviewing.accept(run, body.numbers, body.accepted)
    return _run_out(run)


@router.post(
    "/runs/{run_id}/review/ease",
    response={200: schemas.EasedOut, 404: Message},
    operation_id="ease_results",
)
def ease_results(request: HttpRequest, run_id: str, body: schemas.EaseIn) -> schemas.EasedOut:
    """Another strength for what the run did, on some portraits or all that are open."""
    run = running.find(request.user, run_id)
    eased, left = reviewing.ease(run, body.strength, body.numbers)
    return schemas.EasedOut(eased=eased, left=left)


@router.post(
    "/runs/{run_id}/items/{number}/undo",
    response={200: schemas.ItemOut, 404: Message, 409: Message},
    operation_id="undo_result",
)
def undo_result(request: HttpRequest, run_id: str, number: int) -> schemas.ItemOut:
    """Take back what the run did on a portrait."""
    run = running.find(request.user, run_id)
    reviewing.undo(run, number)
    return _item_out(reviewing.item_of(run, number))


@router.post(
    "/runs/{run_id}/review/deliver",
    response={202: schemas.DeliveriesOut, 404: Message, 422: Message},
    operation_id="deliver_results",
)
def deliver_results(
    request: HttpRequest, run_id: str, body: schemas.DeliverRunIn
) -> Status[schemas.DeliveriesOut]:
    """Begin to deliver what was accepted."""
    run = running.find(request.user, run_id)
    batch, begun = reviewing.deliver(run, wish_of(body.wish), body.numbers)
    deliveries = [delivery_out(d) for d in begun]
    return Status(202, schemas.DeliveriesOut(batch=batch, deliveries=deliveries))

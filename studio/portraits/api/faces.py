"""Faces, zones and marks of a portrait."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from retouch.borrowing.pins import laid
from retouch.passes import registry
from retouch.work.borrowing import similarity_back
from retouch.work.marks import decided
from retouch.work.travelling import Seen
from retouch.zone_names import REGION_TITLES, ZONES
from studio.portraits.api.face_schemas import (
    AnalysisOut,
    AtStepOut,
    FaceOut,
    FindingOut,
    GlassesOut,
    HoldOut,
    LaidOverOut,
    MarkOut,
    PassMovedOut,
    PassReadingOut,
    PassReadOut,
    PlaceOut,
    PullOut,
    ReadingOut,
    RedEyeOut,
    ReflectionOut,
    SeenMarkOut,
    SessionPersonOut,
    SpotOut,
    SweepIn,
    WhoIn,
    ZoneOut,
)
from studio.portraits.api.schemas import Message
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, benches, desk, faces, library, natural, travelling

router = Router(tags=["faces"])


def _out(portrait: Portrait) -> AnalysisOut:
    state = analysing.status(portrait)
    analysis = analysing.result(portrait) if state.state == "done" else None
    out = AnalysisOut(
        state=state.state, share=state.share, doing=state.doing, seen=portrait.seen,
    )  # fmt: skip
    if analysis is None:
        return out
    edit = desk.edit_of(portrait)
    out.key = analysis.key
    out.faces = [
        FaceOut(
            number=n,
            title=f"Face {n + 1}",
            anchor=face.anchor,
            box=list(face.box),
            by_hand=face.by_hand,
            score=face.score,
            yaw=face.pose.yaw,
            pitch=face.pose.pitch,
            roll=face.pose.roll,
            px_per_mm=face.scale.px_per_mm,
            uncertainty=face.scale.uncertainty,
            pupils_mm=face.scale.pupils_mm,
            plausible=face.scale.plausible,
            scale_source=face.scale.source,
            outlines=face.outlines(),
            doubts=list(faces.doubts_of(analysis, n)),
            irises=[[i.x, i.y, i.radius] for i in (face.right_iris, face.left_iris)],
        )
        for n, face in enumerate(analysis.faces)
    ]
    out.places = [
        PlaceOut(
            zone=p.zone,
            face=p.face,
            rect=list(p.rect.as_tuple()),
            touches=p.touches,
            strength=p.strength,
            outlines=[[list(at) for at in line] for line in p.outlines],
        )
        for p in faces.places(analysis, edit)
    ]
    out.marks = [
        MarkOut(
            **vars(d.mark),
            id=d.id,
            face=d.face,
            zone=d.zone,
            decision=d.decision,  # type: ignore[arg-type]  # pydantic checks it
            touch_id=d.touch_id,
            cleared=d.cleared,
        )
        for d in decided(analysis, edit)
    ]
    out.missed = [list(m) for m in analysis.missed]
    return out


@router.get("/zones", response=list[ZoneOut], operation_id="list_zones")
def list_zones(request: HttpRequest) -> list[ZoneOut]:
    """Every zone there is, and those that stand for several together."""
    kinds: dict[str, str] = {z.name: z.kind for z in ZONES}
    kinds |= dict.fromkeys(REGION_TITLES, "region")
    return [
        ZoneOut(
            name=name,
            title=title,
            kind=kinds.get(name, "together"),  # type: ignore[arg-type]  # pydantic checks it
        )
        for name, title in faces.titles().items()
    ]


@router.get(
    "/portraits/{portrait_id}/session-marks",
    response={200: list[SeenMarkOut], 404: Message},
    operation_id="list_session_marks",
)
def list_session_marks(request: HttpRequest, portrait_id: str) -> list[Seen]:
    """Marks as the same person's other pictures of the session have them."""
    return travelling.seen(library.find(request.user, portrait_id))


@router.get(
    "/portraits/{portrait_id}/session-people",
    response={200: list[SessionPersonOut], 404: Message},
    operation_id="list_session_people",
)
def list_session_people(request: HttpRequest, portrait_id: str) -> list[travelling.Person]:
    """The session's other pictures, and whether somebody of this one is on them."""
    return travelling.people(library.find(request.user, portrait_id))


@router.post(
    "/portraits/{portrait_id}/session-people",
    response={200: list[SessionPersonOut], 404: Message},
    operation_id="say_who_is_who",
)
def say_who_is_who(request: HttpRequest, portrait_id: str, body: WhoIn) -> list[travelling.Person]:
    """Say that another picture of the session shows the same person, or somebody else."""
    portrait = library.find(request.user, portrait_id)
    travelling.say(portrait, body.portrait, body.same)
    return travelling.people(portrait)


@router.get(
    "/portraits/{portrait_id}/analysis",
    response={200: AnalysisOut, 404: Message},
    operation_id="get_analysis",
)
def get_analysis(request: HttpRequest, portrait_id: str) -> AnalysisOut:
    """The analysis as far as it is; starts it where there is none."""
    return _out(library.find(request.user, portrait_id))


@router.post(
    "/portraits/{portrait_id}/analysis",
    response={200: AnalysisOut, 404: Message},
    operation_id="analyse_again",
)
def analyse_again(request: HttpRequest, portrait_id: str) -> AnalysisOut:
    """Throw the analysis away and make it anew."""
    portrait = library.find(request.user, portrait_id)
    analysing.again(portrait)
    return _out(portrait)


@router.put(
    "/portraits/{portrait_id}/sweep",
    response={200: list[str], 404: Message},
    operation_id="keep_sweep",
)
def keep_sweep(request: HttpRequest, portrait_id: str, body: SweepIn) -> list[str]:
    """Remember which zones the sweep has shown."""
    portrait = library.find(request.user, portrait_id)
    portrait.seen = sorted(set(body.seen))
    portrait.save(update_fields=["seen"])
    return list(portrait.seen)


@router.get(
    "/portraits/{portrait_id}/zone",
    operation_id="get_zone",
    openapi_extra={
        "responses": {200: {"description": "A grey PNG.", "content": {"image/png": {}}}}
    },
)
def get_zone(
    request: HttpRequest,
    portrait_id: str,
    name: Annotated[str, Query(max_length=64)],
    x: float,
    y: float,
    scale: float,
    width: int,
    height: int,
    face: int | None = None,
) -> HttpResponse:
    """A zone's mask in a view: white is inside."""
    portrait = library.find(request.user, portrait_id)
    data = faces.zone_view(portrait, name, x, y, scale, width, height, face)
    return HttpResponse(data, content_type="image/png", headers={"Cache-Control": "no-store"})


@router.get(
    "/portraits/{portrait_id}/texture",
    response={200: list[ReadingOut], 404: Message},
    operation_id="read_texture",
)
def read_texture(request: HttpRequest, portrait_id: str, face: int = 0) -> list[ReadingOut]:
    """How much texture each zone of a face's skin has left, and how far its colour has moved."""
    portrait = library.find(request.user, portrait_id)
    return [
        ReadingOut(zone=r.zone, texture=round(r.texture, 1), change=round(r.change, 2))
        for r in faces.texture(portrait, face)
    ]


@router.get(
    "/portraits/{portrait_id}/passes/{pass_id}/readings",
    response={200: PassReadOut, 404: Message},
    operation_id="read_pass",
)
def read_pass(request: HttpRequest, portrait_id: str, pass_id: str) -> PassReadOut:
    """What a pass tells of itself: numbers before and with it, none where it acts nowhere; and what is
    to be said about where it stands.
    """
    portrait = library.find(request.user, portrait_id)
    readings = [
        PassReadingOut(
            name=r.name,
            title=r.title,
            meaning=r.meaning,
            unit=r.unit,
            before=round(r.before, 1),
            after=round(r.after, 1),
            limit=None if r.limit is None else round(r.limit, 1),
            least=r.least,
            beyond=r.beyond,
            of=list(r.of),
            usual=r.usual,
        )
        for r in faces.of_pass(portrait, pass_id)
    ]
    said = faces.notes_of(portrait, pass_id, found=bool(readings))
    return PassReadOut(readings=readings, notes=said)


@router.get(
    "/portraits/{portrait_id}/red-eyes",
    response={200: list[RedEyeOut], 404: Message},
    operation_id="find_red_eyes",
)
def find_red_eyes(request: HttpRequest, portrait_id: str) -> list[RedEyeOut]:
    """Pupils that glow red from the flash, in the original; none while faces aren't known."""
    portrait = library.find(request.user, portrait_id)
    return [
        RedEyeOut(
            face=e.face,
            side=e.side,  # type: ignore[arg-type]  # pydantic checks it
            x=round(e.x, 1),
            y=round(e.y, 1),
            radius_px=round(e.radius, 1),
        )
        for e in faces.glowing(portrait)
    ]


@router.get(
    "/portraits/{portrait_id}/glasses",
    response={200: GlassesOut, 404: Message},
    operation_id="find_glasses",
)
def find_glasses(request: HttpRequest, portrait_id: str) -> GlassesOut:
    """Glasses with reflections on them, and braces, in the original; none while faces aren't known."""
    portrait = library.find(request.user, portrait_id)
    worn, found = faces.reflecting(portrait)
    return GlassesOut(
        faces=worn,
        braces=faces.braced(portrait),
        reflections=[
            ReflectionOut(
                face=r.face,
                side="right" if r.right else "left",
                burnt=r.burnt,
                path=list(r.outline),
                place=r.place,
            )
            for r in found
        ],
    )


@router.get(
    "/portraits/{portrait_id}/holds",
    response={200: list[HoldOut], 404: Message},
    operation_id="find_holds",
)
def find_holds(request: HttpRequest, portrait_id: str, face: int = 0) -> list[HoldOut]:
    """Places of a face that one can take hold of; none while no such face is known."""
    declared = {s.name: s for s in registry.kind("proportions").settings}
    return [
        HoldOut(
            title=h.title,
            side=h.side,
            at=h.at,
            pulls=[
                PullOut(
                    number=p.number, title=declared[p.number].title, unit=declared[p.number].unit,
                    pair=declared[p.number].pair, way=p.way, per_mm=p.per_mm,
                )
                for p in h.pulls
            ],
        )
        for h in faces.holds_of(library.find(request.user, portrait_id), face)
    ]  # fmt: skip


@router.get(
    "/portraits/{portrait_id}/moves",
    response={200: list[PassMovedOut], 404: Message},
    operation_id="list_moves",
)
def list_moves(request: HttpRequest, portrait_id: str) -> list[PassMovedOut]:
    """Everything that is moved in the portrait, pass by pass."""
    found = faces.moves_of(library.find(request.user, portrait_id))
    return [PassMovedOut(**{**asdict(one), "what": list(one.what)}) for one in found]


@router.get(
    "/portraits/{portrait_id}/natural",
    response={200: list[FindingOut], 404: Message, 422: Message},
    operation_id="check_natural",
)
def check_natural(request: HttpRequest, portrait_id: str) -> list[FindingOut]:
    """The natural check of the portrait as it stands; takes some seconds the first time."""
    found = natural.checked(library.find(request.user, portrait_id))
    return [
        FindingOut(
            **{**asdict(f), "place": list(f.place.as_tuple()) if f.place is not None else None},
            amber=f.amber,
            eases=f.eases,
        )
        for f in found
    ]


@router.get(
    "/portraits/{portrait_id}/natural/at",
    response={200: AtStepOut, 404: Message, 422: Message},
    operation_id="read_at_step",
)
def read_at_step(
    request: HttpRequest,
    portrait_id: str,
    step: Annotated[int, Query(ge=0, le=10_000_000)],
    reading: Annotated[str, Query(max_length=64)],
    face: Annotated[int | None, Query(ge=0, le=1000)] = None,
    zone: Annotated[str, Query(max_length=64)] = "",
) -> AtStepOut:
    """One reading of the portrait as it was at a step of its history."""
    portrait = library.find(request.user, portrait_id)
    label, found = natural.at_step(portrait, step, reading, face, zone)
    return AtStepOut(
        step=step, label=label, value=found.value if found else None,
        limit=found.limit if found else 0.0, amber=found.amber if found else False,
    )  # fmt: skip


@router.get(
    "/portraits/{portrait_id}/natural/spots",
    response={200: list[SpotOut], 404: Message},
    operation_id="find_spots",
)
def find_spots(
    request: HttpRequest,
    portrait_id: str,
    seed: Annotated[int, Query(ge=0, le=2**31)],
    count: Annotated[int, Query(ge=1, le=24)] = 8,
) -> list[SpotOut]:
    """Random places at which the result differs from the original, to be compared one to one."""
    portrait = library.find(request.user, portrait_id)
    return [
        SpotOut(x=r.x0, y=r.y0, width=r.width, height=r.height)
        for r in natural.spots(portrait, count, seed)
    ]


@router.get(
    "/portraits/{portrait_id}/laid-over",
    response={200: LaidOverOut, 404: Message, 422: Message},
    operation_id="lay_over",
)
def lay_over(
    request: HttpRequest, portrait_id: str, other: Annotated[str, Query(max_length=64)]
) -> LaidOverOut:
    """Where each place of this portrait lies on another one, by their largest faces."""
    found = benches.laid_over(library.find(request.user, portrait_id), other)
    turn = laid(found.pins[:2] if len(found.pins) == 2 else found.pins).turn
    return LaidOverOut(
        name=found.name,
        picture=found.picture,
        width=found.width,
        height=found.height,
        pins=list(found.pins),
        there=[tuple(row) for row in turn.tolist()],
        back=[tuple(row) for row in similarity_back(turn).tolist()],
    )

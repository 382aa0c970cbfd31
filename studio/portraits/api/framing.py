"""The frame while it is worked on."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router

from retouch.warp import Warp
from studio.portraits.api.schemas import (
    CutOut,
    FrameOut,
    FramingIn,
    FramingOut,
    LevelIn,
    LevelOut,
    Message,
)
from studio.portraits.services import framing, library

router = Router(tags=["frame"])


def frame_out(warp: Warp) -> FrameOut:
    """A frame as the window needs it."""
    assert warp.matrix is not None
    numbers = [float(v) for v in warp.matrix.reshape(-1)]
    return FrameOut(key=warp.key, width=warp.width, height=warp.height, matrix=numbers)


@router.post(
    "/portraits/{portrait_id}/framing",
    response={200: FramingOut, 404: Message, 422: Message},
    operation_id="try_frame",
)
def try_frame(request: HttpRequest, portrait_id: str, body: FramingIn) -> FramingOut:
    """How settings of a frame come out; nothing is changed."""
    portrait = library.find(request.user, portrait_id)
    made = framing.framing(portrait, body.settings)
    plane = [float(v) for v in made.plane.reshape(-1)]
    return FramingOut(frame=frame_out(made.warp), plane=plane, rect=list(made.rect))


@router.post(
    "/portraits/{portrait_id}/framing/cuts",
    response={200: list[CutOut], 404: Message, 422: Message},
    operation_id="propose_cuts",
)
def propose_cuts(request: HttpRequest, portrait_id: str, body: FramingIn) -> list[CutOut]:
    """Frames that suit a face, in a picture straightened as the settings say."""
    portrait = library.find(request.user, portrait_id)
    return [
        CutOut(
            name=p.cut.name, title=p.cut.title, meaning=p.cut.meaning, settings=p.settings,
            fits=p.fits,
        )
        for p in framing.cuts(portrait, body.settings, body.face)
    ]  # fmt: skip


@router.post(
    "/portraits/{portrait_id}/framing/level",
    response={200: LevelOut, 404: Message, 422: Message},
    operation_id="propose_level",
)
def propose_level(request: HttpRequest, portrait_id: str, body: LevelIn) -> LevelOut:
    """The angle that levels the picture."""
    portrait = library.find(request.user, portrait_id)
    found = framing.level(portrait, body.by, body.face)
    return LevelOut(angle=round(min(max(found.angle, -45.0), 45.0), 2))

"""The frame while it is worked on."""

from __future__ import annotations

import base64

import numpy as np
from django.http import HttpRequest
from ninja import Router

from retouch.geometry import union_all
from retouch.shape.composed import nodes_of
from retouch.warp import Warp
from studio.portraits.api.schemas import (
    CutOut,
    FrameOut,
    FramingIn,
    FramingOut,
    LevelIn,
    LevelOut,
    Message,
    MovedOut,
)
from studio.portraits.services import framing, library

# Nodes along the longer side of what is moved.
_MOST_NODES = 90

router = Router(tags=["frame"])


def frame_out(warp: Warp) -> FrameOut:
    """A frame as the window needs it."""
    flat = warp.flat
    assert flat.matrix is not None
    numbers = [float(v) for v in flat.matrix.reshape(-1)]
    return FrameOut(
        key=flat.key, width=warp.width, height=warp.height, matrix=numbers, moved=_moved_out(warp)
    )


def _moved_out(warp: Warp) -> MovedOut | None:
    """What fields move, coarsely: enough for a pointer."""
    if not warp.fields:
        return None
    rect = union_all([f.rect for f in warp.fields])
    step = max(4.0, max(rect.width, rect.height) / _MOST_NODES)
    x, y, places = nodes_of(rect, step)
    flat = places.reshape(-1, 2)
    at = flat
    for field in warp.fields:
        at = field.back(at)
    rows, columns = places.shape[:2]
    data = np.ascontiguousarray(at - flat, "<f4").tobytes()
    return MovedOut(
        key=warp.key, x=x, y=y, step=step, columns=columns, rows=rows,
        shifts=base64.b64encode(data).decode(),
    )  # fmt: skip


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

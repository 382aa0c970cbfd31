"""Open portraits in memory: their pixels, renderers and current edits.

One process serves all requests (see docs/architecture.md), so this memory is the only one.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from django.conf import settings

from retouch.edit import Edit
from retouch.errors import EditError, PictureError
from retouch.face import Analysis
from retouch.face.cover import FaceZones
from retouch.geometry import Rect
from retouch.memory import shared
from retouch.passes.elsewhere import nowhere
from retouch.picture import Pyramid, read
from retouch.picture.raw import USUAL, Development
from retouch.render import Renderer, framing
from retouch.render.developing import development_of
from retouch.render.shaping import shaping
from retouch.warp import Warp
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import rows
from studio.portraits.services.shelf import Shelf

# All that is kept in this process: open pictures, rendered parts, masks, analyses.
memory = shared()
memory.budget = settings.MEMORY_BYTES
# Open pictures may take up this part of it; the one that is worked on stays whatever it takes.
_PICTURES = 0.5
_lock = threading.Lock()
# By portrait, and by how a raw file is developed.
_Key = tuple[str, Development]
_renderers: OrderedDict[_Key, Renderer] = OrderedDict()
_opening: dict[_Key, threading.Lock] = {}
_edits: OrderedDict[str, tuple[int, Edit, tuple[str, ...]]] = OrderedDict()
_MOST_EDITS = 64
# The format of portraits that are developed.
RAW = "raw"
_analyses: Callable[[str, Edit], Analysis | None] | None = None


@dataclass(frozen=True)
class Desk:
    """A portrait ready to be worked on."""

    portrait: Portrait
    renderer: Renderer
    edit: Edit


def open_desk(portrait: Portrait) -> Desk:
    """The portrait with its renderer and its edit at ``portrait.revision``."""
    return Desk(portrait, renderer_of(portrait), edit_of(portrait))


def edit_of(portrait: Portrait) -> Edit:
    """The edit at the portrait's revision, from memory if it is there."""
    return _opened(portrait)[0]


def warp_of(portrait: Portrait, edit: Edit | None = None) -> Warp:
    """The map from the framed picture to the original, of the portrait's edit or another one."""
    edit = edit if edit is not None else edit_of(portrait)
    if any(p.mask.areas or p.mask.invert or p.mask.strokes for p in shaping(edit)):
        # What is held hangs on masks, and those on the picture.
        return renderer_of(portrait).plan(edit).warp
    return framing.warp_of(edit, Rect(0, 0, portrait.width, portrait.height))


def left_of(portrait: Portrait) -> tuple[str, ...]:
    """What of the stored edit can't be used and is left aside, in words."""
    return _opened(portrait)[1]


def _opened(portrait: Portrait) -> tuple[Edit, tuple[str, ...]]:
    with _lock:
        known = _edits.get(portrait.id)
        if known is not None and known[0] == portrait.revision:
            _edits.move_to_end(portrait.id)
            return known[1], known[2]
    found = rows.load(portrait)
    remember(portrait, found.edit, found.left)
    return found.edit, found.left


def remember(portrait: Portrait, edit: Edit, left: tuple[str, ...] | None = None) -> None:
    """Keep the edit that belongs to the portrait's revision; what is ``left`` aside stays so."""
    with _lock:
        known = _edits.get(portrait.id)
        if known is not None and known[0] > portrait.revision:
            return
        if left is None:
            left = known[2] if known is not None else ()
        _edits[portrait.id] = (portrait.revision, edit, left)
        _edits.move_to_end(portrait.id)
        while len(_edits) > _MOST_EDITS:
            _edits.popitem(last=False)


def renderer_of(portrait: Portrait, edit: Edit | None = None) -> Renderer:
    """The renderer of the original, a raw file developed as an edit says: the portrait's, or another.

    Read from disk when it isn't in memory.
    """
    how = USUAL
    if portrait.format == RAW:
        how = development_of(edit if edit is not None else edit_of(portrait))
    key = (portrait.id, how)
    with _lock:
        known = _renderers.get(key)
        if known is not None:
            _renderers.move_to_end(key)
            return known
        gate = _opening.setdefault(key, threading.Lock())
    with gate:
        with _lock:
            known = _renderers.get(key)
        if known is not None:
            return known
        try:
            picture = read(portrait.original, how)
        except PictureError:
            raise Problem(
                410, "original_missing",
                f"The original of {portrait.name!r} is missing or damaged. What was done to it is kept: put the "
                "file back from a backup, and it goes on.",
            ) from None  # fmt: skip
        pyramid = Pyramid(picture)
        renderer = Renderer(
            pyramid, memory, Shelf(), partial(_zones, portrait.id, pyramid),
            partial(_other, portrait.owner_id),
        )  # fmt: skip
        with _lock:
            _renderers[key] = renderer
            _opening.pop(key, None)
            memory.hold(key, renderer.pyramid.bytes)
            while len(_renderers) > 1 and memory.held > _PICTURES * memory.budget:
                closed, _ = _renderers.popitem(last=False)
                memory.released(closed)
        return renderer


def is_open(portrait: Portrait) -> bool:
    """Whether the portrait's pixels are in memory."""
    with _lock:
        return any(k[0] == portrait.id for k in _renderers)


def _zones(portrait_id: str, pyramid: Pyramid, edit: Edit) -> FaceZones | None:
    """The zones that masks of an edit name; None until the faces have been looked at."""
    analysis = _analyses(portrait_id, edit) if _analyses is not None else None
    return None if analysis is None else FaceZones(analysis, edit, pyramid)


def _other(owner_id: int, content: str) -> Pyramid:
    """Another original of the same user, by its content; `EditError` says where it is gone."""
    found = (
        Portrait.objects.filter(owner_id=owner_id, sha256=content).order_by("deleted_at").first()
    )
    if found is None:
        return nowhere(content)
    if found.deleted_at is not None:
        raise EditError(
            f"This edit takes from the portrait {found.name!r}, which was deleted. Take it back from "
            "among the deleted ones, or remove what is taken from it."
        )
    try:
        return renderer_of(found, Edit()).pyramid
    except Problem as problem:
        raise EditError(str(problem.body["message"])) from None


def ask_for_zones(analyses: Callable[[str, Edit], Analysis | None]) -> None:
    """Tell where the analyses of portraits come from: (portrait id, edit) -> analysis."""
    global _analyses
    _analyses = analyses


def forget(portrait_id: str) -> None:
    """Drop a portrait from memory."""
    with _lock:
        for key in [k for k in _renderers if k[0] == portrait_id]:
            del _renderers[key]
            memory.released(key)
        _edits.pop(portrait_id, None)


def forget_all() -> None:
    """Drop everything, as a restart does."""
    with _lock:
        for key in _renderers:
            memory.released(key)
        _renderers.clear()
        _edits.clear()
    memory.clear()

"""Small pictures for the wall: as photographed, and as it stands."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
import simplejpeg
from django.conf import settings
from PIL import Image

from retouch.edit import Edit
from retouch.edit.routine import Routine
from retouch.geometry import Rect
from retouch.render import Renderer, framing, render_view
from retouch.work.bench import Refused
from retouch.work.operations import ApplyLook, ApplyRoutine
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import analysing, benches, desk, diskcache, gestures, takes

Side = Literal["before", "after"]
LONG_SIDE = 640
# Samples of looks.
LOOK_SIDE = 200
# Samples of routines.
SAMPLE_SIDE = 168
_QUALITY = 88
# Thumbnails of steps: their side in pixels, and how much of the surroundings they show.
_STEP_SIDE = 88
_AROUND = 2.0


@dataclass(frozen=True)
class Small:
    """A small picture (JPEG); ``lasting`` unless something that it shows isn't known yet."""

    data: bytes
    lasting: bool


def _folder() -> Path:
    return Path(settings.CACHE_DIR) / "thumbnails"


def _named(portrait: Portrait, what: str, edit: Edit) -> Path:
    """The file of a small picture, named after the analysis too where the edit hangs on it."""
    faces = analysing.named(portrait.id, edit).analysis[:12] if edit.needs_faces else ""
    return _folder() / f"{portrait.id}-{what}{f'-{faces}' if faces else ''}.jpg"


def _draw(renderer: Renderer, edit: Edit, long_side: int = LONG_SIDE) -> Small:
    plan = renderer.plan(edit)
    width, height = plan.warp.width, plan.warp.height
    scale = min(1.0, long_side / max(width, height))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    pixels = render_view(plan, 0, 0, scale, *size)
    data = simplejpeg.encode_jpeg(pixels, quality=_QUALITY, colorspace="RGB")
    return Small(data, plan.trouble is None)


def make_before(portrait: Portrait, renderer: Renderer) -> None:
    """Draw the thumbnail of a portrait that is being taken in."""
    diskcache.put(_named(portrait, "before", Edit()), _draw(renderer, Edit()).data)


def keep_preview(portrait: Portrait, preview: Image.Image) -> None:
    """Keep the small picture that a raw file brings, to be shown until it is developed."""
    small = preview.convert("RGB")
    small.thumbnail((LONG_SIDE, LONG_SIDE))
    data = simplejpeg.encode_jpeg(np.ascontiguousarray(small), quality=_QUALITY, colorspace="RGB")
    diskcache.put(_preview(portrait), data)


def _preview(portrait: Portrait) -> Path:
    return _folder() / f"{portrait.id}-preview.jpg"


def thumbnail(portrait: Portrait, side: Side, at_hand: bool = False) -> Small | None:
    """The portrait as photographed, or as it stands, both in its frame; drawn now if it isn't in
    the cache, or, if it has to be ``at_hand``, None.
    """
    before = side == "before" or portrait.history_at == 0
    edit = Edit()
    if portrait.history_at > 0:
        edit = desk.edit_of(portrait)
        edit = framing.frame_alone(edit) if before else edit
    key = desk.warp_of(portrait, edit).key
    what = f"before{f'-{key}' if key else ''}" if before else f"after-{portrait.revision}"
    path = _named(portrait, what, edit)
    if portrait.history_at == 0 and not path.exists() and not desk.is_open(portrait):
        try:
            return Small(_preview(portrait).read_bytes(), False)
        except OSError:
            # No raw file, or one that brings no preview.
            pass
    if at_hand and not path.exists():
        return None
    return _kept(path, lambda: _draw(desk.renderer_of(portrait, edit), edit))


def of_take(portrait: Portrait, take_id: str) -> Small:
    """A small picture of a take."""
    edit = takes.edit_of(portrait, take_id)
    path = _named(portrait, f"take-{take_id}", edit)
    return _kept(path, lambda: _draw(desk.renderer_of(portrait, edit), edit))


def of_step(portrait: Portrait, number: int) -> Small:
    """The place that a step of the history changed, as it was after the step."""
    entry = HistoryEntry.objects.filter(portrait=portrait, number=number).first()
    if entry is None:
        raise Problem(404, "no_such_step", "The history doesn't go that far.")
    mark = int(entry.created_at.timestamp() * 1e6)
    edit = gestures.edit_at(portrait, number)
    path = _named(portrait, f"step-{number}-{mark}", edit)

    def make() -> Small:
        renderer = desk.renderer_of(portrait, edit)
        plan = renderer.plan(edit)
        bounds = plan.warp.frame
        rect = plan.warp.covers(Rect(*entry.region)) if entry.region else bounds
        # Square, with surroundings, and never more than the picture.
        side = min(max(rect.width, rect.height) * _AROUND, max(bounds.width, bounds.height))
        side = max(side, _STEP_SIDE)
        scale = min(1.0, _STEP_SIDE / side)
        x = (rect.x0 + rect.x1 - side) / 2
        y = (rect.y0 + rect.y1 - side) / 2
        pixels = render_view(plan, x, y, scale, _STEP_SIDE, _STEP_SIDE)
        data = simplejpeg.encode_jpeg(pixels, quality=_QUALITY, colorspace="RGB")
        return Small(data, plan.trouble is None)

    return _kept(path, make)


def of_look(portrait: Portrait, name: str) -> Small:
    """What a ready look would make of the portrait as it stands."""
    edit = desk.edit_of(portrait)
    renderer = desk.renderer_of(portrait, edit)
    try:
        dressed = ApplyLook(name).perform(edit, benches.bench_of(portrait, renderer, edit)).edit
    except Refused as refused:
        raise Problem(404, refused.code, str(refused)) from None
    path = _named(portrait, f"look-{name}-{portrait.revision}", dressed)
    return _kept(path, lambda: _draw(renderer, dressed, LOOK_SIDE))


def routine_sample(portrait: Portrait, routine: Routine) -> Small:
    """What a routine's passes would make of the portrait as it stands; spots aren't healed for it."""
    edit = desk.edit_of(portrait)
    renderer = desk.renderer_of(portrait, edit)
    wish = ApplyRoutine(own=replace(routine, spots_from=None, glasses=False))
    try:
        done = wish.perform(edit, benches.bench_of(portrait, renderer, edit)).edit
    except Refused as refused:
        raise Problem(404, refused.code, str(refused)) from None
    # Its content names it: a title says nothing of what it does.
    key = hashlib.blake2b(repr(routine).encode(), digest_size=6).hexdigest()
    path = _named(portrait, f"routine-{key}-{portrait.revision}", done)
    analysis = analysing.of_edit(portrait.id, edit)
    face = analysis.faces[0].box if analysis is not None and analysis.faces else None
    return _kept(path, lambda: _halves(renderer, edit, done, face))


def _halves(
    renderer: Renderer, before: Edit, after: Edit, face: tuple[float, float, float, float] | None
) -> Small:
    """A face, or the whole picture: its left half as it is, its right half as it would be."""
    plans = [renderer.plan(e) for e in (before, after)]
    rect = plans[1].warp.frame
    if face is not None:
        x, y, w, h = (int(v) for v in face)
        rect = plans[1].warp.covers(Rect(x, y, x + w, y + h))
    side = max(rect.width, rect.height)
    scale = min(1.0, SAMPLE_SIDE / side)
    left, top = (rect.x0 + rect.x1 - side) / 2, (rect.y0 + rect.y1 - side) / 2
    size = max(2, round(side * scale))
    own, made = (render_view(p, left, top, scale, size, size) for p in plans)
    half = size // 2
    made[:, :half] = own[:, :half]
    made[:, half] = 255
    data = simplejpeg.encode_jpeg(made, quality=_QUALITY, colorspace="RGB")
    return Small(data, plans[1].trouble is None)


def _kept(path: Path, make: Callable[[], Small]) -> Small:
    """What the cache holds, or what is made now and kept if it lasts."""
    try:
        data = path.read_bytes()
        path.touch()
        return Small(data, True)
    except OSError:
        made = make()
        if made.lasting:
            diskcache.put(path, made.data)
        return made

"""Small pictures for the wall: as photographed, and as it stands."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Literal

import simplejpeg
from django.conf import settings

from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.render import Renderer, render_view
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import desk, diskcache, gestures, takes

Side = Literal["before", "after"]
LONG_SIDE = 640
_QUALITY = 88
# Thumbnails of steps: their side in pixels, and how much of the surroundings they show.
_STEP_SIDE = 88
_AROUND = 2.0


def _path(portrait: Portrait, side: Side) -> Path:
    mark = "before" if side == "before" else f"after-{portrait.revision}"
    return Path(settings.CACHE_DIR) / "thumbnails" / f"{portrait.id}-{mark}.jpg"


def _draw(renderer: Renderer, edit: Edit) -> bytes:
    bounds = renderer.bounds
    scale = min(1.0, LONG_SIDE / max(bounds.width, bounds.height))
    size = (max(1, round(bounds.width * scale)), max(1, round(bounds.height * scale)))
    pixels = render_view(renderer.plan(edit), 0, 0, scale, *size)
    return simplejpeg.encode_jpeg(pixels, quality=_QUALITY, colorspace="RGB")


def make_before(portrait: Portrait, renderer: Renderer) -> None:
    """Draw the thumbnail of a portrait that is being taken in."""
    diskcache.put(_path(portrait, "before"), _draw(renderer, Edit()))


def thumbnail(portrait: Portrait, side: Side) -> bytes:
    """JPEG bytes; drawn now if they aren't in the cache."""
    if portrait.history_at == 0:
        side = "before"
    path = _path(portrait, side)
    edit = desk.edit_of(portrait) if side == "after" else Edit()
    return _kept(path, lambda: _draw(desk.renderer_of(portrait), edit))


def of_take(portrait: Portrait, take_id: str) -> bytes:
    """A small picture of a take."""
    path = Path(settings.CACHE_DIR) / "thumbnails" / f"{portrait.id}-take-{take_id}.jpg"
    return _kept(path, lambda: _draw(desk.renderer_of(portrait), takes.edit_of(portrait, take_id)))


def of_step(portrait: Portrait, number: int) -> bytes:
    """The place that a step of the history changed, as it was after the step."""
    entry = HistoryEntry.objects.filter(portrait=portrait, number=number).first()
    if entry is None:
        raise Problem(404, "no_such_step", "The history doesn't go that far.")
    mark = int(entry.created_at.timestamp() * 1e6)
    path = Path(settings.CACHE_DIR) / "thumbnails" / f"{portrait.id}-step-{number}-{mark}.jpg"

    def make() -> bytes:
        renderer = desk.renderer_of(portrait)
        bounds = renderer.bounds
        rect = Rect(*entry.region) if entry.region else bounds
        # Square, with surroundings, and never more than the picture.
        side = min(max(rect.width, rect.height) * _AROUND, max(bounds.width, bounds.height))
        side = max(side, _STEP_SIDE)
        scale = min(1.0, _STEP_SIDE / side)
        x = (rect.x0 + rect.x1 - side) / 2
        y = (rect.y0 + rect.y1 - side) / 2
        plan = renderer.plan(gestures.edit_at(portrait, number))
        pixels = render_view(plan, x, y, scale, _STEP_SIDE, _STEP_SIDE)
        return simplejpeg.encode_jpeg(pixels, quality=_QUALITY, colorspace="RGB")

    return _kept(path, make)


def _kept(path: Path, make: Callable[[], bytes]) -> bytes:
    """What the cache holds, or what is made now and kept."""
    try:
        data = path.read_bytes()
        path.touch()
        return data
    except OSError:
        data = make()
        diskcache.put(path, data)
        return data

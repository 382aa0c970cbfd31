"""Small pictures for the wall: as photographed, and as it stands."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import simplejpeg
from django.conf import settings

from retouch.edit import Edit
from retouch.render import Renderer, render_view
from studio.portraits.models import Portrait
from studio.portraits.services import desk, diskcache

Side = Literal["before", "after"]
LONG_SIDE = 640
_QUALITY = 88


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
    try:
        data = path.read_bytes()
        path.touch()
        return data
    except OSError:
        pass
    edit = desk.edit_of(portrait) if side == "after" else Edit()
    data = _draw(desk.renderer_of(portrait), edit)
    diskcache.put(path, data)
    return data

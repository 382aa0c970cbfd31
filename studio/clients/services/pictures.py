"""The pictures that clients see: made once, as large as is allowed, and sent as files.

Whoever opens a page has nothing computed, so it costs the bench nothing.
"""

from __future__ import annotations

import logging
from collections.abc import Iterable
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Literal

import simplejpeg
from django.conf import settings

from retouch.edit import Edit
from retouch.errors import RetouchError
from retouch.forms.form import from_data
from retouch.papers.watermark import watermarked
from retouch.picture.write import save
from retouch.render import framing
from studio.clients.models import ShownPortrait
from studio.clients.services.places import nodes_of, shown_at
from studio.errors import Problem
from studio.portraits.services import analysing, desk, jobs
from studio.portraits.services.line import Line
from studio.portraits.services.small import small_picture

log = logging.getLogger(__name__)

Side = Literal["result", "original"]
Size = Literal["screen", "large"]
# What a phone needs to begin with, in pixels of the longer side.
SCREEN = 1200
_QUALITY = 88

line = Line("client pictures", most=10_000)


def folder() -> Path:
    """Where all pictures of clients lie."""
    return Path(settings.DATA_DIR) / "shown"


def path_of(one: ShownPortrait, side: Side, size: Size) -> Path:
    """Where a picture lies, or will."""
    return folder() / f"{one.pk}-{one.version}-{side}-{size}.jpg"


def submit(shown: Iterable[ShownPortrait], owner: int) -> None:
    """Have pictures made in the background."""
    for one in shown:
        work = partial(_work, one.pk, one.version)
        line.submit(owner, partial(jobs.on_a_thread, work, "A client's picture"))


def resume() -> None:
    """Go on with what a stop of the process cut short."""
    left = ShownPortrait.objects.filter(state="waiting", link__withdrawn_at=None)
    for one in left.select_related("link"):
        submit([one], one.link.owner_id)


def ready(one: ShownPortrait, side: Side, size: Size) -> Path | None:
    """The file of a picture; None while there is none, and it is made anew where it got lost."""
    path = path_of(one, side, size)
    if one.state == "ready" and path.is_file():
        return path
    if one.state == "ready":
        lost = ShownPortrait.objects.filter(pk=one.pk, version=one.version, state="ready")
        if lost.update(state="waiting"):
            submit([one], one.link.owner_id)
    return None


def drop(shown: Iterable[ShownPortrait], but: int = 0) -> None:
    """Delete pictures that nobody is to see any more, but those of a version."""
    for one in shown:
        for path in folder().glob(f"{one.pk}-*.jpg"):
            if not path.name.startswith(f"{one.pk}-{but}-"):
                path.unlink(missing_ok=True)


def sweep(known: set[int]) -> None:
    """Delete pictures of links that are gone or over; ``known`` are the ids of what may still be seen."""
    for path in folder().glob("*.jpg"):
        with suppress(ValueError, OSError):
            if int(path.name.split("-", 1)[0]) not in known:
                path.unlink()


def _work(pk: int, version: int) -> None:
    # What was shown anew, or withdrawn, meanwhile isn't made.
    mine = ShownPortrait.objects.filter(pk=pk, version=version, link__withdrawn_at=None)
    one = mine.select_related("link", "portrait").first()
    if one is None or one.state != "waiting":
        return
    try:
        made = _make(one)
    except (RetouchError, Problem) as error:
        made = {"state": "failed", "message": str(error)[:300]}
    except (OSError, MemoryError):
        made = {"state": "failed", "message": "There was no room for this picture."}
    except Exception:
        log.exception("A client's picture couldn't be made: %s", pk)
        made = {"state": "failed", "message": "This picture couldn't be made."}
    if mine.update(**made):
        drop([one], but=version)
    else:
        for path in folder().glob(f"{pk}-{version}-*.jpg"):
            path.unlink(missing_ok=True)


def _make(one: ShownPortrait) -> dict[str, object]:
    link, portrait = one.link, one.portrait
    edit = from_data(one.edit)
    if edit.needs_faces:
        edit = analysing.named_when_found(portrait, edit, lambda: False)
    renderer = desk.renderer_of(portrait, edit)
    sides: dict[Side, Edit] = {"result": edit}
    if link.compare:
        sides["original"] = framing.frame_alone(edit)
    sizes: dict[Size, int] = {"large": link.long_side, "screen": min(SCREEN, link.long_side)}
    folder().mkdir(parents=True, exist_ok=True)
    width = height = 0
    for side, of in sides.items():
        for size, most in sizes.items():
            pixels = watermarked(small_picture(renderer, of, most), link.watermark)
            save(
                simplejpeg.encode_jpeg(pixels, _QUALITY, colorsubsampling="444"),
                path_of(one, side, size),
            )  # type: ignore[arg-type]
            if size == "large":
                height, width = pixels.shape[:2]
    warp = renderer.plan(edit).warp
    for pin in one.pins.all():
        pin.u, pin.v = shown_at(warp, pin.x_px, pin.y_px)
        pin.save(update_fields=["u", "v"])
    return {
        "state": "ready",
        "message": "",
        "width": width,
        "height": height,
        "nodes": nodes_of(warp),
    }

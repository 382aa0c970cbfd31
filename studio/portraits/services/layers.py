"""Layers of a portrait's file, each kept as a take: the picture as it stood with it."""

from __future__ import annotations

import hashlib
import io

from retouch.edit import Edit
from retouch.errors import PictureError
from retouch.forms.form import from_data, to_data
from retouch.passes.elsewhere import pictures_of
from retouch.picture.layers import layers_in
from retouch.picture.png import png
from retouch.picture.read import file_bytes
from retouch.picture.stacked import with_layer
from retouch.work import perform
from retouch.work.operations import AddPass
from studio.errors import Problem
from studio.portraits.models import Portrait, Take
from studio.portraits.services import benches, desk, library, takes

# Formats that hold layers.
_LAYERED = ("ora", "tiff")


def names(portrait: Portrait) -> tuple[str, ...]:
    """What the layers of the portrait's file are called, the lowest first; none: it holds one picture."""
    if portrait.format not in _LAYERED:
        return ()
    return layers_in(_file_of(portrait))


def keep(portrait: Portrait, number: int) -> Take:
    """Keep the picture with its layers up to one (from 0) as a take, named after that layer; one that is kept
    already stays as it is.

    The picture is stored beside the portrait and goes with it.
    """
    data = _file_of(portrait)
    known = layers_in(data) if portrait.format in _LAYERED else ()
    if not 0 <= number < len(known):
        raise Problem(404, "no_such_layer", "The file of this portrait has no such layer.")
    picture = with_layer(data, number)
    file = png(picture.pixels, picture.icc, picture.exif)
    content = hashlib.sha256(file).hexdigest()
    for take in takes.listed(portrait):
        if pictures_of(from_data(take.edit)) == {content}:
            return take
    if not takes.room(portrait):
        raise Problem(422, "too_many", takes.TOO_MANY)
    if not portrait.parts.filter(sha256=content).exists():
        library.take_in(
            portrait.owner, io.BytesIO(file), f"{known[number]}.png", len(file), portrait
        )
    bench = benches.bench_of(portrait, desk.renderer_of(portrait), Edit())
    edit = perform(Edit(), AddPass("other_picture", settings={"picture": content}), bench).edit
    return Take.objects.create(portrait=portrait, name=known[number], edit=to_data(edit), step=0)


def _file_of(portrait: Portrait) -> bytes:
    try:
        return file_bytes(portrait.original)
    except PictureError:
        raise Problem(
            410, "original_missing", f"The original of {portrait.name!r} is missing."
        ) from None

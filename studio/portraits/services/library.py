"""The library: taking portraits in, and away, and bringing them back."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
from datetime import timedelta
from pathlib import Path
from typing import Any, Protocol

from django.conf import settings
from django.db import transaction
from django.db.models import Q, Sum
from django.utils import timezone

from retouch.errors import PictureError
from retouch.memory import shared
from retouch.picture import Pyramid, read
from retouch.picture import profile as profiles
from retouch.picture.raw import USUAL
from retouch.picture.read import MOST_BYTES, check_size, file_bytes, raw_preview
from retouch.picture.working import WORKING
from retouch.plain import plain
from retouch.render import Renderer
from studio.errors import Problem
from studio.portraits.models import Portrait, new_id
from studio.portraits.services import desk, thumbnails
from studio.portraits.services.finding import deleted, find, visible

__all__ = ["delete", "deleted", "empty_trash", "find", "rename", "restore", "take_in", "visible"]


class Readable(Protocol):
    """An open file, of whichever kind."""

    def read(self, size: int, /) -> bytes: ...


_ENDINGS = {
    "jpeg": ".jpg", "png": ".png", "tiff": ".tif", "webp": ".webp", "heic": ".heic", "avif": ".avif",
    "jxl": ".jxl", "ora": ".ora",
}  # fmt: skip


def take_in(
    user: Any, file: Readable, file_name: str, size: int, part_of: Portrait | None = None
) -> Portrait:
    """Store an uploaded photograph untouched, after making sure that it can be read.

    Nothing is kept of a file that is refused. ``part_of`` is the portrait whose file it is a layer of.
    """
    most = min(MOST_BYTES, settings.UPLOAD_BYTES)
    if size > most:
        raise PictureError(
            f"This file has {size / 1e6:.0f} MB; up to {most // 1_000_000} MB can be opened."
        )
    _check_quota(user, size)
    portrait = Portrait(id=new_id(), owner=user, part_of=part_of)
    folder = Path(settings.ORIGINALS_DIR) / portrait.id
    try:
        folder.mkdir(parents=True)
        part = folder / "upload.part"
        digest = hashlib.sha256()
        with open(part, "wb") as out:
            while block := file.read(1 << 20):
                digest.update(block)
                out.write(block)
            out.flush()
            os.fsync(out.fileno())
        portrait.name = _clean_name(file_name)
        portrait.sha256 = digest.hexdigest()
        portrait.size_bytes = size
        _look_at(portrait, part, file_name)
        os.replace(part, folder / portrait.file_name)
        with transaction.atomic():
            portrait.save(force_insert=True)
    except BaseException as error:
        shutil.rmtree(folder, ignore_errors=True)
        if isinstance(error, OSError):
            raise Problem(
                507, "no_room", f"The portrait can't be stored: {error.strerror}."
            ) from None
        raise
    return portrait


def _check_quota(user: Any, size: int) -> None:
    """Refuse what a user has no room for, by the setting; what is deleted but kept counts as well."""
    most = settings.QUOTA_BYTES
    if most is None:
        return
    taken = Portrait.objects.filter(owner=user).aggregate(Sum("size_bytes"))["size_bytes__sum"] or 0
    if taken + size > most:
        raise Problem(
            507, "no_room",
            f"Your portraits take {taken / 1e9:.1f} of {most / 1e9:.1f} GB; there is no room for this one.",
        )  # fmt: skip


def _look_at(portrait: Portrait, path: Path, file_name: str) -> None:
    """Tell what a file is, and keep a small picture of it; refuse what can't be read."""
    raw = raw_preview(file_bytes(path))
    if raw is not None and raw.preview is not None:
        # Developed when it is looked at: its own preview is there at once.
        check_size(raw.width, raw.height)
        portrait.width, portrait.height = raw.width, raw.height
        portrait.bits, portrait.format = 16, desk.RAW
        portrait.profile = WORKING[USUAL.profile].title
        portrait.file_name = "original" + _raw_ending(file_name)
        thumbnails.keep_preview(portrait, raw.preview)
        return
    picture = read(path)
    portrait.width, portrait.height = picture.width, picture.height
    portrait.bits, portrait.format = picture.bits, picture.format
    portrait.profile = (
        "sRGB assumed: its own profile is damaged"
        if picture.profile_dropped
        else profiles.name(picture.icc)[:200]
    )
    own = picture.format == desk.RAW
    portrait.file_name = "original" + (_raw_ending(file_name) if own else _ENDINGS[picture.format])
    thumbnails.make_before(portrait, Renderer(Pyramid(picture), shared()))


def _raw_ending(file_name: str) -> str:
    """A raw file keeps the ending its camera gave it."""
    found = re.search(r"\.[A-Za-z0-9]{2,4}$", file_name)
    return found.group(0).lower() if found else ".raw"


def _clean_name(file_name: str) -> str:
    """A portrait's name from a file's: without folder, ending and control characters."""
    base = re.split(r"[\\/]", file_name)[-1]
    stem = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", base)
    stem = plain(stem.replace("_", " "))
    return (stem or "Portrait")[:200]


def rename(portrait: Portrait, name: str) -> None:
    """Give a portrait another name."""
    name = plain(name)
    if not name or len(name) > 200:
        raise Problem(422, "bad_name", "A name has 1 to 200 characters.")
    portrait.name = name
    portrait.save(update_fields=["name"])


def borrowers(portrait: Portrait) -> list[Portrait]:
    """Portraits that take from this one, and from no other of the same content."""
    same = Portrait.objects.filter(owner_id=portrait.owner_id, sha256=portrait.sha256)
    if same.filter(deleted_at=None).exclude(pk=portrait.pk).exists():
        return []
    return list(
        Portrait.objects.filter(
            Q(passes__touches__elsewhere__picture=portrait.sha256)
            | Q(passes__settings__picture=portrait.sha256),
            owner_id=portrait.owner_id,
            deleted_at=None,
        )
        .exclude(pk=portrait.pk)
        .distinct()
    )


def delete(portrait: Portrait, anyway: bool = False) -> None:
    """Put a portrait away; it can be taken back for TRASH_DAYS days.

    One that others borrow from goes only ``anyway``.
    """
    takers = [] if anyway else borrowers(portrait)
    if takers:
        names = ", ".join(repr(p.name) for p in takers[:3]) + (
            " and others" if len(takers) > 3 else ""
        )
        raise Problem(
            409, "borrowed_from",
            f"{names} {'borrows' if len(takers) == 1 else 'borrow'} from this portrait and can't be "
            "rendered without it.",
        )  # fmt: skip
    portrait.deleted_at = timezone.now()
    portrait.save(update_fields=["deleted_at"])
    desk.forget(portrait.id)
    empty_trash()


def restore(portrait: Portrait) -> None:
    """Take a deleted portrait back."""
    portrait.deleted_at = None
    portrait.save(update_fields=["deleted_at"])


def empty_trash() -> None:
    """Remove for good what was deleted longer ago than TRASH_DAYS."""
    limit = timezone.now() - timedelta(days=settings.TRASH_DAYS)
    for portrait in Portrait.objects.filter(deleted_at__lt=limit):
        folders = [one.original.parent for one in (portrait, *portrait.parts.all())]
        portrait.delete()
        for folder in folders:
            shutil.rmtree(folder, ignore_errors=True)
            shutil.rmtree(Path(settings.ANALYSES_DIR) / folder.name, ignore_errors=True)

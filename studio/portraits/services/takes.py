"""Takes: named states of a portrait, kept beside its history."""

from __future__ import annotations

from collections.abc import Iterable

from retouch.edit import Edit
from retouch.forms.form import from_data, to_data
from retouch.plain import plain
from studio.errors import Problem
from studio.portraits.models import Portrait, Take
from studio.portraits.services import desk
from studio.portraits.services.benches import take_of

_MOST = 100
TOO_MANY = f"A portrait has {_MOST} takes at most; delete one first."


def listed(portrait: Portrait) -> Iterable[Take]:
    """All takes, the first first."""
    return Take.objects.filter(portrait=portrait)


def room(portrait: Portrait) -> bool:
    """Whether one more can be kept."""
    return Take.objects.filter(portrait=portrait).count() < _MOST


def keep(portrait: Portrait, name: str) -> Take:
    """Keep the present state under a name."""
    if not room(portrait):
        raise Problem(422, "too_many", TOO_MANY)
    return Take.objects.create(
        portrait=portrait,
        name=_clean(name),
        edit=to_data(desk.edit_of(portrait)),
        step=portrait.history_at,
    )


def rename(portrait: Portrait, take_id: str, name: str) -> Take:
    """Give a take another name."""
    take = take_of(portrait, take_id)
    take.name = _clean(name)
    take.save(update_fields=["name"])
    return take


def delete(portrait: Portrait, take_id: str) -> None:
    """Delete a take; the portrait stays as it is."""
    take_of(portrait, take_id).delete()


def edit_of(portrait: Portrait, take_id: str) -> Edit:
    """The state that a take keeps."""
    return from_data(take_of(portrait, take_id).edit)


def _clean(name: str) -> str:
    name = " ".join(plain(name).split())
    if not name:
        raise Problem(422, "no_name", "A take needs a name.")
    return name[:200]

"""Colour profiles to deliver in and to look through: those that ship, and the user's own."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from retouch.picture.proof import BUILT_IN, MOST_BYTES, about, built_in
from studio.errors import Problem
from studio.portraits.models import ColourProfile

# A user's own profiles at most.
_MOST = 20


@dataclass(frozen=True)
class Known:
    """A profile to choose; ``own`` ones can be deleted."""

    id: str
    title: str
    space: str
    own: bool


def known(user: Any) -> list[Known]:
    """What the user can choose from."""
    ships = [Known(name, title, "RGB", False) for name, title in BUILT_IN.items()]
    own = ColourProfile.objects.filter(owner=user).defer("icc")
    return ships + [Known(p.pk, p.title, p.space, True) for p in own]


def add(user: Any, icc: bytes) -> Known:
    """Keep a profile of the user's; one that is there already is only named."""
    found = about(icc)
    same = ColourProfile.objects.filter(owner=user, title=found.title)
    for other in same:
        if bytes(other.icc) == icc:
            return Known(other.pk, other.title, other.space, True)
    if ColourProfile.objects.filter(owner=user).count() >= _MOST:
        raise Problem(422, "too_many", f"Up to {_MOST} profiles are kept. Delete one first.")
    made = ColourProfile.objects.create(owner=user, title=found.title, space=found.space, icc=icc)
    return Known(made.pk, made.title, made.space, True)


def delete(user: Any, profile_id: str) -> None:
    """Forget a profile of the user's."""
    gone, _ = ColourProfile.objects.filter(owner=user, pk=profile_id).delete()
    if not gone:
        raise Problem(404, "not_found", "This profile is no longer there.")


def icc_of(user: Any, profile_id: str) -> bytes:
    """The bytes of a profile to choose."""
    ships = built_in(profile_id)
    if ships is not None:
        return ships
    icc = _own(user.pk, profile_id)
    if icc is None:
        raise Problem(
            404, "no_profile", "This colour profile is no longer there. Choose another one."
        )
    return icc


@lru_cache(maxsize=8)
def _stored(user_id: int, profile_id: str) -> bytes | None:
    found = ColourProfile.objects.filter(owner_id=user_id, pk=profile_id).first()
    return None if found is None else bytes(found.icc)


def _own(user_id: int, profile_id: str) -> bytes | None:
    # What was deleted is gone, whatever is remembered of it: views ask for the bytes again and again.
    if not ColourProfile.objects.filter(owner_id=user_id, pk=profile_id).exists():
        return None
    return _stored(user_id, profile_id)


__all__ = ["MOST_BYTES", "Known", "add", "delete", "icc_of", "known"]

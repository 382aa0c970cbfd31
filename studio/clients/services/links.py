"""Links as their owner sees them: made, shown anew, changed, withdrawn."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import Count, F, Q
from django.utils import timezone

from retouch.forms.form import to_data
from retouch.plain import plain
from studio.clients.models import ClientLink, Pin, ShownPortrait
from studio.clients.services import pictures
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk, finding, takes

# Links of a user that can be opened, portraits behind one, days that one lasts.
MOST_LINKS, MOST_PORTRAITS, MOST_DAYS = 500, 300, 365
LEAST_SIDE, MOST_SIDE = 600, 4000
_LEAST_PHRASE = 6


def hash_of(token: str) -> str:
    """What is kept of a token. It has 256 random bits, so a plain hash can't be guessed back."""
    return hashlib.sha256(token.encode()).hexdigest()


def make(
    user: Any,
    ids: Sequence[str],
    title: str,
    days: int,
    phrase: str = "",
    compare: bool = True,
    watermark: str = "",
    long_side: int = 2048,
) -> tuple[ClientLink, str]:
    """A link to portraits as they stand now, and its token, which is told this once.

    Each portrait gets a take, so that what was shown can be gone back to.
    """
    wanted = list(dict.fromkeys(ids))
    if not 1 <= len(wanted) <= MOST_PORTRAITS:
        raise Problem(422, "how_many", f"A link shows 1 to {MOST_PORTRAITS} portraits.")
    if _living(user).count() >= MOST_LINKS:
        raise Problem(422, "too_many", f"Up to {MOST_LINKS} links are open; withdraw some first.")
    rows = {p.pk: p for p in finding.visible(user).filter(pk__in=wanted)}
    if len(rows) != len(wanted):
        raise Problem(404, "not_found", "One of these portraits is no longer there.")
    token = secrets.token_urlsafe(32)
    name = plain(title)[:120] or rows[wanted[0]].name
    with transaction.atomic():
        link = ClientLink.objects.create(
            owner=user, title=name, token_sha256=hash_of(token), phrase=_hashed(phrase), compare=compare,
            watermark=plain(watermark)[:80], long_side=long_side, expires_at=_in(days),
        )  # fmt: skip
        shown = [
            ShownPortrait.objects.create(link=link, portrait=rows[pk], number=n + 1, edit=_kept(rows[pk], name))
            for n, pk in enumerate(wanted)
        ]  # fmt: skip
    pictures.submit(shown, link.owner_id)
    return link, token


def _kept(portrait: Portrait, title: str) -> Any:
    """The portrait's edit, which is kept as a take where there is room for one."""
    if takes.room(portrait):
        takes.keep(portrait, f"Shown: {title}")
    return to_data(desk.edit_of(portrait))


def _hashed(phrase: str) -> str:
    phrase = phrase.strip()
    if not phrase:
        return ""
    if len(phrase) < _LEAST_PHRASE:
        raise Problem(422, "short", f"A pass phrase has at least {_LEAST_PHRASE} characters.")
    return str(make_password(phrase))


def _in(days: int) -> Any:
    return timezone.now() + timedelta(days=days)


def _living(user: Any) -> Any:
    return ClientLink.objects.filter(owner=user, withdrawn_at=None, expires_at__gt=timezone.now())


def find(user: Any, link_id: str) -> ClientLink:
    """A link of the user; to anybody else it doesn't exist."""
    found = ClientLink.objects.filter(owner=user, pk=link_id).first()
    if found is None:
        raise Problem(404, "not_found", "There is no such link.")
    return found


def listed(user: Any, portrait_id: str = "") -> Any:
    """The user's links, the newest first, those of one portrait if it is named; with counts."""
    found = ClientLink.objects.filter(owner=user)
    if portrait_id:
        found = found.filter(shown__portrait_id=portrait_id)
    return found.order_by("-created_at", "pk")


def counts(link: ClientLink) -> dict[str, int]:
    """Of a link: portraits, those that are ready, failed, fine, to be changed; pins, and those not done."""
    shown = link.shown.aggregate(
        portraits=Count("pk"),
        ready=Count("pk", filter=Q(state="ready")),
        failed=Count("pk", filter=Q(state="failed")),
        fine=Count("pk", filter=Q(verdict="fine")),
        change=Count("pk", filter=Q(verdict="change")),
    )
    pins = Pin.objects.filter(shown__link=link)
    return {**shown, "pins": pins.count(), "open_pins": pins.filter(done_at=None).count()}


def change(link: ClientLink, title: str | None, days: int | None, phrase: str | None) -> None:
    """Another title, so many days from now on, another pass phrase (empty: none)."""
    if title is not None:
        link.title = plain(title)[:120] or link.title
    if days is not None:
        link.expires_at = _in(days)
    if phrase is not None:
        link.phrase = _hashed(phrase)
    link.save(update_fields=["title", "expires_at", "phrase"])


def another_token(link: ClientLink) -> str:
    """A new address; the old one opens nothing any more."""
    _not_withdrawn(link)
    token = secrets.token_urlsafe(32)
    link.token_sha256 = hash_of(token)
    link.save(update_fields=["token_sha256"])
    return token


def show_anew(link: ClientLink) -> None:
    """Show the portraits as they stand now. Pins stay; what the client decided is asked for again."""
    _not_withdrawn(link)
    with transaction.atomic():
        for one in link.shown.filter(portrait__deleted_at=None).select_related("portrait"):
            one.edit = _kept(one.portrait, link.title)
            one.state, one.message, one.verdict = "waiting", "", ""
            one.save(update_fields=["edit", "state", "message", "verdict"])
        link.shown.filter(state="waiting").update(version=F("version") + 1)
        ClientLink.objects.filter(pk=link.pk).update(answered_at=None, signed_by="")
    pictures.submit(link.shown.filter(state="waiting"), link.owner_id)


def withdraw(link: ClientLink) -> None:
    """Close a link for good; its pictures go, its pins stay."""
    ClientLink.objects.filter(pk=link.pk, withdrawn_at=None).update(withdrawn_at=timezone.now())
    pictures.drop(link.shown.all())


def _not_withdrawn(link: ClientLink) -> None:
    if link.withdrawn_at is not None:
        raise Problem(409, "withdrawn", "This link was withdrawn. Make another one.")


def sweep() -> None:
    """Delete pictures of links that can't be opened any more; go on with those that weren't finished."""
    living = ShownPortrait.objects.filter(
        link__withdrawn_at=None, link__expires_at__gt=timezone.now()
    )
    pictures.sweep(set(living.values_list("pk", flat=True)))
    pictures.resume()

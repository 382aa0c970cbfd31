"""What whoever has a link's address can do: look, set pins, decide, sign off. Nothing else is within reach."""

from __future__ import annotations

from datetime import timedelta
from typing import Any, Literal

from axes.handlers.proxy import AxesProxyHandler
from axes.utils import reset
from django.contrib.auth.hashers import check_password
from django.contrib.auth.signals import user_login_failed
from django.core import signing
from django.core.cache import cache
from django.db import transaction
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from retouch.plain import plain
from studio.accounts import tries
from studio.clients.models import ClientLink, Pin, ShownPortrait
from studio.clients.services.links import hash_of
from studio.clients.services.places import original_of
from studio.errors import Problem

Kind = Literal["keep", "change"]
Verdict = Literal["", "fine", "change"]

# Pins of a link in all, and how many of them within a while.
MOST_PINS, MOST_AT_ONCE, WHILE = 300, 40, timedelta(minutes=10)
MOST_WORDS, MOST_NAME, MOST_PHRASE = 500, 120, 200
# Addresses of pages that don't exist, asked for from one place within ten minutes.
_MOST_MISSES, _MISSES_S = 30, 600
_SALT = "studio.clients.phrase"

_GONE = "This page isn't here, or no longer. Ask whoever sent you the link for a new one."


def visited(request: HttpRequest, token: str) -> ClientLink:
    """The link of a token. Unknown, withdrawn and expired ones are told alike, as one that never was.

    Raises
    ------
    Problem
        404; 429 for who tries many.
    """
    key = f"misses-{request.META.get('REMOTE_ADDR', '')}"
    if cache.get(key, 0) >= _MOST_MISSES:
        raise Problem(
            429, "wait", "Too many pages that don't exist were asked for. Wait ten minutes."
        )
    link = ClientLink.objects.filter(
        token_sha256=hash_of(token), withdrawn_at=None, expires_at__gt=timezone.now(),
        owner__is_active=True,
    ).first()  # fmt: skip
    if link is None:
        cache.add(key, 0, _MISSES_S)
        try:
            cache.incr(key)
        except ValueError:
            cache.set(key, 1, _MISSES_S)
        raise Problem(404, "not_found", _GONE)
    return link


def cookie_of(link: ClientLink) -> str:
    """The name of the cookie that tells that the pass phrase was given."""
    return f"showing_{link.pk}"


def entered(request: HttpRequest, link: ClientLink) -> bool:
    """Whether the pass phrase was given, or none is asked for; a changed one has to be given again."""
    if not link.phrase:
        return True
    given = request.COOKIES.get(cookie_of(link), "")
    try:
        return bool(signing.loads(given, salt=_SALT) == _proof(link))
    except signing.BadSignature:
        return False


def _proof(link: ClientLink) -> list[str]:
    return [link.pk, hash_of(link.phrase)]


def enter(request: HttpRequest, link: ClientLink, phrase: str) -> str:
    """What the cookie holds once the pass phrase is right; wrong ones make wait longer and longer."""
    name = f"link {link.pk}"
    request.sign_in_name = name  # type: ignore[attr-defined]
    if not AxesProxyHandler.is_allowed(request, {"username": name}):
        raise Problem(429, "wait", tries.in_words(tries.waiting_time(request)))
    with tries.few_at_once():
        right = check_password(phrase.strip(), link.phrase)
    if not right:
        user_login_failed.send(sender=__name__, credentials={"username": name}, request=request)
        raise Problem(400, "wrong_phrase", "That isn't the pass phrase.")
    reset(username=name)
    return str(signing.dumps(_proof(link), salt=_SALT))


def opened(link: ClientLink) -> None:
    """Count an opening."""
    now = timezone.now()
    ClientLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, opened_at=now)


def seen_by(link: ClientLink) -> Any:
    """The portraits behind a link that are still there, in their order."""
    shown = link.shown.filter(portrait__deleted_at=None).select_related("portrait")
    # Large, and asked for by pins alone.
    return shown.defer("edit", "nodes")


def one_of(link: ClientLink, number: int) -> ShownPortrait:
    """A portrait behind a link by its number; `Problem` (404) where it is gone."""
    found: ShownPortrait | None = seen_by(link).filter(number=number).first()
    if found is None:
        raise Problem(404, "not_found", "This picture is no longer here.")
    return found


def _still_open(link: ClientLink) -> None:
    if link.signed_by:
        raise Problem(
            409, "signed_off", "The pictures were signed off. Nothing can be changed any more."
        )


def pin(link: ClientLink, number: int, kind: Kind, words: str, u: float, v: float) -> Pin:
    """Set a pin at a place of a picture, given as parts (0..1) of its width and height."""
    one = one_of(link, number)
    said = plain(words)[:MOST_WORDS]
    if kind == "change" and not said:
        raise Problem(422, "no_words", "Say in a few words what you wish.")
    if one.state != "ready":
        raise Problem(409, "not_ready", "This picture is still being made ready.")
    x, y = original_of(one.nodes, u, v)
    with transaction.atomic():
        # Read under the write lock, so that two at once can't pass the limits.
        link.refresh_from_db()
        _still_open(link)
        there = Pin.objects.filter(shown__link=link)
        if there.count() >= MOST_PINS:
            raise Problem(
                429, "too_many", f"Up to {MOST_PINS} pins can be set. Take some away first."
            )
        if there.filter(created_at__gt=timezone.now() - WHILE).count() >= MOST_AT_ONCE:
            raise Problem(429, "too_fast", "These were many pins at once. Wait some minutes.")
        made = Pin.objects.create(shown=one, kind=kind, words=said, x_px=x, y_px=y, u=u, v=v)
        _not_answered(link)
    return made


def unpin(link: ClientLink, pin_id: str) -> None:
    """Take a pin away that isn't done yet."""
    _still_open(link)
    found = Pin.objects.filter(shown__link=link, pk=pin_id).first()
    if found is None:
        raise Problem(404, "not_found", "This pin is no longer there.")
    if found.done_at is not None:
        raise Problem(409, "done", "This wish was fulfilled already; it stays.")
    found.delete()


def decide(link: ClientLink, number: int, verdict: Verdict) -> None:
    """Say of a picture that it is fine, or to be changed."""
    one = one_of(link, number)
    with transaction.atomic():
        link.refresh_from_db()
        _still_open(link)
        ShownPortrait.objects.filter(pk=one.pk).update(verdict=verdict)
        _not_answered(link)


def _not_answered(link: ClientLink) -> None:
    """Whoever goes on after having sent their wishes sends them again."""
    ClientLink.objects.filter(pk=link.pk).update(answered_at=None)


def answer(link: ClientLink, name: str) -> None:
    """Be through: with a name all pictures are signed off, which asks that each is fine."""
    said = plain(name)[:MOST_NAME]
    with transaction.atomic():
        link.refresh_from_db()
        _still_open(link)
        if said and seen_by(link).exclude(verdict="fine").exists():
            raise Problem(
                422, "not_all_fine", "Say of each picture that it is fine before you sign off."
            )
        now = timezone.now()
        ClientLink.objects.filter(pk=link.pk).update(answered_at=now, signed_by=said)
    link.refresh_from_db()

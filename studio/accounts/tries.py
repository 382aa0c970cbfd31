"""Sign-in that can't be tried without end: waits that grow, and checks that leave the machine to others."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

from axes.models import AccessFailureLog
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.db.models import Q
from django.http import HttpRequest
from django.utils import timezone

from studio.errors import Problem

# After so many wrong tries in a row by name or address one waits; twice as long with each time that
# it happens within a day, up to the longest.
TRIES, FIRST_WAIT, LONGEST_WAIT = 5, timedelta(seconds=30), timedelta(minutes=15)
# Passwords that are checked or wait to be.
_AT_ONCE = 3
_LEAST_PRIORITY = 10

_checks = threading.BoundedSemaphore(_AT_ONCE)


def waiting_time(request: HttpRequest | None) -> timedelta:
    """How long whoever asks has to wait after too many wrong tries."""
    name = getattr(request, "sign_in_name", "")
    address = request.META.get("REMOTE_ADDR", "") if request is not None else ""
    since = timezone.now() - timedelta(days=1)
    wrong = (
        AccessFailureLog.objects.filter(attempt_time__gte=since)
        .filter(Q(username=name) | Q(ip_address=address or None))
        .count()
    )
    return min(FIRST_WAIT * 2 ** min(max(wrong // TRIES - 1, 0), 10), LONGEST_WAIT)


def in_words(wait: timedelta) -> str:
    """A sentence about it."""
    seconds = int(wait.total_seconds())
    length = f"{seconds} seconds" if seconds < 90 else f"{round(seconds / 60)} minutes"
    return f"There were too many wrong tries. Wait {length} and try again."


@contextmanager
def few_at_once() -> Iterator[None]:
    """Leave threads to others while passwords are checked."""
    if not _checks.acquire(blocking=False):
        raise Problem(429, "busy", "Many are signing in just now. Try again in a moment.")
    try:
        yield
    finally:
        _checks.release()


def _lower_priority() -> None:
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _LEAST_PRIORITY)


class QuietHasher(PBKDF2PasswordHasher):
    """Django's usual hashing, one at a time in a thread of low priority: views come first."""

    _pool = ThreadPoolExecutor(1, "hashing", initializer=_lower_priority)

    def encode(self, password: str, salt: str, iterations: Any = None) -> str:
        return str(self._pool.submit(super().encode, password, salt, iterations).result())

"""Long work, kept in the database: a restart goes on with it, or says what became of it."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from typing import Any

from django.db import close_old_connections
from django.utils import timezone

from studio.portraits.models import Job

log = logging.getLogger(__name__)

# Jobs that ended are kept so long that whoever waits for one can be told; then they go.
_MOST_ENDED = 12_000
OPEN = ("waiting", "working")

# How jobs of a kind are taken up again, by kind.
_resumers: dict[str, Callable[[Job], None]] = {}
_lock = threading.Lock()


def resumes(kind: str) -> Callable[[Callable[[Job], None]], Callable[[Job], None]]:
    """Declare the function that takes up a job of a kind again after a restart."""

    def declare(function: Callable[[Job], None]) -> Callable[[Job], None]:
        _resumers[kind] = function
        return function

    return declare


def open_jobs(kind: str) -> list[Job]:
    """Jobs of a kind that haven't ended, the oldest first."""
    return list(Job.objects.filter(kind=kind, state__in=OPEN).order_by("created_at"))


def tell(job_id: str, **changes: Any) -> bool:
    """Write how a job stands; False if it is gone."""
    return bool(Job.objects.filter(pk=job_id).update(changed_at=timezone.now(), **changes))


def tidy(kind: str, owner: int) -> None:
    """Forget a user's ended jobs of a kind beyond the newest."""
    ended = (
        Job.objects.filter(kind=kind, owner_id=owner)
        .exclude(state__in=OPEN)
        .order_by("-changed_at")
    )
    old = list(ended.values_list("pk", flat=True)[_MOST_ENDED:])
    if old:
        Job.objects.filter(pk__in=old).delete()


def resume() -> int:
    """Take up every job that a stop of the process cut short; how many."""
    count = 0
    with _lock:
        for kind, take_up in _resumers.items():
            for job in open_jobs(kind):
                try:
                    take_up(job)
                    count += 1
                except Exception:
                    log.exception("A %s couldn't be taken up again: %s", kind, job.pk)
                    tell(job.pk, state="failed", message="It was cut short and can't go on.")
    return count


def on_a_thread(work: Callable[[], None], what: str) -> None:
    """Run work of a job outside of any request: errors are logged, connections let go."""
    try:
        work()
    except Exception:
        log.exception("%s failed", what)
    finally:
        close_old_connections()

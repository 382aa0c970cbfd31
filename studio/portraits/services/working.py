"""Long computations on their way: how far they are, and stopping them."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from retouch.errors import Cancelled
from retouch.progress import listening


@dataclass
class Work:
    done: float = 0.0
    stopped: bool = False

    def again(self) -> None:
        """Another part begins, as long as the one before may have been; `Cancelled` if it is to stop."""
        self.done = 0.0
        self.check()

    def check(self) -> None:
        if self.stopped:
            raise Cancelled("It was stopped.")


_works: dict[str, Work] = {}
_lock = threading.Lock()


@contextmanager
def watched(portrait_id: str) -> Iterator[Work]:
    """Note the progress of what is computed meanwhile; `Cancelled` once it is to stop."""
    work = Work()

    def note(done: float) -> None:
        # Parts of a computation tell how far they are themselves.
        work.done = max(work.done, done)
        work.check()

    with _lock:
        _works[portrait_id] = work
    try:
        with listening(note):
            yield work
    finally:
        with _lock:
            if _works.get(portrait_id) is work:
                del _works[portrait_id]


def progress(portrait_id: str) -> float | None:
    """How much of a portrait's long computation is done, 0..1; None where there is none."""
    with _lock:
        work = _works.get(portrait_id)
    return work.done if work else None


def stop(portrait_id: str) -> bool:
    """Let a portrait's long computation end as soon as it can; False where there is none."""
    with _lock:
        work = _works.get(portrait_id)
        if work:
            work.stopped = True
    return work is not None

"""The processors: the one place that has work done on all of them at the same time."""

from __future__ import annotations

import contextvars
import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import partial
from itertools import pairwise
from typing import TypeVar

S = TypeVar("S")
T = TypeVar("T")

# So many parts of one piece of work are done at the same time.
CORES = min(os.cpu_count() or 1, 4)
# What is large is cut into so many parts, or a small multiple of that: the same on every machine. Parts are computed
# with margins, whose rounding shows in the last digits: a number that hung on the cores would give other pixels on
# other machines.
PARTS = 2
_helpers = ThreadPoolExecutor(CORES, thread_name_prefix="core")


class _Shared:
    """Parts of a piece of work that several threads take one after the other."""

    def __init__(self, make: Callable[[S], T], parts: list[S]) -> None:
        self._make = make
        self._parts = parts
        self._next = 0
        self._open = len(parts)
        self._found: list[T | None] = [None] * len(parts)
        self._error: BaseException | None = None
        self._state = threading.Condition()

    def help(self) -> None:
        """Take parts until none is left."""
        while True:
            with self._state:
                n = self._next
                if n >= len(self._parts):
                    return
                self._next += 1
            try:
                self._found[n] = self._make(self._parts[n])
            except BaseException as error:
                with self._state:
                    self._error = self._error or error
                    # Nobody begins another part.
                    self._open -= len(self._parts) - self._next
                    self._next = len(self._parts)
            finally:
                with self._state:
                    self._open -= 1
                    self._state.notify_all()

    def finished(self) -> list[T]:
        """What all parts gave, once the last is done; raises what one of them raised."""
        with self._state:
            self._state.wait_for(lambda: self._open == 0)
            if self._error is not None:
                raise self._error
        return self._found  # type: ignore[return-value]  # all are made


def at_once(make: Callable[[S], T], parts: Iterable[S]) -> list[T]:
    """What ``make`` gives for each part, in their order, made at the same time.

    Parts may have work done at once themselves: whoever asks works along on its own parts and on
    no others, so it gets on even where every helper is busy, and never waits for itself. The first
    error is raised once no part is under way any more; parts not begun are left out.
    """
    wanted = list(parts)
    if len(wanted) < 2 or CORES == 1:
        return [make(p) for p in wanted]
    shared = _Shared(make, wanted)
    for _ in range(min(len(wanted), CORES) - 1):
        # What listens to the progress of this thread listens to its helpers'.
        _ask(partial(contextvars.copy_context().run, shared.help))
    shared.help()
    return shared.finished()


def begin(work: Callable[[], object]) -> None:
    """Have something done beside what follows; nobody waits for it, and what it raises is nobody's."""
    if CORES > 1:
        _ask(work)


def _ask(work: Callable[[], object]) -> None:
    """Give work to a helper. While the process ends there is none any more: whoever shares work does all of it."""
    with suppress(RuntimeError):
        _helpers.submit(work)


def edges(start: int, end: int, count: int) -> list[tuple[int, int]]:
    """A stretch cut into so many parts of about the same length."""
    return list(pairwise(start + n * (end - start) // count for n in range(count + 1)))

"""A cache with a budget in bytes, shared by threads."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, Protocol, TypeVar


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)

_here = threading.local()


def making() -> bool:
    """Whether this thread is making an entry of some cache, for which others may wait.

    It mustn't wait for a pool then whose workers ask caches: they could be waiting for it.
    """
    return getattr(_here, "depth", 0) > 0


class ByteCache(Generic[V]):
    """Least recently used entries go first when the budget is exceeded.

    Two threads that ask for the same missing key make it once: the second waits for the first.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self._entries: OrderedDict[Hashable, V] = OrderedDict()
        self._used = 0
        self._lock = threading.Lock()
        self._making: dict[Hashable, threading.Event] = {}

    @property
    def used(self) -> int:
        """Bytes held now."""
        return self._used

    def get(self, key: Hashable, make: Callable[[], V]) -> V:
        """The entry of ``key``, made by ``make`` if absent; what ``make`` raises is raised."""
        while True:
            with self._lock:
                if key in self._entries:
                    self._entries.move_to_end(key)
                    return self._entries[key]
                waiting = self._making.get(key)
                if waiting is None:
                    self._making[key] = threading.Event()
                    break
            waiting.wait()
        _here.depth = getattr(_here, "depth", 0) + 1
        try:
            value = make()
            with self._lock:
                self._put(key, value)
            return value
        finally:
            _here.depth -= 1
            with self._lock:
                self._making.pop(key).set()

    def holds(self, key: Hashable) -> bool:
        """Whether the entry is there now."""
        with self._lock:
            return key in self._entries

    def _put(self, key: Hashable, value: V) -> None:
        if value.nbytes > self.budget:
            return
        self._entries[key] = value
        self._used += value.nbytes
        while self._used > self.budget:
            _, old = self._entries.popitem(last=False)
            self._used -= old.nbytes

    def clear(self) -> None:
        with self._lock:
            self._entries.clear()
            self._used = 0

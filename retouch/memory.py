"""Memory with one budget in bytes for all that is kept, shared by threads."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Generic, Protocol, TypeVar


class Sized(Protocol):
    @property
    def nbytes(self) -> int: ...


V = TypeVar("V", bound=Sized)


@dataclass
class _Entry:
    value: Any
    nbytes: int
    used_at: int


class Memory:
    """Keeps what was made within a budget: what was used longest ago goes first.

    What is kept lies in parts (`part`), each of which may take up no more than its share, so that
    large things that are quickly made don't drive out small ones that took long. What has to stay
    whatever comes (an open picture) is counted by `hold` and leaves less for the rest.

    Parameters
    ----------
    budget : int
        In bytes.
    """

    def __init__(self, budget: int) -> None:
        self.budget = budget
        self.lock = threading.Lock()
        self._parts: dict[str, Part[Any]] = {}
        self._held: dict[Hashable, int] = {}
        self._clock = 0

    def part(self, name: str, share: float = 1.0) -> Part[Any]:
        """The part of a name, made when first asked for; ``share`` 0..1 of the budget at most."""
        with self.lock:
            if name not in self._parts:
                self._parts[name] = Part(self, share)
            return self._parts[name]

    def hold(self, name: Hashable, nbytes: int) -> None:
        """Count something that stays until it is `released`; more or less than before replaces it."""
        with self.lock:
            self._held[name] = nbytes
            self._shrink()

    def released(self, name: Hashable) -> None:
        """Count it no longer."""
        with self.lock:
            self._held.pop(name, None)

    @property
    def held(self) -> int:
        """Bytes of what stays."""
        return sum(self._held.values())

    @property
    def used(self) -> int:
        """Bytes of all that is kept and held now."""
        return self.held + sum(p.used for p in self._parts.values())

    def clear(self) -> None:
        """Forget all that is kept; what is held stays counted."""
        with self.lock:
            for part in self._parts.values():
                part.entries.clear()
                part.used = 0

    def tick(self) -> int:
        """A later time at every call; under the lock."""
        self._clock += 1
        return self._clock

    def _shrink(self) -> None:
        """Drop what was used longest ago until all is within the budget; under the lock."""
        while self.used > self.budget:
            filled = [p for p in self._parts.values() if p.entries]
            if not filled:
                return
            min(filled, key=lambda p: next(iter(p.entries.values())).used_at).drop_oldest()


class Part(Generic[V]):
    """A part of a `Memory` with keys of its own.

    Two threads that ask for the same missing key make it once: the second waits for the first.
    """

    def __init__(self, memory: Memory, share: float) -> None:
        self._memory = memory
        self._share = share
        self._lock = memory.lock
        self._making: dict[Hashable, threading.Event] = {}
        self.entries: OrderedDict[Hashable, _Entry] = OrderedDict()
        self.used = 0

    @property
    def _most(self) -> int:
        return int(self._share * self._memory.budget)

    def get(self, key: Hashable, make: Callable[[], V]) -> V:
        """The entry of ``key``, made by ``make`` if absent; what ``make`` raises is raised."""
        while True:
            with self._lock:
                known = self.entries.get(key)
                if known is not None:
                    known.used_at = self._memory.tick()
                    self.entries.move_to_end(key)
                    value: V = known.value
                    return value
                waiting = self._making.get(key)
                if waiting is None:
                    self._making[key] = threading.Event()
                    break
            waiting.wait()
        try:
            value = make()
            self.put(key, value)
            return value
        finally:
            with self._lock:
                self._making.pop(key).set()

    def put(self, key: Hashable, value: V) -> None:
        """Keep a value, if it is no larger than the part may be."""
        with self._lock:
            if value.nbytes > self._most:
                return
            old = self.entries.pop(key, None)
            if old is not None:
                self.used -= old.nbytes
            self.entries[key] = _Entry(value, value.nbytes, self._memory.tick())
            self.used += value.nbytes
            while self.used > self._most:
                self.drop_oldest()
            self._memory._shrink()

    def peek(self, key: Hashable) -> V | None:
        """The entry of ``key`` if it is there."""
        with self._lock:
            known = self.entries.get(key)
            return known.value if known is not None else None

    def holds(self, key: Hashable) -> bool:
        """Whether the entry is there now."""
        with self._lock:
            return key in self.entries

    def drop(self, key: Hashable) -> None:
        """Forget one entry, if it is there."""
        with self._lock:
            old = self.entries.pop(key, None)
            if old is not None:
                self.used -= old.nbytes

    def drop_oldest(self) -> None:
        """Forget what was used longest ago; under the memory's lock."""
        _, old = self.entries.popitem(last=False)
        self.used -= old.nbytes


# Of a memory that nobody gave another budget.
USUAL_BUDGET = 1024 * 1024 * 1024
_shared = Memory(USUAL_BUDGET)


def shared() -> Memory:
    """The memory of this process; whoever starts the process sets its budget."""
    return _shared

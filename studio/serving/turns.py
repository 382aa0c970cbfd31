"""Whose request is next: addresses take turns, and none of them has all threads."""

from __future__ import annotations

import os
import time
from collections import Counter, OrderedDict, deque
from collections.abc import Callable
from itertools import islice
from typing import Any

from waitress.task import ThreadedTaskDispatcher

# Threads that one address leaves to the others; and how many it has while others are here, who have
# asked for something within so many seconds.
LEFT_TO_OTHERS, AMONG_OTHERS, HERE_S = 2, 1, 10.0

_REMEMBERED = 1000
# An address, and whether it is about files.
Whose = tuple[str, bool]


class Turns:
    """A queue of channels by whose they are: an address, and whether files come or go, which takes long
    and doesn't hold up what a hand waits for. Locking is left to who uses it.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._waiting: OrderedDict[Whose, deque[Any]] = OrderedDict()
        self._asked: OrderedDict[str, float] = OrderedDict()
        self._clock = clock
        self.running: Counter[Whose] = Counter()
        self.alone = self.among = 1

    @property
    def most(self) -> int:
        """How many of one kind and address may run: fewer while others are here."""
        last = list(islice(reversed(self._asked.values()), 2))
        return self.among if len(last) > 1 and self._clock() - last[1] < HERE_S else self.alone

    def __len__(self) -> int:
        """How many could begin now."""
        most = self.most
        return sum(max(min(len(q), most - self.running[a]), 0) for a, q in self._waiting.items())

    def append(self, channel: Any) -> None:
        address = channel.whose[0]
        self._asked[address] = self._clock()
        self._asked.move_to_end(address)
        while len(self._asked) > _REMEMBERED:
            self._asked.popitem(last=False)
        self._waiting.setdefault(channel.whose, deque()).append(channel)

    def popleft(self) -> Any:
        """The next one, of those who wait the longest for their turn."""
        most = self.most
        for whose, queue in self._waiting.items():
            if self.running[whose] < most:
                channel = queue.popleft()
                del self._waiting[whose]
                if queue:
                    self._waiting[whose] = queue
                self.running[whose] += 1
                return channel
        raise IndexError("nothing may begin")

    def ended(self, whose: Whose) -> None:
        self.running[whose] -= 1
        if self.running[whose] <= 0:
            del self.running[whose]

    def drained(self) -> list[Any]:
        """All that wait, taken out."""
        out = [channel for queue in self._waiting.values() for channel in queue]
        self._waiting.clear()
        return out


class FairDispatcher(ThreadedTaskDispatcher):
    """Waitress's threads, with `Turns` for a queue."""

    def __init__(self, threads: int) -> None:
        super().__init__()
        self.queue: Any = Turns()
        self.queue.alone = max(1, threads - LEFT_TO_OTHERS)
        self.queue.among = max(AMONG_OTHERS, (os.cpu_count() or 1) // 2)
        self.set_thread_count(threads)

    def add_task(self, task: Any) -> None:
        with self.lock:
            self.queue.append(_Counted(task, self))
            self.queue_cv.notify()

    def ended(self, whose: Whose) -> None:
        with self.lock:
            self.queue.ended(whose)
            # What waited for one of this address's threads may begin.
            if len(self.queue):
                self.queue_cv.notify()

    def shutdown(self, cancel_pending: bool = True, timeout: float = 5) -> bool:
        done = super().shutdown(False, timeout)
        if cancel_pending:
            with self.lock:
                for one in self.queue.drained():
                    one.cancel()
        return bool(done)


class _Counted:
    """A channel's turn."""

    def __init__(self, channel: Any, dispatcher: FairDispatcher) -> None:
        self._channel, self._dispatcher = channel, dispatcher
        self.whose: Whose = channel.whose

    def service(self) -> None:
        try:
            self._channel.service()
        finally:
            self._dispatcher.ended(self.whose)

    def cancel(self) -> None:
        self._channel.cancel()

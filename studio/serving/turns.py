"""Whose request is next: addresses take turns, and none of them has all threads."""

from __future__ import annotations

from collections import Counter, OrderedDict, deque
from typing import Any

from waitress.task import ThreadedTaskDispatcher

# Threads that one address leaves to the others.
LEFT_TO_OTHERS = 2


class Turns:
    """A queue of channels, by their address. Locking is left to who uses it."""

    def __init__(self) -> None:
        self._waiting: OrderedDict[str, deque[Any]] = OrderedDict()
        self.running: Counter[str] = Counter()
        self.most = 1

    def __len__(self) -> int:
        """How many could begin now."""
        return sum(
            max(min(len(q), self.most - self.running[a]), 0) for a, q in self._waiting.items()
        )

    def append(self, channel: Any) -> None:
        self._waiting.setdefault(channel.who, deque()).append(channel)

    def popleft(self) -> Any:
        """The next one, of the address that waits the longest for its turn."""
        for who, queue in self._waiting.items():
            if self.running[who] < self.most:
                channel = queue.popleft()
                del self._waiting[who]
                if queue:
                    self._waiting[who] = queue
                self.running[who] += 1
                return channel
        raise IndexError("nothing may begin")

    def ended(self, who: str) -> None:
        self.running[who] -= 1
        if self.running[who] <= 0:
            del self.running[who]

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
        self.queue.most = max(1, threads - LEFT_TO_OTHERS)
        self.set_thread_count(threads)

    def add_task(self, task: Any) -> None:
        with self.lock:
            self.queue.append(_Counted(task, self))
            self.queue_cv.notify()

    def ended(self, who: str) -> None:
        with self.lock:
            self.queue.ended(who)
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
        self.who: str = channel.who

    def service(self) -> None:
        try:
            self._channel.service()
        finally:
            self._dispatcher.ended(self.who)

    def cancel(self) -> None:
        self._channel.cancel()

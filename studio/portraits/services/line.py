"""Work of many users done one after the other: each user's turn comes, however much others wait for."""

from __future__ import annotations

import threading
from collections import OrderedDict, deque
from collections.abc import Callable

from studio.errors import Problem

Work = Callable[[], None]


class Line:
    """A thread that works through what users wait for, in turns; of one user in their order.

    Parameters
    ----------
    name : str
        Of the thread.
    most : int
        What one user may have waiting.
    """

    def __init__(self, name: str, most: int) -> None:
        self._name, self.most = name, most
        self._lock = threading.Lock()
        self._waiting: OrderedDict[int, deque[Work]] = OrderedDict()
        self._going = False

    def check(self, user: int, more: int = 1) -> None:
        """Refuse in words what would be more than one user may have waiting."""
        with self._lock:
            own = len(self._waiting.get(user, ()))
        if own + more > self.most:
            raise Problem(
                429, "too_many_waiting", f"Up to {self.most} can wait at a time; {own} of yours do."
            )

    def submit(self, user: int, work: Work) -> None:
        """Take work in; it is done when its turn comes. ``work`` handles its own errors."""
        with self._lock:
            self._waiting.setdefault(user, deque()).append(work)
            if not self._going:
                self._going = True
                threading.Thread(target=self._run, name=self._name, daemon=True).start()

    def _run(self) -> None:
        while True:
            with self._lock:
                if not self._waiting:
                    self._going = False
                    return
                user, own = next(iter(self._waiting.items()))
                work = own.popleft()
                del self._waiting[user]
                if own:
                    # Behind everybody else who waits.
                    self._waiting[user] = own
            work()

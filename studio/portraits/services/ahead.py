"""The pixels that a window will ask for next, computed while its gesture is being saved.

A window tells with a gesture which view it shows. As soon as the new edit is known, the part of
the view that it changes is computed; when the window, having the answer, asks for just that part,
it is there or on its way. A view that a window may ask for next can be guessed, too, while its hand rests.
"""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent import futures
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from weakref import WeakKeyDictionary

from retouch.edit import Edit
from retouch.geometry import Rect
from retouch.memory import shared
from studio.portraits.services.view_request import ViewRequest

# JPEG works in blocks; parts keep to them (the window does the same, see viewport.ts).
_BLOCK = 8
_MOST = 8

Overtaken = Callable[[], bool]


def part_of(view: ViewRequest, dirty: Rect) -> ViewRequest | None:
    """The part of a view that shows a rectangle of the framed picture, in whole blocks; None:
    nothing.
    """

    def before(at: float) -> int:
        return max(0, math.floor((at * view.scale - 2) / _BLOCK) * _BLOCK)

    def after(at: float, size: int) -> int:
        return min(size, math.ceil((at * view.scale + 2) / _BLOCK) * _BLOCK)

    left, top = before(dirty.x0 - view.x), before(dirty.y0 - view.y)
    right, bottom = after(dirty.x1 - view.x, view.width), after(dirty.y1 - view.y, view.height)
    if dirty.empty or right <= left or bottom <= top:
        return None
    return replace(
        view,
        x=view.x + left / view.scale,
        y=view.y + top / view.scale,
        width=right - left,
        height=bottom - top,
    )


class Ahead:
    """Pictures under way, each for one edit; safe to use from several threads."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(2, thread_name_prefix="ahead")
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[str, ViewRequest], tuple[Edit, Future[bytes]]] = OrderedDict()
        self._overtaken: WeakKeyDictionary[Future[bytes], threading.Event] = WeakKeyDictionary()
        # What was guessed last, and its portrait.
        self._guess: tuple[str, ViewRequest, Future[bytes]] | None = None

    def start(
        self, portrait: str, edit: Edit, request: ViewRequest, make: Callable[[Overtaken], bytes],
        guess: bool = False,
    ) -> None:  # fmt: skip
        """Begin to make the picture of a request; those of the portrait's other edits end, if nobody waits.

        ``make`` is given what tells whether it is to end, by raising `Cancelled`. What is only a ``guess`` is ended
        by the next one, and by `hurry`.
        """
        overtaken = threading.Event()
        if guess:
            self.hurry()
        future = self._pool.submit(make, overtaken.is_set)
        with self._lock:
            if guess:
                self._guess = portrait, request, future
            for key in [
                k for k, (of, _) in self._kept.items() if k[0] == portrait and of is not edit
            ]:
                self._drop(*key)
            self._drop(portrait, request)
            self._kept[portrait, request] = (edit, future)
            self._overtaken[future] = overtaken
            while len(self._kept) > _MOST:
                self._drop(*next(iter(self._kept)))
        future.add_done_callback(lambda done: self._count(portrait, request, done))

    def hurry(self) -> None:
        """End what is guessed, if it isn't done: something is wanted."""
        with self._lock:
            if self._guess is not None:
                portrait, request, future = self._guess
                kept = self._kept.get((portrait, request))
                if kept is not None and kept[1] is future and not future.done():
                    self._drop(portrait, request)
                self._guess = None

    def ready(self, portrait: str, edit: Edit, request: ViewRequest, wait_s: float) -> bytes | None:
        """The picture of just this edit, if it is done within so many seconds.

        If not, or if it failed, it stays for `take`.
        """
        with self._lock:
            kept = self._kept.get((portrait, request))
        if kept is None or kept[0] is not edit:
            return None
        done, _ = futures.wait([kept[1]], wait_s)
        if not done or kept[1].cancelled() or kept[1].exception() is not None:
            return None
        with self._lock:
            self._drop(portrait, request)
        return kept[1].result()

    def take(self, portrait: str, edit: Edit, request: ViewRequest) -> bytes | None:
        """The picture of just this edit, waited for if it is under way; None where there is none."""
        with self._lock:
            kept = self._drop(portrait, request, cancel=False)
        if kept is None or kept[0] is not edit or kept[1].cancelled():
            return None
        return kept[1].result()

    def _count(self, portrait: str, request: ViewRequest, done: Future[bytes]) -> None:
        """Count a finished picture in the memory of the process for as long as it is kept."""
        if done.cancelled() or done.exception() is not None:
            return
        with self._lock:
            kept = self._kept.get((portrait, request))
            if kept is not None and kept[1] is done:
                shared().hold(done, len(done.result()))

    def _drop(
        self, portrait: str, request: ViewRequest, cancel: bool = True
    ) -> tuple[Edit, Future[bytes]] | None:
        """Keep a picture no longer; under the lock."""
        kept = self._kept.pop((portrait, request), None)
        if kept is not None:
            shared().released(kept[1])
            if cancel:
                kept[1].cancel()
                if kept[1] in self._overtaken:
                    self._overtaken[kept[1]].set()
        return kept

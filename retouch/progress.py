"""How far a long computation is, told to whoever asked for it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_listener: ContextVar[Callable[[float], None] | None] = ContextVar("listener", default=None)


@contextmanager
def listening(listener: Callable[[float], None]) -> Iterator[None]:
    """While this lasts, `report` in the same thread tells ``listener`` how much is done, 0..1.

    What the listener raises (`Cancelled`) ends the computation.
    """
    token = _listener.set(listener)
    try:
        yield
    finally:
        _listener.reset(token)


@contextmanager
def within(start: float, end: float) -> Iterator[None]:
    """While this lasts, `report` tells how much of this stretch of the whole (0..1) is done."""
    listener = _listener.get()
    if listener is None:
        yield
        return
    with listening(lambda done: listener(start + (end - start) * done)):
        yield
    listener(end)


def report(done: float) -> None:
    """Tell the listener, if there is one."""
    listener = _listener.get()
    if listener is not None:
        listener(done)

"""Loading the core for a command, which takes longer than telling the command's options."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def loading() -> Iterator[None]:
    """Load what stays to the end without looking for garbage in it, then and when the process ends.

    Modules and their classes aren't garbage; looking through them took a third of a command's start.
    """
    on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if on:
            gc.enable()

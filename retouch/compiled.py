"""Compiled loops: numba behind one door.

What loops over pixels or cells one by one is written plainly and compiled on first use. The
result is kept on disk for the next start, in a folder named after the sources it was made from:
a compiled loop holds a copy of what it calls and of the constants it names, in other files too.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])

# Sums may be regrouped to fill vector registers; NaN and infinity keep their meaning.
_LOOSE = {"reassoc", "contract", "nsz", "arcp"}


def _kept_in() -> Path:
    root = Path(__file__).parent
    sources = hashlib.blake2b(numba.__version__.encode(), digest_size=8)
    for file in sorted(root.rglob("*.py")):
        text = file.read_bytes()
        if b"retouch.compiled" in text:
            sources.update(text)
    base = root / "__pycache__"
    if not os.access(root, os.W_OK):
        base = Path(os.environ.get("XDG_CACHE_HOME", Path.home() / ".cache")) / "mellow-glass"
    return base / f"compiled-{sources.hexdigest()}"


setattr(numba.config, "CACHE_DIR", str(_kept_in()))  # noqa: B010 (numba has no types for it)


def compiled(function: F) -> F:
    """Compile a function of arrays and numbers; it runs without holding the interpreter's lock.

    The same machine gives the same bits every time; another kind of processor may differ in the
    last digits, because sums are grouped as its registers allow.
    """
    # Division as NumPy has it: by zero gives infinity, so loops need no test at every step.
    return cast(
        F, numba.njit(cache=True, nogil=True, fastmath=_LOOSE, error_model="numpy")(function)
    )


@compiled
def _same(number: int) -> int:
    return number


def get_ready() -> None:
    """Load what the first call of a compiled loop waits for: a quarter of a second of a process's life.

    Whoever knows that loops will be called has it done while a picture is read.
    """
    _same(1)

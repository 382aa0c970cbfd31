"""Files of a folder as orders: those that are there, and those that come while it is watched."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from retouch.runs.journal import NAME

# What is taken for a photograph by its name; what it really is is found when it is opened.
ENDINGS = frozenset(
    [
        ".jpg",
        ".jpeg",
        ".png",
        ".tif",
        ".tiff",
        ".webp",
        ".heic",
        ".heif",
        ".avif",
        ".jxl",
        ".dng",
        ".nef",
        ".nrw",
        ".cr2",
        ".cr3",
        ".crw",
        ".arw",
        ".sr2",
        ".raf",
        ".orf",
        ".rw2",
        ".pef",
        ".srw",
        ".x3f",
        ".mrw",
        ".3fr",
        ".fff",
        ".iiq",
        ".mos",
        ".mef",
        ".erf",
        ".kdc",
        ".dcr",
        ".raw",
    ]
)
# A file is complete when its size and time have stayed so long; looked at so often.
_STILL_S, _LOOK_S = 1.0, 0.25


def photographs(folder: Path, besides: Path) -> tuple[list[Path], int]:
    """Photographs in a folder and below, by name; and how many other files there are.

    What lies in ``besides`` (where results go) isn't looked at, and hidden files aren't.
    """
    found, others = [], 0
    for place, inner, names in os.walk(folder):
        here = Path(place)
        inner[:] = sorted(
            n for n in inner if not n.startswith(".") and (here / n).resolve() != besides
        )
        for name in sorted(names):
            if name.startswith(".") or name == NAME:
                continue
            if Path(name).suffix.lower() in ENDINGS:
                found.append(here / name)
            else:
                others += 1
    return found, others


def arriving(folder: Path, besides: Path, stop: Callable[[], bool]) -> Iterator[Path | None]:
    """Photographs that are there and that come, each once it is completely written; None while none is.

    A camera or a copy writes a file over some time: it is given when its size stays. One that is written anew
    later is given again.
    """
    from watchfiles import watch

    given: dict[Path, tuple[int, int]] = {}
    seen: dict[Path, tuple[tuple[int, int], float]] = {}
    events = watch(
        folder, rust_timeout=round(1000 * _LOOK_S), yield_on_timeout=True, debounce=100, step=50,
        raise_interrupt=True,
    )  # fmt: skip
    while not stop():
        now = time.monotonic()
        for path in photographs(folder, besides)[0]:
            try:
                stat = path.stat()
            except OSError:
                continue
            state = (stat.st_size, stat.st_mtime_ns)
            if given.get(path) == state:
                continue
            was = seen.get(path)
            if was is None or was[0] != state:
                seen[path] = (state, now)
            elif now - was[1] >= _STILL_S:
                given[path] = state
                del seen[path]
                yield path
        yield None
        # What the file system tells, or some time, whichever comes first.
        next(events, None)

"""How far a worker is with a picture: told in a small file, which outlives nobody and locks nobody out."""

from __future__ import annotations

import contextlib
import json
import os
from collections.abc import Callable
from pathlib import Path

Tell = Callable[[float, str], None]


def teller(path: str) -> Tell:
    """What notes the done share, 0..1, and what is being done, in words, in a file; ``path`` "": nothing does.

    Whoever dies on the way leaves the file as it was. What can't be written isn't told: it is no reason to stop.
    """
    if not path:
        return lambda share, doing: None

    def tell(share: float, doing: str) -> None:
        with contextlib.suppress(OSError):
            Path(f"{path}.new").write_text(json.dumps([round(share, 3), doing]))
            os.replace(f"{path}.new", path)

    return tell


def told(path: str) -> tuple[float, str] | None:
    """What was noted last; None where nothing is."""
    try:
        share, doing = json.loads(Path(path).read_text())
        return float(share), str(doing)
    except (OSError, ValueError, TypeError):
        return None

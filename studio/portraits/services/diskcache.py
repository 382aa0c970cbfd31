"""Files that can be made again: kept within a budget, deletable at any time."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from django.conf import settings


def put(path: Path, data: bytes) -> None:
    """Write a cache file, all or nothing; a full disk only means that it isn't kept."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        os.replace(temporary, path)
    except OSError:
        return
    trim(path.parent)


def trim(folder: Path, budget: int | None = None) -> None:
    """Delete the files not used for longest until the folder fits its budget."""
    limit = settings.DISK_CACHE_BYTES if budget is None else budget
    files: list[tuple[float, int, Path]] = []
    for path in folder.iterdir():
        try:
            state = path.stat()
        except OSError:
            continue
        files.append((state.st_mtime, state.st_size, path))
    used = sum(size for _, size, _ in files)
    for _, size, path in sorted(files):
        if used <= limit:
            break
        path.unlink(missing_ok=True)
        used -= size

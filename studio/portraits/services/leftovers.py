"""What an earlier start left behind: processes that outlived it, files that belong to nothing."""

from __future__ import annotations

import json
import logging
import os
import shutil
import signal
import time
from contextlib import suppress
from pathlib import Path

from django.conf import settings

from retouch.processes import started_at
from studio.portraits.models import Portrait

log = logging.getLogger(__name__)

# A folder without a row may belong to an upload under way.
_YOUNG_S = 3600.0


def note_process(pid: int) -> None:
    """Write down a process that belongs to this one, so that a later start finds it."""
    path = _processes() / str(pid)
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        told = {
            "started": started_at(pid),
            "by": os.getpid(),
            "by_started": started_at(os.getpid()),
        }
        path.write_text(json.dumps(told))


def end_processes() -> int:
    """End what earlier starts of this data folder left running; how many."""
    ended = 0
    folder = _processes()
    for path in folder.iterdir() if folder.is_dir() else ():
        try:
            pid, told = int(path.name), json.loads(path.read_text())
            alive = told["started"] and started_at(pid) == told["started"]
            orphan = started_at(told["by"]) != told["by_started"]
        except (OSError, ValueError, KeyError, TypeError):
            pid, alive, orphan = 0, False, True
        if alive and not orphan:
            continue
        if alive:
            with suppress(OSError):
                os.kill(pid, signal.SIGKILL)
                ended += 1
        path.unlink(missing_ok=True)
    return ended


def _processes() -> Path:
    return Path(settings.DATA_DIR) / "processes"


def sweep() -> list[str]:
    """Put away folders of originals that no portrait names, and drop small pictures of none.

    They lie in ``swept/`` for as long as deleted portraits do; returns their names.
    """
    swept = Path(settings.DATA_DIR) / "swept"
    known = set(Portrait.objects.values_list("pk", flat=True))
    moved = []
    originals = Path(settings.ORIGINALS_DIR)
    now = time.time()
    for folder in originals.iterdir() if originals.is_dir() else ():
        with suppress(OSError):
            if folder.name not in known and now - folder.stat().st_mtime > _YOUNG_S:
                swept.mkdir(parents=True, exist_ok=True)
                os.utime(folder)
                os.replace(folder, swept / folder.name)
                moved.append(folder.name)
    for folder in swept.iterdir() if swept.is_dir() else ():
        with suppress(OSError):
            if now - folder.stat().st_mtime > settings.TRASH_DAYS * 86_400:
                shutil.rmtree(folder)
    small = Path(settings.CACHE_DIR) / "thumbnails"
    for file in small.iterdir() if small.is_dir() else ():
        if not any(one in known for one in _parts(file.name)):
            file.unlink(missing_ok=True)
    analyses = Path(settings.ANALYSES_DIR)
    for folder in analyses.iterdir() if analyses.is_dir() else ():
        if folder.name not in known:
            shutil.rmtree(folder, ignore_errors=True)
    # Files that were being written when the process was stopped.
    for place in (originals, analyses):
        for part in place.glob("*/*.part") if place.is_dir() else ():
            with suppress(OSError):
                if now - part.stat().st_mtime > _YOUNG_S:
                    part.unlink()
    if moved:
        log.warning("Originals of no portrait were put into swept/: %s", ", ".join(moved[:20]))
    return moved


def _parts(name: str) -> list[str]:
    """All beginnings of a small picture's name that may be a portrait's id: ids hold dashes, too."""
    return [name[:n] for n, c in enumerate(name) if c == "-"]

"""Analyses of portraits: started by themselves, kept on disk, followed while they run.

An analysis belongs to a portrait and to what the user said about its faces. It is kept under a
name made of both, so that undoing a correction finds the earlier analysis again.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
import shutil
import time
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path

from django.conf import settings

from retouch.edit import Edit
from retouch.errors import Cancelled, FacesMissing, RetouchError
from retouch.face import Analysis, Hints, load
from retouch.face.analysis import VERSION
from retouch.memory import Part
from retouch.work.hints import hints_of
from studio.portraits.models import Portrait
from studio.portraits.services import desk
from studio.portraits.services.analysis_queue import AnalysisQueue, Status

log = logging.getLogger(__name__)

# Files of a portrait that are kept: the present one, and those of corrections that may be undone.
_MOST_FILES = 8
# Faces that aren't known yet are waited for so long.
_LONGEST_WAIT_S = 900.0


def _path(portrait_id: str, hints: Hints) -> Path:
    key = hashlib.blake2b(repr((VERSION, asdict(hints))).encode(), digest_size=8).hexdigest()
    return Path(settings.ANALYSES_DIR) / portrait_id / f"{key}.npz"


def _there(path: Path) -> bool:
    """Whether an analysis lies in its place; what isn't a file there goes."""
    if path.is_dir():
        shutil.rmtree(path, ignore_errors=True)
    return path.is_file()


def status(portrait: Portrait) -> Status:
    """The state of the analysis that fits the portrait now; starts it when it isn't there."""
    return _status(portrait, hints_of(desk.edit_of(portrait)))


def _status(portrait: Portrait, hints: Hints) -> Status:
    path = _path(portrait.id, hints)
    if _there(path):
        queue.forget(path)
        return Status("done", 1.0, "Done")
    return queue.wanted(portrait, path, hints)


def file_of(portrait_id: str, edit: Edit) -> Path:
    """Where the analysis that fits an edit is, or will be."""
    return _path(portrait_id, hints_of(edit))


def again(portrait: Portrait) -> Status:
    """Throw the analysis away and start anew."""
    path = _path(portrait.id, hints_of(desk.edit_of(portrait)))
    if queue.ended(path):
        queue.forget(path)
        path.unlink(missing_ok=True)
        _kept().drop(str(path))
    return status(portrait)


def result(portrait: Portrait) -> Analysis | None:
    """The finished analysis of the portrait's edit, or None while there is none; starts it."""
    edit = desk.edit_of(portrait)
    found = of_edit(portrait.id, edit)
    if found is None:
        # Cut short or of another version: made anew.
        _path(portrait.id, hints_of(edit)).unlink(missing_ok=True)
        status(portrait)
    return found


def of_edit(portrait_id: str, edit: Edit) -> Analysis | None:
    """The analysis that fits an edit, from memory or disk; None where it hasn't been made."""
    path = _path(portrait_id, hints_of(edit))
    if not _there(path):
        return None
    try:
        found = _kept().get(str(path), lambda: load(path))
    except RetouchError:
        return None
    with contextlib.suppress(OSError):
        os.utime(path)
    return found


def waited_for(
    portrait: Portrait, edit: Edit, seconds: float, patient: bool = False
) -> Analysis | None:
    """The analysis that fits an edit, made if need be and waited for so many seconds.

    Where it is still on its way then, None is given to who is ``patient``.

    Raises
    ------
    FacesMissing
        When it fails, or isn't there in time.
    """
    found = of_edit(portrait.id, edit)
    if found is not None:
        return found
    hints = hints_of(edit)
    path = _path(portrait.id, hints)
    if _there(path):
        # Damaged, or of another version.
        path.unlink(missing_ok=True)
    state = _status(portrait, hints)
    if state.state != "failed":
        queue.wait(path, seconds)
        found = of_edit(portrait.id, edit)
        if found is not None:
            return found
        state = _status(portrait, hints)
    if state.state != "failed" and patient:
        return None
    why = state.doing if state.state == "failed" else "They are still being looked at."
    raise FacesMissing(f"Some passes act on zones of the face, which aren't known. {why}")


def named_when_found(portrait: Portrait, edit: Edit, stopped: Callable[[], bool]) -> Edit:
    """The edit named after the analysis that fits it, which is waited for; `Cancelled` once ``stopped``."""
    end = time.monotonic() + _LONGEST_WAIT_S
    while True:
        left = end - time.monotonic()
        found = waited_for(portrait, edit, min(left, 1.0), patient=left > 1.0)
        if found is not None:
            return replace(edit, analysis=found.key)
        if stopped():
            raise Cancelled("It was cancelled.")


def named(portrait_id: str, edit: Edit) -> Edit:
    """The edit with the name of the analysis that fits it; of none while it isn't there."""
    found = of_edit(portrait_id, edit)
    name = found.key if found is not None else ""
    return edit if edit.analysis == name else replace(edit, analysis=name)


def _kept() -> Part[Analysis]:
    return desk.memory.part("analyses", 0.1)


def _finished(portrait_id: str, path: Path) -> None:
    """An analysis is there: the portrait's edit is named after it, old files go."""
    files = sorted(path.parent.glob("*.npz"), key=lambda p: p.stat().st_mtime, reverse=True)
    for old in files[_MOST_FILES:]:
        old.unlink(missing_ok=True)
    portrait = Portrait.objects.filter(pk=portrait_id).first()
    if portrait is None:
        return
    edit = desk.edit_of(portrait)
    now = named(portrait_id, edit)
    if now is not edit:
        # Only where nobody has gone on meanwhile.
        rows = Portrait.objects.filter(pk=portrait_id, revision=portrait.revision)
        if rows.update(analysis=now.analysis):
            desk.remember(portrait, now)


queue = AnalysisQueue(_finished, _path)
desk.ask_for_zones(of_edit)


def stop() -> None:
    """Let everything go that isn't finished, and end the worker: the process is about to end."""
    queue.stop()


def worker() -> int | None:
    """Process id of the worker, once it runs."""
    return queue.worker

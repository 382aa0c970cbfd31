"""Analyses of portraits: started by themselves, kept on disk, followed while they run.

An analysis belongs to a portrait and to what the user said about its faces. It is kept under a
name made of both, so that undoing a correction finds the earlier analysis again.
"""

from __future__ import annotations

import hashlib
import multiprocessing
import threading
from collections import OrderedDict
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

from django.conf import settings

from retouch.edit import Edit
from retouch.errors import RetouchError
from retouch.face import Analysis, Hints, load
from retouch.face.analysis import VERSION
from retouch.face.worker import prepare, run
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import desk

State = Literal["waiting", "working", "done", "failed"]

_MOST_KEPT = 6
_TRIES = 2


@dataclass
class Status:
    """Where an analysis stands: state, share done 0..1, and what is being done in words."""

    state: State
    share: float = 0.0
    doing: str = ""
    tries: int = 0


_lock = threading.RLock()
_jobs: dict[str, Status] = {}
_kept: OrderedDict[str, Analysis] = OrderedDict()
_pool: ProcessPoolExecutor | None = None


def hints_of(edit: Edit) -> Hints:
    """What the edit's touches say about the faces."""
    touches = [t for p in edit.passes if p.kind == "faces" and p.enabled for t in p.touches]
    boxes, removed, irises, nudges = [], [], [], []
    for touch in touches:
        what, first, last = touch.values["what"], touch.path[0], touch.path[-1]
        if what == "face":
            x, y = min(first[0], last[0]), min(first[1], last[1])
            boxes.append((x, y, abs(last[0] - first[0]), abs(last[1] - first[1])))
        elif what == "none":
            removed.append(first)
        elif what == "iris":
            irises.append((*first, float(touch.values["radius_px"])))
        else:
            nudges.append((*first, *last))
    return Hints(tuple(boxes), tuple(removed), tuple(irises), tuple(nudges))


def _path(portrait: Portrait, hints: Hints) -> Path:
    key = hashlib.blake2b(repr((VERSION, asdict(hints))).encode(), digest_size=8).hexdigest()
    return Path(settings.ANALYSES_DIR) / portrait.id / f"{key}.npz"


def status(portrait: Portrait) -> Status:
    """The state of the analysis that fits the portrait now; starts it when it isn't there."""
    hints = hints_of(desk.edit_of(portrait))
    path = _path(portrait, hints)
    with _lock:
        if path.exists():
            _jobs.pop(str(path), None)
            return Status("done", 1.0, "Done")
        known = _jobs.get(str(path))
        if known is None:
            known = _jobs[str(path)] = Status("waiting")
            _submit(portrait, path, hints, known)
        return known


def again(portrait: Portrait) -> Status:
    """Throw the analysis away and start anew."""
    path = _path(portrait, hints_of(desk.edit_of(portrait)))
    with _lock:
        known = _jobs.get(str(path))
        if known is None or known.state in ("done", "failed"):
            _jobs.pop(str(path), None)
            _kept.pop(str(path), None)
            path.unlink(missing_ok=True)
    return status(portrait)


def result(portrait: Portrait) -> Analysis | None:
    """The finished analysis, or None while there is none."""
    if status(portrait).state != "done":
        return None
    path = _path(portrait, hints_of(desk.edit_of(portrait)))
    with _lock:
        known = _kept.get(str(path))
        if known is not None:
            _kept.move_to_end(str(path))
            return known
    try:
        found = load(path)
    except RetouchError:
        # Cut short or of another version: made anew.
        path.unlink(missing_ok=True)
        status(portrait)
        return None
    with _lock:
        _kept[str(path)] = found
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return found


def needed(portrait: Portrait) -> Analysis:
    """The finished analysis; says so in words while there is none."""
    found = result(portrait)
    if found is None:
        raise Problem(409, "not_ready", "The faces of this portrait are still being looked at.")
    return found


def _submit(portrait: Portrait, path: Path, hints: Hints, state: Status) -> None:
    state.tries += 1
    try:
        future = _workers().submit(run, str(path), portrait.original, path, hints)
    except BrokenProcessPool:
        _forget_workers()
        future = _workers().submit(run, str(path), portrait.original, path, hints)
    future.add_done_callback(lambda f: _finished(f, portrait, path, hints, state))


def _finished(
    future: Future[None], portrait: Portrait, path: Path, hints: Hints, state: Status
) -> None:
    error = future.exception() if not future.cancelled() else None
    with _lock:
        if isinstance(error, BrokenProcessPool):
            # The worker died. Once more, in a new one; a portrait that kills it twice is left.
            _forget_workers()
            if state.tries < _TRIES:
                state.state = "waiting"
                _submit(portrait, path, hints, state)
                return
        if error is None and not future.cancelled():
            state.state, state.share, state.doing = "done", 1.0, "Done"
        else:
            state.state = "failed"
            state.doing = (
                str(error)
                if isinstance(error, RetouchError)
                else "The faces couldn't be looked at. Everything by hand works; try again."
            )


def _workers() -> ProcessPoolExecutor:
    """One worker, in a process of its own, started when first needed."""
    global _pool
    with _lock:
        if _pool is None:
            # Forking a process in which models have run crashes the child.
            context = multiprocessing.get_context("spawn")
            channel: Any = context.SimpleQueue()
            _pool = ProcessPoolExecutor(1, context, prepare, (channel,))
            threading.Thread(target=_listen, args=(channel,), daemon=True).start()
        return _pool


def _forget_workers() -> None:
    global _pool
    if _pool is not None:
        _pool.shutdown(wait=False, cancel_futures=False)
        _pool = None


def _listen(channel: Any) -> None:
    while True:
        try:
            job, share, doing = channel.get()
        except (EOFError, OSError):
            return
        with _lock:
            known = _jobs.get(job)
            if known is not None and known.state in ("waiting", "working"):
                known.state, known.share, known.doing = "working", share, doing


def forget(portrait_id: str) -> None:
    """Drop what is in memory of a portrait."""
    with _lock:
        for key in [k for k in (*_kept, *_jobs) if Path(k).parent.name == portrait_id]:
            _kept.pop(key, None)

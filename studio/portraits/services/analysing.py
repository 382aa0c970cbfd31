"""Analyses of portraits: started by themselves, kept on disk, followed while they run.

An analysis belongs to a portrait and to what the user said about its faces. It is kept under a
name made of both, so that undoing a correction finds the earlier analysis again.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import multiprocessing
import os
import signal
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
from retouch.face.worker import HELLO, prepare, run
from studio.portraits.models import Portrait
from studio.portraits.services import desk

log = logging.getLogger(__name__)

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


@dataclass(frozen=True)
class Job:
    """What the worker is asked to do."""

    source: Path
    path: Path
    hints: Hints
    status: Status


_lock = threading.RLock()
_queue: list[Job] = []
_running: Job | None = None
_worker: int | None = None
_stopped = False
_jobs: dict[str, Status] = {}
_kept: OrderedDict[str, Analysis] = OrderedDict()
_pool: ProcessPoolExecutor | None = None


def hints_of(edit: Edit) -> Hints:
    """What the edit's touches say about the faces."""
    touches = [t for p in edit.passes if p.kind == "faces" and p.on for t in p.touches]
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


def _path(portrait_id: str, hints: Hints) -> Path:
    key = hashlib.blake2b(repr((VERSION, asdict(hints))).encode(), digest_size=8).hexdigest()
    return Path(settings.ANALYSES_DIR) / portrait_id / f"{key}.npz"


def status(portrait: Portrait) -> Status:
    """The state of the analysis that fits the portrait now; starts it when it isn't there."""
    hints = hints_of(desk.edit_of(portrait))
    path = _path(portrait.id, hints)
    with _lock:
        if path.exists():
            _jobs.pop(str(path), None)
            return Status("done", 1.0, "Done")
        known = _jobs.get(str(path))
        if known is None:
            known = _jobs[str(path)] = Status("waiting")
            _submit(Job(portrait.original, path, hints, known))
        return known


def again(portrait: Portrait) -> Status:
    """Throw the analysis away and start anew."""
    path = _path(portrait.id, hints_of(desk.edit_of(portrait)))
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
    path = _path(portrait.id, hints_of(desk.edit_of(portrait)))
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
        _keep(str(path), found)
    return found


def known(portrait: Portrait) -> Analysis | None:
    """The analysis if it is in memory already: what a gesture can use without waiting."""
    path = _path(portrait.id, hints_of(desk.edit_of(portrait)))
    with _lock:
        return _kept.get(str(path))


def _of_edit(portrait_id: str, edit: Edit) -> Analysis | None:
    """The analysis that fits an edit, from memory or disk; None where it hasn't been made."""
    path = _path(portrait_id, hints_of(edit))
    with _lock:
        found = _kept.get(str(path))
    if found is not None or not path.exists():
        return found
    try:
        found = load(path)
    except RetouchError:
        return None
    with _lock:
        _keep(str(path), found)
    return found


def _keep(path: str, found: Analysis) -> None:
    _kept[path] = found
    while len(_kept) > _MOST_KEPT:
        _kept.popitem(last=False)


desk.ask_for_zones(_of_edit)


def _submit(job: Job) -> None:
    """Queue a job; the newest goes first, it is what somebody looks at."""
    with _lock:
        _queue.append(job)
        _next()


def _next() -> None:
    """Give the worker its next job. Only one is with it at a time; the others can still go."""
    global _running
    if _running is not None or not _queue:
        return
    job = _running = _queue.pop()
    job.status.tries += 1
    try:
        future = _workers().submit(run, str(job.path), job.source, job.path, job.hints)
    except BrokenProcessPool:
        _forget_workers()
        future = _workers().submit(run, str(job.path), job.source, job.path, job.hints)
    future.add_done_callback(lambda f: _finished(f, job))


def _finished(future: Future[None], job: Job) -> None:
    global _running
    error = None if future.cancelled() else future.exception()
    with _lock:
        _running = None
        if isinstance(error, BrokenProcessPool):
            # The worker died. Once more, in a new one; a portrait that kills it twice is left.
            _forget_workers()
            if job.status.tries < _TRIES and not _stopped:
                job.status.state = "waiting"
                _submit(job)
                return
        if error is None and not future.cancelled():
            job.status.state, job.status.share, job.status.doing = "done", 1.0, "Done"
        else:
            if error is not None and not isinstance(error, RetouchError) and not _stopped:
                log.error("An analysis failed: %s", job.path, exc_info=error)
            job.status.state = "failed"
            job.status.doing = (
                str(error)
                if isinstance(error, RetouchError)
                else "The faces couldn't be looked at. Everything by hand works; try again."
            )
        _next()


def _workers() -> ProcessPoolExecutor:
    """One worker, in a process of its own, started when first needed."""
    global _pool, _stopped
    with _lock:
        _stopped = False
        if _pool is None:
            # Forking a process in which models have run crashes the child.
            context = multiprocessing.get_context("spawn")
            channel: Any = context.SimpleQueue()
            _pool = ProcessPoolExecutor(1, context, prepare, (channel,))
            threading.Thread(target=_listen, args=(channel,), daemon=True).start()
        return _pool


def _forget_workers() -> None:
    global _pool, _worker
    if _pool is not None:
        _pool.shutdown(wait=False, cancel_futures=True)
        _pool, _worker = None, None


def _listen(channel: Any) -> None:
    global _worker
    while True:
        try:
            job, share, doing = channel.get()
        except (EOFError, OSError):
            return
        with _lock:
            if job == HELLO:
                _worker = int(share)
                continue
            known = _jobs.get(job)
            if known is not None and known.state in ("waiting", "working"):
                known.state, known.share, known.doing = "working", share, doing


def worker() -> int | None:
    """Process id of the worker, once it runs."""
    return _worker


def stop() -> None:
    """Let everything go that isn't finished, and end the worker: the process is about to end."""
    global _stopped
    with _lock:
        _stopped = True
        _queue.clear()
        _jobs.clear()
        _kept.clear()
        if _worker is not None:
            with contextlib.suppress(OSError):
                os.kill(_worker, signal.SIGTERM)
        _forget_workers()

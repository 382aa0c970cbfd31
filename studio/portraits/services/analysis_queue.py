"""The queue of analyses: one worker process, one job at a time, kept in the database."""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from typing import Any, Literal

from retouch.errors import RetouchError
from retouch.face import Hints
from retouch.face.worker import HELLO, prepare, run
from studio.portraits.models import Job, Portrait, new_id
from studio.portraits.services import jobs, leftovers

log = logging.getLogger(__name__)

State = Literal["waiting", "working", "done", "failed"]

# A portrait that ends its worker so often, over restarts too, is left.
_TRIES = 2
_FAILED = "The faces couldn't be looked at. Everything by hand works; try again."


@dataclass
class Status:
    """Where an analysis stands: state, share done 0..1, and what is being done in words."""

    state: State
    share: float = 0.0
    doing: str = ""


@dataclass
class _Task:
    """What the worker is asked to do."""

    job_id: str
    owner_id: int
    portrait_id: str
    source: Path
    path: Path
    hints: Hints
    status: Status
    tries: int


class AnalysisQueue:
    """Analyses under way; safe to use from several threads.

    Parameters
    ----------
    finished : callable
        Told the portrait's id and the file of each analysis that is done.
    path_of : callable
        Gives the file of a portrait's analysis, by its id and what the user said.
    """

    def __init__(
        self, finished: Callable[[str, Path], None], path_of: Callable[[str, Hints], Path]
    ) -> None:
        self.worker: int | None = None
        self._tell = finished
        self._path_of = path_of
        self._lock = threading.RLock()
        self._changed = threading.Condition(self._lock)
        self._tasks: dict[Path, _Task] = {}
        self._waiting: list[_Task] = []
        self._running: _Task | None = None
        self._stopped = False
        self._last_owner: int | None = None
        self._pool: ProcessPoolExecutor | None = None
        jobs.resumes("analysis")(self._take_up)

    def wanted(self, portrait: Portrait, path: Path, hints: Hints) -> Status:
        """How an analysis stands; it is begun if nobody asked for it yet."""
        with self._lock:
            known = self._tasks.get(path)
            if known is not None:
                return known.status
            kept = Job.objects.filter(kind="analysis", portrait=portrait, key=path.name).first()
            if kept is not None and kept.state == "failed":
                return Status("failed", 0.0, kept.message)
            if kept is None:
                kept = Job.objects.create(
                    id=new_id(), kind="analysis", key=path.name, owner_id=portrait.owner_id,
                    portrait=portrait, data=asdict(hints),
                )  # fmt: skip
            return self._begin(kept, portrait, path, hints).status

    def _begin(self, job: Job, portrait: Portrait, path: Path, hints: Hints) -> _Task:
        with self._lock:
            task = _Task(
                job.pk, portrait.owner_id, portrait.id, portrait.original, path, hints,
                Status("waiting"), job.tries,
            )  # fmt: skip
            self._tasks[path] = task
            self._submit(task)
            return task

    def _take_up(self, job: Job) -> None:
        """Begin a job anew that a stop of the process cut short."""
        portrait = job.portrait
        hints = Hints(**{n: tuple(map(tuple, v)) for n, v in job.data.items()})
        if portrait is None or self._path_of(portrait.id, hints).name != job.key:
            job.delete()
            return
        path = self._path_of(portrait.id, hints)
        if path.is_file():
            jobs.tell(job.pk, state="done")
        elif job.tries >= _TRIES:
            jobs.tell(job.pk, state="failed", message=_FAILED)
        elif path not in self._tasks:
            self._begin(job, portrait, path, hints)

    def forget(self, path: Path) -> None:
        """Nothing more is asked of an analysis: it is there, or is to be made anew."""
        with self._lock:
            task = self._tasks.get(path)
            if task is not None and task.status.state in ("waiting", "working"):
                return
            self._tasks.pop(path, None)
        Job.objects.filter(kind="analysis", key=path.name, portrait_id=path.parent.name).exclude(
            state__in=jobs.OPEN
        ).delete()

    def ended(self, path: Path) -> bool:
        """Whether an analysis isn't under way."""
        with self._lock:
            task = self._tasks.get(path)
            return task is None or task.status.state in ("done", "failed")

    def wait(self, path: Path, seconds: float) -> None:
        """Return when an analysis has ended, or so many seconds are over."""
        end = time.monotonic() + seconds
        with self._changed:
            self._changed.wait_for(
                lambda: self.ended(path) or self._stopped, end - time.monotonic()
            )

    def _submit(self, task: _Task) -> None:
        """Queue a task; the newest goes first, it is what somebody looks at."""
        with self._lock:
            self._waiting.append(task)
            self._next()

    def _next(self) -> None:
        """Give the worker its next task. Only one is with it at a time; the others can still go."""
        if self._running is not None or not self._waiting:
            return
        task = self._running = self._waiting.pop(self._turn())
        self._last_owner = task.owner_id
        task.tries += 1
        jobs.tell(task.job_id, state="working", tries=task.tries)
        work = partial(run, str(task.path), task.source, task.path, task.hints)
        try:
            future = self._workers().submit(work)
        except BrokenProcessPool:
            self._forget_workers()
            future = self._workers().submit(work)
        future.add_done_callback(
            lambda f: jobs.on_a_thread(lambda: self._finished(f, task), "An analysis")
        )

    def _turn(self) -> int:
        """Which task is next: the newest of somebody else than the last one's, where there is one."""
        for n in range(len(self._waiting) - 1, -1, -1):
            if self._waiting[n].owner_id != self._last_owner:
                return n
        return len(self._waiting) - 1

    def _finished(self, future: Future[None], task: _Task) -> None:
        error = None if future.cancelled() else future.exception()
        status = task.status
        with self._lock:
            self._running = None
            if self._stopped:
                return
            if isinstance(error, BrokenProcessPool):
                # The worker died. Once more, in a new one.
                self._forget_workers()
                if task.tries < _TRIES:
                    status.state = "waiting"
                    self._submit(task)
                    return
            done = error is None and not future.cancelled()
            if not done and error is not None and not isinstance(error, RetouchError):
                log.error("An analysis failed: %s", task.path, exc_info=error)
            message = "Done" if done else str(error) if isinstance(error, RetouchError) else _FAILED
        jobs.tell(task.job_id, state="done" if done else "failed", message=message)
        if done:
            self._tell(task.portrait_id, task.path)
        with self._changed:
            # Said last: whoever sees it finds everything in its place.
            status.state, status.doing = "done" if done else "failed", message
            status.share = 1.0 if done else status.share
            self._changed.notify_all()
            self._next()

    def _workers(self) -> ProcessPoolExecutor:
        """One worker, in a process of its own, started when first needed."""
        with self._lock:
            self._stopped = False
            if self._pool is None:
                # Forking a process in which models have run crashes the child.
                context = multiprocessing.get_context("spawn")
                channel: Any = context.SimpleQueue()
                self._pool = ProcessPoolExecutor(1, context, prepare, (channel, os.getpid()))
                threading.Thread(target=self._listen, args=(channel,), daemon=True).start()
            return self._pool

    def _forget_workers(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool, self.worker = None, None

    def _listen(self, channel: Any) -> None:
        while True:
            try:
                job, share, doing = channel.get()
            except (EOFError, OSError):
                return
            with self._lock:
                if job == HELLO:
                    self.worker = int(share)
                    leftovers.note_process(self.worker)
                    continue
                task = self._tasks.get(Path(job))
                if task is not None and task.status.state in ("waiting", "working"):
                    task.status.state, task.status.share, task.status.doing = (
                        "working",
                        share,
                        doing,
                    )

    def stop(self) -> None:
        """Let everything go that isn't finished, and end the worker: the process is about to end."""
        with self._changed:
            self._stopped = True
            self._waiting.clear()
            self._tasks.clear()
            self._running = None
            if self.worker is not None:
                with contextlib.suppress(OSError):
                    os.kill(self.worker, signal.SIGTERM)
            self._forget_workers()
            self._changed.notify_all()

"""Who carries out orders: processes on this machine, or a Dask cluster. One loop serves both."""

from __future__ import annotations

import contextlib
import ctypes
import gc
import logging
import multiprocessing
import os
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import FIRST_COMPLETED, CancelledError, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any, Final, Protocol

from retouch.errors import RetouchError
from retouch.processes import end_with
from retouch.runs.orders import Made, Order

log = logging.getLogger(__name__)

# A picture during which workers died so often fails by itself.
TRIES = 3
# What a worker takes for a picture of 24 megapixels with a routine (measured: docs/benchmarks.md), and what
# stays free for all else.
_WORKER_BYTES, _FREE_BYTES = 1_700_000_000, 1_000_000_000
# A process ends by this signal with whoever started it (prctl(2), PR_SET_PDEATHSIG).
_PDEATHSIG = 1
_NICE = 10
_LOOK_S = 0.2
_STRANGERS = "The scheduler or a worker doesn't know this program, or knows another version: all are started in its folder."
_END: Final = object()


class Lost(RetouchError):
    """The worker died on the way."""


class Crew(Protocol):
    """Takes orders; ``size`` are under way at the same time."""

    size: int

    def begin(self, order: Order) -> Future[Made]:
        """Begin an order. The future fails with `Lost` where the worker died."""
        ...

    def close(self) -> None:
        """End the workers; what is under way is let go."""
        ...


def workers_that_fit(wanted: int | None = None) -> int:
    """How many workers this machine has cores and memory for; no more than are ``wanted``."""
    most = max(1, min(os.cpu_count() or 1, (_available() - _FREE_BYTES) // _WORKER_BYTES))
    return most if wanted is None else max(1, min(wanted, most))


def _available() -> int:
    """Bytes that can be had: of the machine, and of the control group that this process is in."""
    found = []
    with contextlib.suppress(OSError, ValueError):
        text = Path("/proc/meminfo").read_text()
        found.append(1024 * int(text.split("MemAvailable:")[1].split()[0]))
    with contextlib.suppress(OSError, ValueError):
        group = Path("/sys/fs/cgroup")
        most = int((group / "memory.max").read_text())
        found.append(most - int((group / "memory.current").read_text()))
    return min(found) if found else 4 * _WORKER_BYTES


def _prepare(cores: int, parent: int) -> None:
    """Run once in each new process: it is modest, and ends with who started it."""
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(_PDEATHSIG, signal.SIGKILL)
        if os.getppid() != parent:
            os._exit(0)
    end_with(parent)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with contextlib.suppress(OSError):
        os.nice(_NICE)
    import cv2

    from retouch import processors

    cv2.setNumThreads(cores)
    processors.CORES = cores


class Processes:
    """Workers on this machine, each with its share of the cores."""

    def __init__(self, size: int | None = None) -> None:
        self.size = workers_that_fit(size)
        self._cores = max(1, min(4, (os.cpu_count() or 1) // self.size))
        self._lock = threading.Lock()
        self._pool: ProcessPoolExecutor | None = None

    def begin(self, order: Order) -> Future[Made]:
        with self._lock:
            for _ in range(2):
                if self._pool is None:
                    self._pool = ProcessPoolExecutor(
                        self.size, multiprocessing.get_context("spawn"), _prepare,
                        (self._cores, os.getpid()),
                    )  # fmt: skip
                try:
                    return self._pool.submit(_carry_out, order)
                except RuntimeError as error:
                    if not isinstance(error, BrokenProcessPool):
                        # This process itself is about to end.
                        break
                    # A worker died; all go, and new ones come.
                    self._pool.shutdown(wait=False, cancel_futures=True)
                    self._pool = None
        raise Lost("No worker can be started.")

    @property
    def pids(self) -> list[int]:
        """Process ids of the workers that run."""
        with self._lock:
            return list(self._pool._processes) if self._pool is not None else []

    def close(self) -> None:
        with self._lock:
            if self._pool is None:
                return
            running = list(self._pool._processes.values())
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None
        for process in running:
            process.terminate()
        for process in running:
            process.join(5)


def _carry_out(order: Order) -> Made:
    # The core is loaded in the worker, not in who asks it.
    from retouch.runs.work import carry_out

    try:
        return carry_out(order)
    finally:
        # Pictures, plans and what they keep know each other: let go now, not when the next picture is open too.
        gc.collect()


class Cluster:
    """Workers of a Dask cluster, which is looked after elsewhere.

    Each task carries its file and brings its results back, so that workers need the core alone.
    """

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client

            self._client = Client(address, timeout=5, set_as_default=False)
        except (OSError, ValueError, ImportError) as error:
            raise RetouchError(f"The scheduler {address!r} can't be reached: {error}.") from None
        self.size = max(1, sum(self._client.nthreads().values()))

    def begin(self, order: Order) -> Future[Made]:
        # Dask itself runs a task of a lost worker again, up to so many times.
        there = self._client.submit(_carry_out, order, pure=False, retries=0)
        here: Future[Made] = Future()
        here.set_running_or_notify_cancel()

        def settle(done: Any) -> None:
            try:
                here.set_result(done.result())
            except CancelledError:
                here.set_exception(Lost("The cluster was closed."))
            except BaseException as error:
                dead = type(error).__name__ in (
                    "KilledWorker",
                    "CommClosedError",
                    "FutureCancelledError",
                )
                if dead:
                    error = Lost("Its workers died.")
                elif isinstance(error, ImportError) or "deserializ" in str(error):
                    error = RetouchError(_STRANGERS)
                here.set_exception(error)

        there.add_done_callback(settle)
        return here

    def close(self) -> None:
        self._client.close(timeout=2)


def crew_of(scheduler: str = "", workers: int | None = None) -> Crew:
    """The workers to use: a cluster by its address, or processes here."""
    return Cluster(scheduler) if scheduler else Processes(workers)


def work_through(
    crew: Crew,
    orders: Iterator[Order | None],
    done: Callable[[Order, Made | BaseException], None],
    stop: Callable[[], bool] = lambda: False,
    begun: Callable[[Order], None] = lambda order: None,
) -> None:
    """Have orders carried out (None: none is there yet), as many at once as there are workers, and tell each result as it comes.

    An order whose worker died is given again, `TRIES` times in all, then alone with its failure told. With
    ``stop`` no more are begun; those under way are let go untold.
    """
    under_way: dict[Future[Made], Order] = {}
    tries: dict[str, int] = {}
    again: list[Order] = []
    # While an order that lost its worker runs, no other does: who is to blame is known then.
    more = True
    while more or under_way or again:
        if stop():
            for future in under_way:
                future.cancel()
            return
        suspect = any(tries.get(o.key, 0) > 1 for o in under_way.values())
        while (more or again) and not suspect and len(under_way) < crew.size:
            if again and tries[again[0].key] > 1 and under_way:
                break
            order = again.pop(0) if again else next(orders, _END)
            if order is _END:
                more = False
            if not isinstance(order, Order):
                # None: there is none just now.
                break
            begun(order)
            tries[order.key] = tries.get(order.key, 0) + 1
            under_way[crew.begin(order)] = order
            suspect = tries[order.key] > 1
        if not under_way:
            continue
        ended, _ = wait(under_way, timeout=_LOOK_S, return_when=FIRST_COMPLETED)
        for future in ended:
            order = under_way.pop(future)
            error = future.exception()
            if isinstance(error, (BrokenProcessPool, Lost)):
                if tries[order.key] < TRIES:
                    again.append(order)
                else:
                    done(order, Lost(f"Its worker died {TRIES} times; this picture is left."))
                time.sleep(0.05)
                continue
            if error is not None and not isinstance(error, (RetouchError, OSError, MemoryError)):
                log.error("An order failed: %s", order.key, exc_info=error)
            done(order, error if error is not None else future.result())

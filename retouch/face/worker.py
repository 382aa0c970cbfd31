"""Analyses in a process of their own: a crash or a heavy load there leaves the rest alone."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path
from typing import Any, Protocol

import cv2

from retouch.face.analysis import Hints, analyse_file
from retouch.face.models import MODELS
from retouch.processes import end_with


class Channel(Protocol):
    """Takes messages from the worker, as a queue of multiprocessing does."""

    def put(self, message: Any, /) -> None: ...


_channel: Channel | None = None
# The first message of a worker: (HELLO, its process id, "").
HELLO = "hello"


def prepare(channel: Channel, parent: int) -> None:
    """Run once in each new worker: be modest, views come first; end with the process ``parent``."""
    end_with(parent)
    global _channel
    _channel = channel
    channel.put((HELLO, os.getpid(), ""))
    cv2.setNumThreads(1)
    with contextlib.suppress(OSError):
        os.nice(10)
    # The models start a thread for every core they see. Half of them stay free for views.
    if hasattr(os, "sched_setaffinity"):
        cores = sorted(os.sched_getaffinity(0))
        os.sched_setaffinity(0, cores[len(cores) // 2 :])


def run(job: str, source: Path, target: Path, hints: Hints) -> None:
    """Analyse a file; progress goes out as (job, share, words)."""

    def tell(share: float, doing: str) -> None:
        if _channel is not None:
            _channel.put((job, share, doing))

    # Somebody else may have made it meanwhile.
    if not target.exists():
        analyse_file(source, target, hints, tell)
        MODELS.close()

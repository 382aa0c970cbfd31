"""Processes that end with whoever started them, however that ends."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path

_LOOK_S = 0.5


def end_with(parent: int) -> None:
    """End this process soon after its parent did.

    A signal at the parent's death (prctl(2), PR_SET_PDEATHSIG) comes when the *thread* ends that started
    this process, which may be sooner; who the parent is can't be wrong.
    """

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(_LOOK_S)
        os._exit(0)

    threading.Thread(target=watch, name="watch", daemon=True).start()


def started_at(pid: int) -> str:
    """When a process began, as the system counts it; empty where there is none, or it isn't told.

    Together with its number it names a process for good (proc(5), ``stat``, field 22).
    """
    try:
        told = Path(f"/proc/{pid}/stat").read_text()
    except OSError:
        return ""
    # The name of the program may hold spaces and brackets.
    return told.rpartition(")")[2].split()[19]

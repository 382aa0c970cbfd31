"""Deliveries: the finished file, rendered in the background with progress."""

from __future__ import annotations

import re
import threading
import time
from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

from django.conf import settings

from retouch.edit import Edit
from retouch.errors import Cancelled, RetouchError
from retouch.picture import Output, write
from retouch.picture.write import SUFFIX
from retouch.render import Renderer, in_srgb, render_whole, resized
from studio.errors import Problem
from studio.portraits.models import Portrait, new_id
from studio.portraits.services import desk, diskcache

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_MEDIA = {"jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff"}
_MOST_KNOWN = 64

# Rendering releases the interpreter lock for most of its time, so a thread is enough, and the
# pixels that are open anyway needn't be read again by another process.
_pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="delivery")
_jobs: OrderedDict[str, Delivery] = OrderedDict()
_lock = threading.Lock()


@dataclass
class Delivery:
    """One export: where it stands, and what becomes of it."""

    id: str
    owner_id: int
    file_name: str
    path: Path
    media: str
    state: State = "waiting"
    progress: float = 0.0
    message: str = ""
    size_bytes: int = 0
    stop: threading.Event = field(default_factory=threading.Event)


@dataclass(frozen=True)
class Wish:
    """What to deliver: format and its options, size, profile, metadata."""

    output: Output
    long_side: int | None
    srgb: bool


def start(portrait: Portrait, wish: Wish) -> Delivery:
    """Begin to deliver the portrait as it is now; later changes don't reach this file."""
    one = desk.open_desk(portrait)
    stem = re.sub(r'[\\/:*?"<>|\x00-\x1f]', "", portrait.name).strip(". ") or "Portrait"
    suffix = SUFFIX[wish.output.format]
    ident = new_id()
    folder = Path(settings.CACHE_DIR) / "deliveries"
    folder.mkdir(parents=True, exist_ok=True)
    job = Delivery(
        id=ident,
        owner_id=portrait.owner_id,
        file_name=f"{stem} retouched{suffix}",
        path=folder / f"{ident}{suffix}",
        media=_MEDIA[wish.output.format],
    )
    with _lock:
        _jobs[job.id] = job
        while len(_jobs) > _MOST_KNOWN:
            _, old = _jobs.popitem(last=False)
            old.stop.set()
            old.path.unlink(missing_ok=True)
    _pool.submit(_work, job, one.renderer, one.edit, wish)
    return job


def _work(job: Delivery, renderer: Renderer, edit: Edit, wish: Wish) -> None:
    job.state = "working"
    try:

        def report(part: float) -> None:
            job.progress = 0.8 * part

        result = render_whole(renderer, edit, report, job.stop.is_set)
        if wish.srgb:
            result = in_srgb(result)
        if wish.long_side is not None:
            result = resized(result, wish.long_side)
        job.progress = 0.85
        if job.stop.is_set():
            raise Cancelled("The delivery was cancelled.")
        write(result, job.path, wish.output)
        job.size_bytes = job.path.stat().st_size
        diskcache.trim(job.path.parent, max(settings.DISK_CACHE_BYTES, job.size_bytes))
        job.progress, job.state = 1.0, "done"
    except Cancelled:
        job.path.unlink(missing_ok=True)
        job.state, job.message = "cancelled", "The delivery was cancelled."
    except RetouchError as error:
        job.state, job.message = "failed", str(error)
    except MemoryError:
        job.state, job.message = "failed", "There isn't enough memory for this picture now."
    except Exception:
        job.state, job.message = "failed", "The file couldn't be made. Try again."
        raise


def find(user: Any, job_id: str) -> Delivery:
    """A delivery of the user."""
    job = _jobs.get(job_id)
    if job is None or job.owner_id != user.pk:
        raise Problem(404, "not_found", "This delivery is no longer kept. Deliver again.")
    return job


def wait(job: Delivery, seconds: float) -> None:
    """Return when the job has ended or the time is over, so that polling can be slow."""
    end = time.monotonic() + seconds
    while job.state in ("waiting", "working") and time.monotonic() < end:
        time.sleep(0.02)


def cancel(job: Delivery) -> None:
    """Stop a delivery and drop its file."""
    job.stop.set()
    if job.state == "done":
        job.path.unlink(missing_ok=True)
        job.state = "cancelled"

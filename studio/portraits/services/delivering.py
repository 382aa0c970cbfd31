"""Deliveries: the finished file, rendered in the background with progress.

Each is a job in the database with the whole edit, so later changes don't reach the file and a restart
goes on with it.
"""

from __future__ import annotations

import logging
import re
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any, Literal

from django.conf import settings
from django.utils import timezone

from retouch.edit import Edit
from retouch.errors import Cancelled, RetouchError
from retouch.forms.form import from_data, to_data
from retouch.picture import Output, openraster
from retouch.picture.write import SUFFIX, save
from retouch.render import render_whole
from retouch.render.delivered import Medium, Outcome, below
from retouch.render.layered import openraster_file
from studio.errors import Problem
from studio.portraits.models import Job, Portrait, new_id
from studio.portraits.services import analysing, desk, diskcache, jobs, papers

log = logging.getLogger(__name__)

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_MEDIA = {
    "jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff", "webp": "image/webp",
    "avif": "image/avif", "jxl": "image/jxl", "ora": openraster.MIME,
}  # fmt: skip
# A delivery that a stop of the process cuts short so often is left.
_TRIES = 3
_USUAL_NAME = "{portrait} retouched"
# Faces that aren't known yet are waited for so long.
_LONGEST_WAIT_S = 900.0
# How far it is is written to the database so often at most.
_EVERY_S = 0.5

# Rendering releases the interpreter lock for most of its time, so a thread is enough, and the
# pixels that are open anyway needn't be read again by another process.
_pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="delivery")
_stops: dict[str, threading.Event] = {}


@dataclass(frozen=True)
class Wish:
    """What to deliver: format and its options, size, profile, metadata."""

    output: Output
    long_side: int | None
    srgb: bool
    tell: bool = True
    sharpen: Medium = "none"
    most_bytes: int | None = None
    name: str = ""


@dataclass(frozen=True)
class Delivery:
    """One export: where it stands, and what becomes of it."""

    id: str
    file_name: str
    path: Path
    media: str
    state: State
    progress: float
    message: str

    @property
    def size_bytes(self) -> int:
        """Of the finished file; 0 before."""
        try:
            return self.path.stat().st_size if self.state == "done" else 0
        except OSError:
            return 0


def start(portrait: Portrait, wish: Wish) -> Delivery:
    """Begin to deliver the portrait as it is now; later changes don't reach this file."""
    stem = named(wish.name or _USUAL_NAME, portrait.name, timezone.localdate().isoformat())
    data = {
        "edit": to_data(desk.edit_of(portrait)),
        "output": asdict(wish.output),
        "long_side": wish.long_side,
        "srgb": wish.srgb,
        "tell": wish.tell,
        "sharpen": wish.sharpen,
        "most_bytes": wish.most_bytes,
        "steps": papers.labels_of(portrait) if wish.tell else [],
        "file_name": f"{stem}{SUFFIX[wish.output.format]}",
    }
    job = Job.objects.create(
        id=new_id(), kind="delivery", owner_id=portrait.owner_id, portrait=portrait, data=data
    )
    jobs.tidy("delivery")
    _submit(job)
    return _out(job)


def named(pattern: str, portrait: str, date: str) -> str:
    """A file's name without its ending: {portrait} and {date} stand for themselves; what no file system
    takes is left out, and so are names of more than 150 letters beyond that.
    """
    text = pattern.replace("{portrait}", portrait).replace("{date}", date)
    return (
        re.sub(r'[\\/:*?"<>|\x00-\x1f\x7f\u202a-\u202e\u2066-\u2069]', "", text).strip(". ")[:150]
        or "Portrait"
    )


def _submit(job: Job) -> None:
    stop = _stops[job.pk] = threading.Event()
    _pool.submit(jobs.on_a_thread, lambda: _work(job, stop), "A delivery")


@jobs.resumes("delivery")
def _take_up(job: Job) -> None:
    """Begin a delivery anew that a stop of the process cut short."""
    if job.tries >= _TRIES:
        message = "It was cut short several times. Deliver again."
        jobs.tell(job.pk, state="failed", message=message)
    elif job.pk not in _stops:
        _submit(job)


def _out(job: Job) -> Delivery:
    form = job.data["output"]["format"]
    folder = Path(settings.CACHE_DIR) / "deliveries"
    return Delivery(
        job.pk,
        job.data["file_name"],
        folder / f"{job.pk}{SUFFIX[form]}",
        _MEDIA[form],
        job.state,  # type: ignore[arg-type]  # one of the states
        job.progress,
        job.message,
    )


def _work(job: Job, stop: threading.Event) -> None:
    path = _out(job).path
    jobs.tell(job.pk, state="working", tries=job.tries + 1)
    try:
        _make(job, path, stop)
        end: dict[str, Any] = {"state": "done", "progress": 1.0}
    except Cancelled:
        end = {"state": "cancelled", "message": "The delivery was cancelled."}
    except (RetouchError, Problem) as error:
        end = {"state": "failed", "message": str(error)[:500]}
    except MemoryError:
        end = {"state": "failed", "message": "There isn't enough memory for this picture now."}
    except OSError as error:
        message = f"The file couldn't be written: {error.strerror}."
        end = {"state": "failed", "message": message}
    except Exception:
        log.exception("A delivery failed: %s", job.pk)
        end = {"state": "failed", "message": "The file couldn't be made. Try again."}
    if end["state"] != "done":
        path.unlink(missing_ok=True)
    _stops.pop(job.pk, None)
    jobs.tell(job.pk, **end)


def _make(job: Job, path: Path, stop: threading.Event) -> None:
    portrait = job.portrait
    if portrait is None:
        raise Cancelled("The portrait is gone.")
    edit = from_data(job.data["edit"])
    if edit.needs_faces:
        jobs.tell(job.pk, message="Waiting for what is found about the faces…")
        edit = _with_faces(portrait, edit, stop)
        jobs.tell(job.pk, message="")
    told = time.monotonic()

    def report(part: float) -> None:
        nonlocal told
        if time.monotonic() - told >= _EVERY_S:
            told = time.monotonic()
            jobs.tell(job.pk, progress=0.8 * part)

    outcome = Outcome(job.data["srgb"], job.data["long_side"], job.data.get("sharpen", "none"))
    output, renderer = Output(**job.data["output"]), desk.renderer_of(portrait, edit)
    if job.data.get("tell"):
        card = papers.card_of(job.owner)
        said = papers.packet_of(portrait, edit, card, job.data["steps"])
        output = replace(output, xmp=said)
    if output.format == "ora":
        data = openraster_file(renderer, edit, outcome.of, report, stop.is_set)
    else:
        made = outcome.of(render_whole(renderer, edit, report, stop.is_set))
        data = below(made, output, job.data.get("most_bytes"))
    if stop.is_set():
        raise Cancelled("The delivery was cancelled.")
    path.parent.mkdir(parents=True, exist_ok=True)
    save(data, path)
    diskcache.trim(path.parent, max(settings.DISK_CACHE_BYTES, path.stat().st_size))


def _with_faces(portrait: Portrait, edit: Edit, stop: threading.Event) -> Edit:
    """The edit named after the analysis of the faces, which is waited for."""
    end = time.monotonic() + _LONGEST_WAIT_S
    while True:
        left = end - time.monotonic()
        found = analysing.waited_for(portrait, edit, min(left, 1.0), patient=left > 1.0)
        if found is not None:
            return replace(edit, analysis=found.key)
        if stop.is_set():
            raise Cancelled("The delivery was cancelled.")


def find(user: Any, job_id: str) -> Delivery:
    """A delivery of the user."""
    job = Job.objects.filter(kind="delivery", owner=user, pk=job_id).first()
    if job is None:
        raise Problem(404, "not_found", "This delivery is no longer kept. Deliver again.")
    return _out(job)


def wait(user: Any, job_id: str, seconds: float) -> Delivery:
    """The delivery when it has ended or the time is over, so that polling can be slow."""
    end = time.monotonic() + seconds
    job = find(user, job_id)
    while job.state in jobs.OPEN and time.monotonic() < end:
        time.sleep(0.05)
        job = find(user, job_id)
    return job


def cancel(user: Any, job_id: str) -> Delivery:
    """Stop a delivery and drop its file."""
    job = find(user, job_id)
    stop = _stops.get(job_id)
    if stop is not None:
        stop.set()
    if job.state == "done" or stop is None:
        job.path.unlink(missing_ok=True)
        jobs.tell(job_id, state="cancelled", message="The delivery was cancelled.")
    return find(user, job_id)

"""Deliveries: the finished file, rendered in the background with progress.

Each is a job in the database with the whole edit, so later changes don't reach the file and a restart
goes on with it.
"""

from __future__ import annotations

import logging
import os
import re
import tempfile
import threading
import time
import zipfile
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import IO, Any, Literal

from django.conf import settings
from django.utils import timezone

from retouch.errors import Cancelled, RetouchError
from retouch.forms.form import from_data, to_data
from retouch.picture import Output, credentials, openraster
from retouch.picture.proof import Conversion, Intent, about
from retouch.picture.write import SUFFIX, save
from retouch.render import render_whole
from retouch.render.delivered import Border, Medium, Outcome, below
from retouch.render.layered import openraster_file
from studio.errors import Problem
from studio.portraits.models import Job, Portrait, new_id
from studio.portraits.services import analysing, desk, diskcache, jobs, papers, profiles, signing
from studio.portraits.services.line import Line
from studio.portraits.services.patterns import filled

log = logging.getLogger(__name__)

State = Literal["waiting", "working", "done", "failed", "cancelled"]
_MEDIA = {
    "jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff", "webp": "image/webp",
    "avif": "image/avif", "jxl": "image/jxl", "ora": openraster.MIME,
}  # fmt: skip
# A delivery that a stop of the process cuts short so often is left.
_TRIES = 3
# So many of a portrait's deliveries are listed.
_LISTED = 12
_USUAL_NAME = "{portrait} retouched"
# How far it is is written to the database so often at most.
_EVERY_S = 0.5

# Rendering releases the interpreter lock for most of its time, so a thread is enough, and the
# pixels that are open anyway needn't be read again by another process.
line = Line("delivery", most=10_000)
_stops: dict[str, threading.Event] = {}


@dataclass(frozen=True)
class Wish:
    """What to deliver: format and its options, size, border, profile, metadata.

    ``border`` is its width (per cent of the longer side) and colour (CIELAB); ``convert`` the id of a
    profile, the intent, and whether black-point compensation is wanted. ``preset`` and ``number`` stand in names.
    ``batch`` is what was begun together.
    """

    output: Output
    long_side: int | None
    srgb: bool
    tell: bool = True
    sharpen: Medium = "none"
    most_bytes: int | None = None
    name: str = ""
    megapixels: float | None = None
    border: tuple[float, tuple[float, float, float]] | None = None
    convert: tuple[str, Intent, bool] | None = None
    preset: str = ""
    number: int = 1
    credentials: bool = False
    batch: str = ""


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
    line.check(portrait.owner_id)
    if wish.convert is not None:
        _convertible(portrait.owner, wish.convert)
    if wish.credentials and wish.output.format not in credentials.MEDIA:
        raise Problem(
            422, "no_credentials", "Content credentials go into JPEG, PNG, TIFF, WebP and AVIF."
        )
    pattern = wish.name or _USUAL_NAME
    if wish.number > 1 and not wish.name:
        pattern += " {preset}" if wish.preset else " {number}"
    today = timezone.localdate().isoformat()
    stem = named(pattern, portrait.name, today, wish.preset, wish.number)
    data = {
        "edit": to_data(desk.edit_of(portrait)),
        "output": asdict(wish.output),
        "long_side": wish.long_side,
        "srgb": wish.srgb,
        "tell": wish.tell,
        "sharpen": wish.sharpen,
        "most_bytes": wish.most_bytes,
        "megapixels": wish.megapixels,
        "border": wish.border,
        "credentials": wish.credentials,
        "batch": wish.batch,
        "convert": wish.convert,
        "steps": papers.labels_of(portrait) if wish.tell else [],
        "file_name": f"{stem}{SUFFIX[wish.output.format]}",
    }
    job = Job.objects.create(
        id=new_id(), kind="delivery", owner_id=portrait.owner_id, portrait=portrait, data=data
    )
    jobs.tidy("delivery", portrait.owner_id)
    _submit(job)
    return _out(job)


def named(pattern: str, portrait: str, date: str, preset: str = "", number: int = 1) -> str:
    """A file's name without its ending: {portrait}, {date}, {preset} and {number} stand for themselves; what
    no file system takes is left out, and so are names of more than 150 letters beyond that.
    """
    text = filled(pattern, portrait=portrait, date=date, preset=preset, number=str(number))
    return (
        re.sub(r'[\\/:*?"<>|\x00-\x1f\x7f\u202a-\u202e\u2066-\u2069]', "", text).strip(". ")[:150]
        or "Portrait"
    )


def _convertible(user: Any, convert: tuple[str, Intent, bool]) -> Conversion:
    """How colours are converted; refused in words where they can't be."""
    profile_id, intent, black_point = convert
    icc = profiles.icc_of(user, profile_id)
    if about(icc).space != "RGB":
        raise Problem(
            422, "not_rgb", "Pictures are delivered in RGB profiles; this one is for looking at."
        )
    return Conversion(icc, intent, black_point)


def _outcome(job: Job) -> Outcome:
    data = job.data
    convert, border = data.get("convert"), data.get("border")
    return Outcome(
        data["srgb"], data["long_side"], data.get("sharpen", "none"),
        _convertible(job.owner, convert) if convert else None, data.get("megapixels"),
        Border(border[0], tuple(border[1])) if border else None,
    )  # fmt: skip


def _submit(job: Job) -> None:
    stop = _stops[job.pk] = threading.Event()
    line.submit(job.owner_id, lambda: jobs.on_a_thread(lambda: _work(job, stop), "A delivery"))


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
        edit = analysing.named_when_found(portrait, edit, stop.is_set)
        jobs.tell(job.pk, message="")
    told = time.monotonic()

    def report(part: float) -> None:
        nonlocal told
        if time.monotonic() - told >= _EVERY_S:
            told = time.monotonic()
            jobs.tell(job.pk, progress=0.8 * part)

    outcome = _outcome(job)
    output, renderer = Output(**job.data["output"]), desk.renderer_of(portrait, edit)
    if job.data.get("tell"):
        card = papers.card_of(job.owner)
        said = papers.packet_of(portrait, edit, card, job.data["steps"], output)
        output = replace(output, xmp=said)
    if output.format == "ora":
        data = openraster_file(renderer, edit, outcome.of, report, stop.is_set)
    else:
        made = outcome.of(render_whole(renderer, edit, report, stop.is_set))
        most = job.data.get("most_bytes")
        if job.data.get("credentials"):
            sign = signing.signer_of(portrait, edit, output.format, job.data["file_name"])
            data = sign(below(made, output, most and most - signing.room(sign, output)))
        else:
            data = below(made, output, most)
    if stop.is_set():
        raise Cancelled("The delivery was cancelled.")
    path.parent.mkdir(parents=True, exist_ok=True)
    save(data, path)
    diskcache.trim(path.parent, max(settings.DELIVERIES_BYTES, path.stat().st_size))


def find(user: Any, job_id: str) -> Delivery:
    """A delivery of the user."""
    job = Job.objects.filter(kind="delivery", owner=user, pk=job_id).first()
    if job is None:
        raise Problem(404, "not_found", "This delivery is no longer kept. Deliver again.")
    return _out(job)


def earlier(portrait: Portrait) -> list[Delivery]:
    """Deliveries of a portrait, the newest first; those that are done only while their file is kept."""
    rows = Job.objects.filter(kind="delivery", portrait=portrait).order_by("-created_at")[:_LISTED]
    return [d for d in map(_out, rows) if d.state != "done" or d.path.exists()]


def again(user: Any, job_id: str) -> Delivery:
    """Begin a delivery that failed or was stopped once more, of the portrait as it was then."""
    job = Job.objects.filter(kind="delivery", owner=user, pk=job_id).first()
    if job is None:
        raise Problem(404, "not_found", "This delivery is no longer kept. Deliver again.")
    begun = Job.objects.filter(pk=job_id, state__in=("failed", "cancelled")).update(
        state="waiting", progress=0.0, message="", tries=0
    )
    if begun:
        job.refresh_from_db()
        _submit(job)
    return find(user, job_id)


def batch(user: Any, name: str) -> list[Delivery]:
    """What was begun together, in its order."""
    rows = Job.objects.filter(kind="delivery", owner=user, data__batch=name).order_by("created_at")
    found = [_out(job) for job in rows] if name else []
    if not found:
        raise Problem(404, "not_found", "These deliveries are no longer kept. Deliver again.")
    return found


def packed(user: Any, job_ids: Sequence[str]) -> IO[bytes]:
    """Finished files as one ZIP, each under a name of its own; pictures aren't packed tighter than they are."""
    ready = [find(user, job_id) for job_id in dict.fromkeys(job_ids)]
    if any(d.state != "done" or not d.path.exists() for d in ready):
        raise Problem(404, "not_ready", "One of these files isn't ready, or no longer kept.")
    out = tempfile.TemporaryFile(dir=settings.CACHE_DIR)  # noqa: SIM115 (it goes out with the answer)
    used: set[str] = set()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for one in ready:
            archive.write(one.path, unused(one.file_name, used))
    out.seek(0)
    return out


def unused(name: str, used: set[str]) -> str:
    """A file's name that isn't among those used, whatever their case; it is one of them then."""
    stem, suffix = os.path.splitext(name)
    made, n = name, 2
    while made.casefold() in used:
        made, n = f"{stem} {n}{suffix}", n + 1
    used.add(made.casefold())
    return made


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

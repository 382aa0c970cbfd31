"""Runs carried out: one thread asks the workers, and saves what they make.

A result is saved in one transaction with the state of its item: a stop at any moment leaves an item done with its
passes, or waiting without them. Nothing is done twice, nothing is left out.
"""

from __future__ import annotations

import logging
import shutil
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction
from django.db.models import Count, Max, Sum
from django.utils import timezone

from retouch.edit import Edit
from retouch.forms.form import from_data, to_data
from retouch.forms.routines import routine_to_data
from retouch.picture.write import save as save_bytes
from retouch.plain import plain
from retouch.runs.orders import Made, Order, in_words
from retouch.runs.telling import told
from retouch.runs.workers import Crew, crew_of, work_through
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk, finding, gestures, jobs, travelling
from studio.runs.models import Run, RunItem
from studio.runs.services import routines

log = logging.getLogger(__name__)

# A portrait that is changed by hand again and again while it is worked on is left.
_TRIES = 3
# Where no worker can be had, it is tried so often, later and later; then runs are paused.
_STARTS, _PAUSE_S = 3, 2.0
MOST_PORTRAITS = 10_000
_MOST_OPEN_RUNS = 50


class _Runner:
    """The thread that works through what waits; started when something does, ends when nothing does."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._thread: threading.Thread | None = None
        self._stopping = threading.Event()
        self._crew: Crew | None = None
        # Where workers note how far they are.
        self._folder = ""

    def wake(self) -> None:
        with self._lock:
            if self._thread is None:
                self._stopping.clear()
                self._thread = threading.Thread(target=self._run, name="runs", daemon=True)
                self._thread.start()

    def stop(self) -> None:
        """Let everything go that is under way: the process is about to end."""
        self._stopping.set()
        with self._lock:
            thread, crew = self._thread, self._crew
        if crew is not None:
            crew.close()
        if thread is not None:
            thread.join(10)

    @property
    def workers(self) -> list[int]:
        """Process ids of the workers here."""
        return getattr(self._crew, "pids", [])

    def _run(self) -> None:
        for n in range(_STARTS):
            try:
                self._work()
                break
            except Exception:
                log.exception("Runs were cut short")
                if self._stopping.wait(_PAUSE_S * (n + 1)):
                    break
        else:
            # Going on by itself would only fail again; somebody has to look.
            jobs.on_a_thread(_pause_all, "Pausing runs")
        close_old_connections()
        # What came while the last was saved isn't left waiting.
        with self._lock:
            self._thread = None
        if not self._stopping.is_set() and _next() is not None:
            self.wake()

    def _work(self) -> None:
        # Those that were under way when the workers went begin again.
        RunItem.objects.filter(state="working").update(state="waiting")
        self._crew = crew_of(settings.SCHEDULER, settings.WORKERS)
        try:
            with _folder_of_notes() as self._folder:
                work_through(self._crew, self._orders(), self._ended, self._stopping.is_set)
        finally:
            self._folder = ""
            self._crew.close()
            self._crew = None

    def told(self, item: RunItem) -> tuple[float, str] | None:
        """How far the worker is with an item, 0..1, and what it does, in words; None: that isn't known."""
        return told(self._told_in(item)) if item.state == "working" else None

    def _told_in(self, item: RunItem) -> str:
        # A worker elsewhere doesn't see this folder.
        return (
            str(Path(self._folder) / str(item.pk))
            if self._folder and not settings.SCHEDULER
            else ""
        )

    def _orders(self) -> Iterator[Order | None]:
        while (item := _next()) is not None:
            try:
                order = _ordered(item, self._told_in(item))
                if order is not None:
                    yield order
            except Exception as error:
                log.exception("An order couldn't be made: %s", item.pk)
                _failed(item, in_words(error))

    def _ended(self, order: Order, result: Made | BaseException) -> None:
        item = RunItem.objects.filter(pk=order.key).select_related("run", "portrait").first()
        # One that was cancelled meanwhile stays as it was.
        if item is None or item.state != "working":
            return
        if isinstance(result, BaseException):
            _failed(item, in_words(result))
            return
        try:
            if result.analysis and order.analysis:
                path = Path(order.analysis)
                path.parent.mkdir(parents=True, exist_ok=True)
                save_bytes(result.analysis, path)
            _saved(item, result)
        except Problem as problem:
            if problem.body["code"] == "stale" and item.tries < _TRIES:
                # Somebody worked on it meanwhile: on what they made of it.
                RunItem.objects.filter(pk=item.pk).update(state="waiting")
                return
            _failed(item, str(problem))
        except Exception as error:
            log.exception("A result couldn't be saved: %s", item.pk)
            _failed(item, in_words(error))


@contextmanager
def _folder_of_notes() -> Iterator[str]:
    """A folder in which workers note how far they are; "" where there can be none: then they don't."""
    folder = Path(settings.DATA_DIR) / "told"
    # What a stop of the machine left says nothing any more.
    shutil.rmtree(folder, ignore_errors=True)
    try:
        folder.mkdir(parents=True)
    except OSError:
        yield ""
        return
    try:
        yield str(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


runner = _Runner()


def _pause_all() -> None:
    Run.objects.filter(state="going").update(state="paused")


def resume() -> None:
    """Go on with what a stop of the process cut short."""
    RunItem.objects.filter(state="working").update(state="waiting")
    if _next() is not None:
        runner.wake()


def _open(run: Run) -> Any:
    return RunItem.objects.filter(run=run, state__in=("waiting", "working"))


def _next() -> RunItem | None:
    """The first item that waits, of the first run that goes."""
    found: RunItem | None = (
        RunItem.objects.filter(state="waiting", run__state="going")
        .select_related("run", "portrait")
        .order_by("run__position", "run__created_at", "number")
        .first()
    )
    return found


def _ordered(item: RunItem, told_in: str) -> Order | None:
    """The order of an item, which is under way from now on; None: it was cancelled or is gone."""
    portrait, run = item.portrait, item.run
    begun = RunItem.objects.filter(pk=item.pk, state="waiting").update(
        state="working", tries=item.tries + 1, revision=portrait.revision, changed_at=timezone.now()
    )
    if not begun:
        return None
    if portrait.deleted_at is not None:
        raise Problem(404, "not_found", "The portrait was deleted.")
    edit = desk.edit_of(portrait)
    path = analysing.file_of(portrait.id, edit)
    wire = bool(settings.SCHEDULER)
    # Decisions by hand go along; what runs healed decides nothing for others.
    known = tuple(k.to_data() for k in travelling.known(portrait, healed=False))
    return Order(
        str(item.pk), str(portrait.original), portrait.sha256,
        portrait.original.read_bytes() if wire else None, to_data(edit), run.routine, run.strength,
        run.spots_from, str(path), known, carried=wire,
        told=told_in,
    )  # fmt: skip


def _failed(item: RunItem, why: str) -> None:
    RunItem.objects.filter(pk=item.pk, state="working").update(
        state="failed", message=why[:500], worry=5000.0, changed_at=timezone.now()
    )
    _settle(item.run_id)


def _saved(item: RunItem, made: Made) -> None:
    """The passes become the portrait's, and the item is done: both or neither."""
    portrait = item.portrait
    edit = from_data(made.edit)
    mine = _bound(desk.edit_of(portrait), edit)

    def also(row: Portrait) -> None:
        changed = RunItem.objects.filter(pk=item.pk, state="working").update(
            state="done", message=made.label[:500], note=made.note[:500], faces=made.faces,
            asked=made.asked, healed=made.healed, texture=made.texture, colour=made.colour,
            worry=made.worry, beyond=list(made.beyond), seconds=sum(made.seconds.values()), review="open", bound=mine,
            entry=row.history_at if row.revision != item.revision else 0,
            changed_at=timezone.now(),
        )  # fmt: skip
        if not changed:
            raise Problem(409, "cancelled", "The run was cancelled.")

    if edit == replace(desk.edit_of(portrait), analysis=edit.analysis):
        # Nothing to do on it: its history stays as it is.
        with transaction.atomic():
            also(Portrait.objects.get(pk=portrait.pk))
    else:
        gestures.adopt(portrait, item.revision, edit, f"Run: {made.label}", also)
    _settle(item.run_id)


def _bound(old: Edit, new: Edit) -> str:
    """The set that a run's passes were bound into; empty: there is none."""
    before = {p.bound.id for p in old.passes if p.bound is not None}
    return next(
        (p.bound.id for p in new.passes if p.bound is not None and p.bound.id not in before), ""
    )


def _settle(run_id: str) -> None:
    """A run of which nothing waits is done."""
    if not RunItem.objects.filter(run_id=run_id, state__in=("waiting", "working")).exists():
        Run.objects.filter(pk=run_id, state="going").update(state="done")


def start(
    user: Any, ids: list[str], routine: str, strength: float, spots_from: float | None, title: str
) -> Run:
    """Begin a run over portraits of the user, in the order given."""
    known = routines.find(user, routine)
    if known.routine.glasses:
        raise Problem(
            422, "by_hand", "Glasses are taken off portrait by portrait, where it can be looked at."
        )
    wanted = list(dict.fromkeys(ids))
    if not 1 <= len(wanted) <= MOST_PORTRAITS:
        raise Problem(422, "how_many", f"A run has 1 to {MOST_PORTRAITS} portraits.")
    if Run.objects.filter(owner=user, state__in=("going", "paused")).count() >= _MOST_OPEN_RUNS:
        raise Problem(422, "too_many", f"Up to {_MOST_OPEN_RUNS} runs wait at a time.")
    there = set(finding.visible(user).filter(pk__in=wanted).values_list("pk", flat=True))
    if len(there) != len(wanted):
        raise Problem(404, "not_found", "One of these portraits is no longer there.")
    last = Run.objects.aggregate(last=Max("position"))["last"] or 0
    with transaction.atomic():
        run = Run.objects.create(
            owner=user, title=plain(title)[:120] or known.routine.title, strength=strength,
            routine=routine_to_data(known.routine), spots_from=spots_from, position=last + 1,
        )  # fmt: skip
        RunItem.objects.bulk_create(
            [RunItem(run=run, portrait_id=p, number=n) for n, p in enumerate(wanted)],
            batch_size=500,
        )
    runner.wake()
    return run


def find(user: Any, run_id: str) -> Run:
    """A run of the user; to anybody else it doesn't exist."""
    found = Run.objects.filter(owner=user, pk=run_id).first()
    if found is None:
        raise Problem(404, "not_found", "There is no such run.")
    return found


def pause(run: Run) -> None:
    """No more of it is begun; what is under way is done."""
    Run.objects.filter(pk=run.pk, state="going").update(state="paused")


def go_on(run: Run) -> None:
    """Go on with a run that was paused."""
    Run.objects.filter(pk=run.pk, state="paused").update(state="going")
    _settle(run.pk)
    runner.wake()


def cancel(run: Run) -> None:
    """Leave what isn't done; what is done stays."""
    with transaction.atomic():
        Run.objects.filter(pk=run.pk, state__in=("going", "paused")).update(state="cancelled")
        _open(run).update(state="cancelled", changed_at=timezone.now())


def retry(run: Run, numbers: list[int] | None = None) -> int:
    """Try failed and cancelled items again, all or some; how many."""
    items = RunItem.objects.filter(run=run, state__in=("failed", "cancelled"))
    if numbers is not None:
        items = items.filter(number__in=numbers)
    with transaction.atomic():
        count = items.update(state="waiting", tries=0, message="", worry=0.0)
        if count:
            Run.objects.filter(pk=run.pk).update(state="going")
    runner.wake()
    return count


def first(run: Run) -> None:
    """Before all others that wait."""
    least = min(Run.objects.values_list("position", flat=True), default=0)
    Run.objects.filter(pk=run.pk).update(position=least - 1)


def counts(run: Run) -> dict[str, int]:
    """How many items are in each state, and how many were accepted."""
    rows = RunItem.objects.filter(run=run).values_list("state").annotate(n=Count("pk"))
    out = dict.fromkeys(("waiting", "working", "done", "failed", "cancelled"), 0)
    out.update(dict(rows))
    out["accepted"] = RunItem.objects.filter(run=run, review="accepted").count()
    return out


def seconds_left(run: Run, found: dict[str, int]) -> float | None:
    """About how long it still takes; None: nothing is known yet, or it doesn't go on."""
    left = found["waiting"] + found["working"]
    if run.state != "going" or not left:
        return None
    done = RunItem.objects.filter(run=run, state="done", seconds__gt=0)
    told = done.aggregate(sum=Sum("seconds"), n=Count("pk"))
    if not told["n"]:
        return None
    size = runner._crew.size if runner._crew is not None else 1
    return float(told["sum"] / told["n"] * left / size)

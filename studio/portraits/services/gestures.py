"""Gestures: each finished one is one transaction and one history entry.

A gesture goes one way: open the portrait, let the core do the operation and check its result, save
the rows, answer.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from retouch.edit import Edit
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.heal.repeats import Copied, Repeat, find_repeats
from retouch.passes import registry
from retouch.render import Renderer, changed_region
from retouch.render.developing import development_of
from retouch.warp import Warp
from retouch.work import Change, Operation, apply, compare, reverse
from retouch.work import Result as Done
from retouch.work import perform as operate
from retouch.work.bench import find_pass
from retouch.work.operations import ChangePass
from retouch.work.sources import zone_title
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import analysing, desk, rows, working
from studio.portraits.services.benches import bench_of

# Told what an edit will be, and which part of the picture it changes, before it is saved.
Ahead = Callable[[Edit, Edit, Rect], None]


@dataclass(frozen=True)
class Outcome:
    """What a window needs to follow: the changes, the region of the original to paint again, the map
    from the framed picture to it, and whether that is another one than before.
    """

    portrait: Portrait
    changes: list[Change]
    dirty: Rect
    warp: Warp
    reframed: bool = False
    touch_id: str | None = None
    notice: str | None = None
    pass_id: str | None = None


@dataclass(frozen=True)
class HistoryState:
    at: int
    count: int
    undo: str | None
    redo: str | None


def history_state(portrait: Portrait) -> HistoryState:
    """Where the portrait stands in its history, with the names of the next steps."""
    at = portrait.history_at
    entries = HistoryEntry.objects.filter(portrait=portrait, number__gte=at).order_by("number")
    names = dict(entries.values_list("number", "label"))
    return HistoryState(at, max(names, default=0), names.get(at), names.get(at + 1))


def _locked(portrait: Portrait, revision: int) -> Portrait:
    """The portrait's row, read under the write lock; refuses a stale revision.

    Transactions begin IMMEDIATE (see settings), so no other writer can come between.
    """
    row = Portrait.objects.filter(pk=portrait.pk).first()
    if row is None:
        raise Problem(404, "not_found", "There is no such portrait any more.")
    if row.revision != revision:
        raise Problem(
            409,
            "stale",
            "This portrait was changed in another window. It has been brought up to date; "
            "nothing was overwritten.",
            revision=row.revision,
        )
    return row


def perform(
    portrait: Portrait,
    revision: int,
    operation: Operation,
    ahead: Ahead | None = None,
    goes_on: bool = False,
) -> Outcome:
    """Carry out an operation at a revision, save it, and say what changed.

    One that ``goes_on`` with the gesture just before it (a key pressed again) becomes one step of
    the history with it. Whoever asks says so: how long the hand paused isn't known here, where
    presses wait for one another.
    """
    renderer = desk.renderer_of(portrait)
    # The source search, the slow part, runs before the write lock is taken; the revision is
    # checked again under the lock.
    if portrait.revision != revision:
        _locked(portrait, revision)
    old = desk.edit_of(portrait)
    try:
        # Computed before it is saved, so that it can be stopped, or fail, with nothing changed.
        with working.watched(portrait.id) as work:
            done = operate(old, operation, bench_of(portrait, renderer, old))
            new = done.edit if done.edit.analysis else analysing.named(portrait.id, done.edit)
            changes = compare(old, new)
            dirty = changed_region(old, new, renderer.bounds)
            work.again()
            if development_of(old) != development_of(new):
                # A raw file is developed first; the window goes on showing what it shows.
                renderer = desk.renderer_of(portrait, new)
            slow = _slow(new, changes)
            if slow:
                own = changed_region(old, new, renderer.bounds, around=False)
                renderer.make_touches(new, own, slow)
    except Cancelled:
        raise Problem(422, "stopped", "Stopped; nothing was changed.") from None
    was, warp = (desk.warp_of(portrait, edit) for edit in (old, new))
    if not changes:
        return Outcome(portrait, [], dirty, warp, touch_id=done.touch_id)
    if ahead is not None:
        # The window will ask for these pixels next: they are computed while the rows are saved.
        ahead(old, new, dirty)
    joins = _joins(operation)
    with transaction.atomic():
        row = _locked(portrait, revision)
        rows.save(row, new, changes)
        HistoryEntry.objects.filter(portrait=row, number__gt=row.history_at).delete()
        last = _going_on(row, joins) if goes_on else None
        if last is not None:
            _join(last, old, new, done.label, dirty)
        else:
            row.history_at += 1
            HistoryEntry.objects.create(
                portrait=row, number=row.history_at, label=_label(portrait, new, done)[:200],
                changes=changes, region=[] if dirty.empty else list(dirty.as_tuple()), joins=joins,
            )  # fmt: skip
        _advance(row, new)
    desk.remember(row, new)
    return Outcome(
        row, changes, dirty, warp, _other(was, warp), done.touch_id,
        _hint(renderer, new, changes), done.pass_id,
    )  # fmt: skip


def _other(was: Warp, now: Warp) -> bool:
    """Whether what is seen lies elsewhere than before."""
    return was is not now and (was.frame, was.key) != (now.frame, now.key)


def adopt(
    portrait: Portrait, revision: int, new: Edit, label: str, also: Callable[[Portrait], None]
) -> Portrait:
    """Save an edit that was made elsewhere, as one step of the history; ``also`` is in the same transaction.

    Raises `Problem` (409) where the portrait was changed meanwhile.
    """
    old = desk.edit_of(portrait)
    changes = compare(old, new)
    dirty = changed_region(old, new, Rect(0, 0, portrait.width, portrait.height))
    with transaction.atomic():
        row = _locked(portrait, revision)
        if changes:
            rows.save(row, new, changes)
            HistoryEntry.objects.filter(portrait=row, number__gt=row.history_at).delete()
            row.history_at += 1
            HistoryEntry.objects.create(
                portrait=row, number=row.history_at, label=label[:200], changes=changes,
                region=[] if dirty.empty else list(dirty.as_tuple()),
            )  # fmt: skip
            _advance(row, new)
        also(row)
    if changes:
        desk.remember(row, new)
    return row


def _joins(operation: Operation) -> str:
    """What an operation can be joined with: another one on the same setting of the same pass."""
    if not isinstance(operation, ChangePass):
        return ""
    names = sorted(operation.settings or ())
    if operation.strength is not None:
        names.append("strength")
    return f"{operation.id} {' '.join(names)}"[:200]


def _going_on(row: Portrait, joins: str) -> HistoryEntry | None:
    """The last step of the history, if a gesture goes on with it."""
    last: HistoryEntry | None = HistoryEntry.objects.filter(
        portrait=row, number=row.history_at
    ).first()
    return last if last is not None and joins and last.joins == joins else None


def _join(last: HistoryEntry, old: Edit, new: Edit, label: str, dirty: Rect) -> None:
    """Make a step of the history one with what follows it."""
    last.changes = compare(apply(old, reverse(last.changes)), new)
    region = dirty.union(Rect(*last.region)) if last.region else dirty
    last.region = [] if region.empty else list(region.as_tuple())
    last.label, last.created_at = label[:200], timezone.now()
    last.save(update_fields=["changes", "region", "label", "created_at"])


def join_last(portrait: Portrait) -> None:
    """Make the last two steps of the history one, called as the earlier of them."""
    with transaction.atomic():
        row = _locked(portrait, portrait.revision)
        last, before = HistoryEntry.objects.filter(portrait=row, number__lte=row.history_at).order_by("-number")[:2]  # fmt: skip
        now = desk.edit_of(row)
        dirty = Rect(*last.region) if last.region else Rect(0, 0, 0, 0)
        _join(before, apply(now, reverse(last.changes)), now, before.label, dirty)
        last.delete()
        row.history_at -= 1
        _advance(row, now)
    desk.remember(row, now)


def _label(portrait: Portrait, new: Edit, done: Done) -> str:
    """What was done, and to which zone if that is known."""
    touch = next((t for p in new.passes for t in p.touches if t.id == done.touch_id), None)
    if touch is None:
        return done.label
    place = zone_title(analysing.of_edit(portrait.id, new), touch)
    return f"{done.label}, {place[0].lower()}{place[1:]}" if place else done.label


def _hint(renderer: Renderer, edit: Edit, changes: list[Change]) -> str | None:
    """What the kind of pass has to say of touches that were made or changed."""
    touched = {c["id"] for c in changes if c["what"] == "touch" and c["after"] is not None}
    for n, one in enumerate(edit.passes):
        way = registry.kind(one.kind).touches
        if way is None or way.hint is None or not one.on:
            continue
        below = Edit(edit.passes[:n])
        for touch in one.touches:
            if touch.id in touched:
                said = way.hint(lambda r, e=below: renderer.render(e, r), touch, renderer.bounds)  # type: ignore[misc]
                if said is not None:
                    return said
    return None


def repeats(portrait: Portrait, pass_id: str) -> list[Repeat]:
    """Touches of a pass that visibly repeat the places they were taken from."""
    renderer = desk.renderer_of(portrait)
    edit = desk.edit_of(portrait)
    _, one = find_pass(edit, pass_id)
    way = registry.kind(one.kind).touches
    if way is None or not way.copies:
        return []
    touches = [
        Copied(t.id, way.place(t), t.source)
        for t in one.touches
        if t.source is not None and t.enabled
    ]
    return find_repeats(lambda r: renderer.render(edit, r), touches, renderer.bounds)


def _slow(edit: Edit, changes: list[Change]) -> set[str]:
    """The passes in which something changed that takes long to compute."""
    ways = {p.id: registry.kind(p.kind).touches for p in edit.passes if p.on}
    slow = {name for name, way in ways.items() if way is not None and way.slow}
    return {
        c["pass_id"]
        for c in changes
        if c["what"] == "touch" and c["after"] is not None and c["pass_id"] in slow
    }


def _advance(row: Portrait, edit: Edit) -> None:
    row.revision += 1
    row.worked_at = timezone.now()
    row.analysis = edit.analysis
    row.save(update_fields=["revision", "history_at", "worked_at", "analysis"])


def step(portrait: Portrait, revision: int, to: int, ahead: Ahead | None = None) -> Outcome:
    """Undo or redo until ``to`` entries are in force."""
    renderer = desk.renderer_of(portrait)
    with transaction.atomic():
        row = _locked(portrait, revision)
        old = desk.edit_of(row)
        entries = HistoryEntry.objects.filter(portrait=row)
        if to < 0 or not (to == 0 or entries.filter(number=to).exists()):
            raise Problem(400, "no_such_step", "The history doesn't go that far.")
        edit = analysing.named(portrait.id, _walked(row, old, to))
        changes = compare(old, edit)
        dirty = changed_region(old, edit, renderer.bounds)
        if ahead is not None:
            ahead(old, edit, dirty)
        row.history_at = to
        rows.save(row, edit, changes)
        _advance(row, edit)
    desk.remember(row, edit)
    was, warp = (desk.warp_of(portrait, one) for one in (old, edit))
    return Outcome(row, changes, dirty, warp, _other(was, warp))


def edit_at(portrait: Portrait, number: int) -> Edit:
    """The edit as it was when so many entries of the history were in force."""
    entries = HistoryEntry.objects.filter(portrait=portrait)
    if number < 0 or not (number == 0 or entries.filter(number=number).exists()):
        raise Problem(404, "no_such_step", "The history doesn't go that far.")
    return _walked(portrait, desk.edit_of(portrait), number)


def _walked(portrait: Portrait, edit: Edit, to: int) -> Edit:
    entries = HistoryEntry.objects.filter(portrait=portrait)
    if to < portrait.history_at:
        for entry in entries.filter(number__gt=to, number__lte=portrait.history_at).order_by(
            "-number"
        ):
            edit = apply(edit, reverse(entry.changes))
    else:
        for entry in entries.filter(number__gt=portrait.history_at, number__lte=to):
            edit = apply(edit, entry.changes)
    return edit


def preview(portrait: Portrait, renderer: Renderer, edit: Edit, operation: Operation) -> Edit:
    """The edit as it would be after an operation that isn't finished yet."""
    return operate(edit, operation, bench_of(portrait, renderer, edit)).edit

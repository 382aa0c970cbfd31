"""Gestures: each finished one is one transaction and one history entry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import transaction
from django.utils import timezone
from numpy.typing import NDArray

from retouch.edit import Edit
from retouch.errors import Cancelled
from retouch.geometry import Rect
from retouch.heal import Footprint, crosses_edge, outline
from retouch.heal.repeats import Copied, Repeat, find_repeats
from retouch.passes import registry
from retouch.render import Renderer, changed_region
from studio.errors import Problem
from studio.portraits.models import HistoryEntry, Portrait
from studio.portraits.services import analysing, desk, operations, rows, working
from studio.portraits.services import changes as changing
from studio.portraits.services.context import context_of, zone_title

# Told what an edit will be, and which part of the picture it changes, before it is saved.
Ahead = Callable[[Edit, Rect], None]


@dataclass(frozen=True)
class Outcome:
    """What a window needs to follow: the changes, the region to paint again, the history."""

    portrait: Portrait
    changes: list[changing.Change]
    dirty: Rect
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
    row = Portrait.objects.get(pk=portrait.pk)
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
    portrait: Portrait, revision: int, operation: dict[str, Any], ahead: Ahead | None = None
) -> Outcome:
    """Carry out an operation at a revision, save it, and say what changed."""
    renderer = desk.renderer_of(portrait)

    # The source search, the slow part, runs before the write lock is taken; the revision is
    # checked again under the lock.
    if portrait.revision != revision:
        _locked(portrait, revision)
    old = desk.edit_of(portrait)
    result = operations.perform(old, operation, context_of(portrait, renderer))
    _check_sources(old, result.edit, renderer.bounds)
    changes = changing.compare(old, result.edit)
    dirty = changed_region(old, result.edit, renderer.bounds)
    if not changes:
        return Outcome(portrait, [], dirty, result.touch_id)
    if _is_long(result.edit, changes):
        # Computed before it is saved, so that it can be stopped, or fail, with nothing changed.
        try:
            with working.watched(portrait.id):
                renderer.render(result.edit, dirty)
        except Cancelled:
            raise Problem(422, "stopped", "Stopped; nothing was changed.") from None
    if ahead is not None:
        # The window will ask for these pixels next: they are computed while the rows are saved.
        ahead(result.edit, dirty)
    with transaction.atomic():
        row = _locked(portrait, revision)
        rows.save(row, result.edit, changes)
        HistoryEntry.objects.filter(portrait=row, number__gt=row.history_at).delete()
        row.history_at += 1
        HistoryEntry.objects.create(
            portrait=row, number=row.history_at, label=_label(portrait, result)[:200],
            changes=changes, region=[] if dirty.empty else list(dirty.as_tuple()),
        )  # fmt: skip
        _advance(row)
    desk.remember(row, result.edit)
    notice = _edge_notice(renderer, result, changes)
    return Outcome(row, changes, dirty, result.touch_id, notice, result.pass_id)


def _label(portrait: Portrait, result: operations.Result) -> str:
    """What was done, and to which zone if that is known."""
    touch = next(
        (t for p in result.edit.passes for t in p.touches if t.id == result.touch_id), None
    )
    place = zone_title(analysing.known(portrait), touch) if touch is not None else ""
    return f"{result.label}, {place[0].lower()}{place[1:]}" if place else result.label


def _check_sources(old: Edit, new: Edit, bounds: Rect) -> None:
    """Refuse touches, new or changed, that would take from beside the picture."""
    known = {id(t) for p in old.passes for t in p.touches}
    for one in new.passes:
        kind = registry.kind(one.kind).touches
        for touch in one.touches if kind else ():
            if id(touch) in known or touch.source is None:
                continue
            assert kind is not None
            place = kind.writes(touch, bounds)
            if not place.empty and not place.shift(*touch.source).meets(bounds):
                raise Problem(
                    422,
                    "source_outside",
                    "The source lies outside of the picture; nothing changed.",
                )


def _edge_notice(
    renderer: Renderer, result: operations.Result, changes: list[changing.Change]
) -> str | None:
    """A hint when the outline of a blended patch lies on a strong edge."""
    touched = {c["id"] for c in changes if c["what"] == "touch" and c["after"] is not None}
    for n, one in enumerate(result.edit.passes):
        below = Edit(result.edit.passes[:n])

        def read(rect: Rect, below: Edit = below) -> NDArray[np.float32]:
            return renderer.render(below, rect)

        for touch in one.touches if one.kind == "patch" and one.on else ():
            if touch.id not in touched or touch.values["way"] != "blend":
                continue
            if crosses_edge(read, outline(touch.path), renderer.bounds):
                return (
                    "The outline lies on a strong edge, whose colour can bleed in. "
                    "Draw it beside the edge, or copy instead of blending."
                )
    return None


def repeats(portrait: Portrait, pass_id: str) -> list[Repeat]:
    """Touches of a pass that visibly repeat the places they were taken from."""
    renderer = desk.renderer_of(portrait)
    edit = desk.edit_of(portrait)
    one = next((p for p in edit.passes if p.id == pass_id), None)
    if one is None:
        raise Problem(404, "no_such_pass", "This pass is gone; somebody deleted it.")
    touches = []
    for touch in one.touches:
        if touch.source is None or not touch.enabled or one.kind == "fill":
            continue
        if "radius_px" in touch.values:
            place: Footprint = Footprint(touch.path, float(touch.values["radius_px"]))
        else:
            place = outline(touch.path)
        touches.append(Copied(touch.id, place, touch.source))
    return find_repeats(lambda r: renderer.render(edit, r), touches, renderer.bounds)


def _is_long(edit: Edit, changes: list[changing.Change]) -> bool:
    """Whether something changed that takes long to compute."""
    slow = {p.id for p in edit.passes if p.on and _is_slow(p.kind)}
    return any(
        c["what"] == "touch" and c["after"] is not None and c["pass_id"] in slow for c in changes
    )


def _is_slow(kind: str) -> bool:
    touches = registry.kind(kind).touches
    return touches is not None and touches.slow


def _advance(row: Portrait) -> None:
    row.revision += 1
    row.worked_at = timezone.now()
    row.save(update_fields=["revision", "history_at", "worked_at"])


def step(portrait: Portrait, revision: int, to: int, ahead: Ahead | None = None) -> Outcome:
    """Undo or redo until ``to`` entries are in force."""
    renderer = desk.renderer_of(portrait)
    with transaction.atomic():
        row = _locked(portrait, revision)
        old = desk.edit_of(row)
        entries = HistoryEntry.objects.filter(portrait=row)
        if to < 0 or not (to == 0 or entries.filter(number=to).exists()):
            raise Problem(400, "no_such_step", "The history doesn't go that far.")
        edit = _walked(row, old, to)
        changes = changing.compare(old, edit)
        dirty = changed_region(old, edit, renderer.bounds)
        if ahead is not None:
            ahead(edit, dirty)
        row.history_at = to
        rows.save(row, edit, changes)
        _advance(row)
    desk.remember(row, edit)
    return Outcome(row, changes, dirty)


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
            edit = changing.apply(edit, changing.reverse(entry.changes))
    else:
        for entry in entries.filter(number__gt=portrait.history_at, number__lte=to):
            edit = changing.apply(edit, entry.changes)
    return edit


def preview(portrait: Portrait, renderer: Renderer, edit: Edit, operation: dict[str, Any]) -> Edit:
    """The edit as it would be after an operation that isn't finished yet."""
    return operations.perform(edit, operation, context_of(portrait, renderer)).edit

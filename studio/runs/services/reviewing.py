"""Looking through what a run made: accept, ease, undo, deliver."""

from __future__ import annotations

from dataclasses import replace

from django.utils import timezone

from retouch.work.operations import ChangeSet
from studio.errors import Problem
from studio.portraits.models import Portrait, new_id
from studio.portraits.services import delivering, gestures
from studio.runs.models import Run, RunItem


def item_of(run: Run, number: int) -> RunItem:
    """An item by its number."""
    found = RunItem.objects.filter(run=run, number=number).select_related("portrait").first()
    if found is None:
        raise Problem(404, "not_found", "This portrait is no longer in the run.")
    return found


def accept(run: Run, numbers: list[int] | None, accepted: bool = True) -> int:
    """Accept results, some or all that are open; or take that back. How many."""
    items = RunItem.objects.filter(run=run, state="done")
    items = items.filter(review="open" if accepted else "accepted")
    if numbers is not None:
        items = items.filter(number__in=numbers)
    return items.update(review="accepted" if accepted else "open", changed_at=timezone.now())


def undo(run: Run, number: int) -> None:
    """Take back what the run did on a portrait, if nothing was done since."""
    item = item_of(run, number)
    if item.state != "done" or item.review == "undone":
        raise Problem(409, "nothing_to_undo", "There is nothing to take back here.")
    if item.entry:
        portrait = item.portrait
        if portrait.history_at != item.entry:
            raise Problem(
                409,
                "worked_on",
                "This portrait was worked on since. Open it, and go back in its history.",
            )
        gestures.step(portrait, portrait.revision, item.entry - 1)
    RunItem.objects.filter(pk=item.pk).update(review="undone", entry=0)


def ease(run: Run, strength: float, numbers: list[int] | None) -> tuple[int, int]:
    """Another strength for the run's passes on some portraits, or all that are open; how many, and how many not.

    Those whose set is gone, or that were undone, stay as they are.
    """
    items = RunItem.objects.filter(run=run, state="done").exclude(review="undone")
    items = items.filter(number__in=numbers) if numbers is not None else items.filter(review="open")
    eased = left = 0
    for item in items.select_related("portrait"):
        try:
            _eased(item, strength)
            eased += 1
        except Problem:
            left += 1
    return eased, left


def _eased(item: RunItem, strength: float) -> None:
    portrait = item.portrait
    if not item.bound:
        raise Problem(409, "no_set", "This portrait has no set of this run.")
    was_last = portrait.history_at == item.entry
    done = gestures.perform(portrait, portrait.revision, ChangeSet(item.bound, strength=strength))
    if was_last:
        # What the run did and how it was eased are taken back as one.
        gestures.join_last(done.portrait)


def deliver(
    run: Run, wish: delivering.Wish, numbers: list[int] | None
) -> tuple[str, list[delivering.Delivery]]:
    """Begin to deliver what was accepted, some or all, in the order of the run; what names them together."""
    items = RunItem.objects.filter(run=run, review="accepted", portrait__deleted_at=None)
    if numbers is not None:
        items = items.filter(number__in=numbers)
    portraits: list[Portrait] = [
        i.portrait for i in items.select_related("portrait", "portrait__owner")
    ]
    if not portraits:
        raise Problem(422, "nothing_accepted", "Nothing is accepted yet.")
    own = replace(wish, batch=new_id())
    return own.batch, [delivering.start(p, _numbered(own, n + 1)) for n, p in enumerate(portraits)]


def _numbered(wish: delivering.Wish, number: int) -> delivering.Wish:
    return replace(wish, number=number, name=wish.name or "{portrait} retouched")

"""Routines to choose from: those that ship, and the user's own."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from django.utils import timezone

from retouch.edit.routine import Routine
from retouch.forms.routines import routine_from_data, routine_loads, routine_to_data
from retouch.work.ready import ready_routines
from retouch.work.routines import Learned, check_title, learned
from studio.errors import Problem
from studio.portraits.models import Portrait
from studio.portraits.services import analysing, desk
from studio.runs.models import OwnRoutine

# A user's own routines at most; files are no larger.
_MOST = 200
MOST_BYTES = 2_000_000


@dataclass(frozen=True)
class Known:
    """A routine to choose: its name in requests, whether it is the user's own, what it is."""

    name: str
    own: bool
    routine: Routine


def known(user: Any) -> list[Known]:
    """The ready ones, the lightest first, then the user's own by title."""
    ready = [Known(r.name, False, r) for r in ready_routines()]
    return ready + [_known(row) for row in _visible(user)]


def _visible(user: Any) -> Any:
    return OwnRoutine.objects.filter(owner=user, deleted_at=None)


def _known(row: OwnRoutine) -> Known:
    # What a later version of the program no longer knows is left out here, and stays in the row.
    return Known(row.pk, True, routine_from_data(row.data)[0])


def find(user: Any, name: str) -> Known:
    """A routine by its name: a ready one's, or the id of one of the user's own."""
    ready = next((r for r in ready_routines() if r.name == name), None)
    return Known(name, False, ready) if ready is not None else _known(_row(user, name))


def _row(user: Any, name: str, deleted: bool = False) -> OwnRoutine:
    rows = OwnRoutine.objects.filter(owner=user, pk=name, deleted_at__isnull=not deleted)
    found: OwnRoutine | None = rows.first()
    if found is None:
        raise Problem(404, "not_found", "There is no such routine.")
    return found


def _kept(user: Any, routine: Routine) -> Known:
    if _visible(user).count() >= _MOST:
        raise Problem(422, "too_many", f"Up to {_MOST} routines are kept. Delete one first.")
    row = OwnRoutine(owner=user, title=routine.title)
    row.data = routine_to_data(replace(routine, name=row.pk))
    row.save(force_insert=True)
    return _known(row)


def learn(
    portrait: Portrait, title: str, note: str, ids: list[str] | None, spots_from: float | None,
    alone: list[str], deliveries: list[str],
) -> Learned:  # fmt: skip
    """A routine of passes of a portrait; nothing is kept yet."""
    edit = desk.edit_of(portrait)
    analysis = analysing.of_edit(portrait.id, edit)
    faces = analysis.faces if analysis is not None else ()
    scale = faces[0].scale.px_per_mm if faces else 0.0
    return learned(edit, check_title(title), ids, note, spots_from, scale, alone, deliveries)


def keep(user: Any, found: Learned) -> Known:
    """Keep a routine that was learned."""
    return _kept(user, found.routine)


def take_in(user: Any, data: bytes) -> tuple[Known, tuple[str, ...]]:
    """Keep a routine from a file; and in words what of it can't be used."""
    if len(data) > MOST_BYTES:
        raise Problem(
            422, "too_large", f"A routine's file has {MOST_BYTES // 1_000_000} MB at most."
        )
    routine, left = routine_loads(data)
    return _kept(user, replace(routine, revision=1)), left


def change(user: Any, name: str, **given: Any) -> Known:
    """Another title, note or confidence of spots; counts its revision up."""
    row = _row(user, name)
    one = routine_from_data(row.data)[0]
    if "title" in given:
        given["title"] = check_title(given["title"])
    made = replace(one, **given, revision=min(one.revision + 1, 1_000_000))
    row.title = made.title
    # Steps that aren't known here any more stay in the file.
    row.data = {**routine_to_data(made), "steps": row.data["steps"]}
    row.save()
    return _known(row)


def copy(user: Any, name: str) -> Known:
    """A routine once more, as one of the user's own."""
    one = find(user, name).routine
    titles = {r.title.casefold() for r in _visible(user)}
    title, n = f"{one.title[:70]} copy", 2
    while title.casefold() in titles:
        title, n = f"{one.title[:70]} copy {n}", n + 1
    return _kept(user, replace(one, title=title, revision=1))


def delete(user: Any, name: str) -> None:
    """Put a routine away; it can be taken back."""
    row = _row(user, name)
    row.deleted_at = timezone.now()
    row.save()


def restore(user: Any, name: str) -> Known:
    """Take a deleted routine back."""
    row = _row(user, name, deleted=True)
    row.deleted_at = None
    row.save()
    return _known(row)

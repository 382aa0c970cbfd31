"""Marks of a session: what was decided about a person's marks on its other pictures.

Worked out from the analyses at hand when it is asked for, and kept nowhere; only what the user says about who is on
which picture is, with the session.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from django.db import transaction

from retouch.face import Analysis
from retouch.face.people import alike, form_of, likeness
from retouch.passes.marks import MARKS
from retouch.work.travelling import Known, Seen, known_faces, seen_elsewhere
from studio.errors import Problem
from studio.portraits.models import Portrait, PortraitSession
from studio.portraits.services import analysing, desk

# The session's pictures that are looked at, those worked on last first.
_MOST = 60


@dataclass(frozen=True)
class Person:
    """Another picture of the session: whether the same person is on it, and what the user said of that (None: nothing)."""

    id: str
    name: str
    same: bool
    said: bool | None


def _session(portrait: Portrait) -> PortraitSession | None:
    """The portrait's session, if marks travel in it; asked for anew, as it may have been taken away meanwhile."""
    return PortraitSession.objects.filter(pk=portrait.session_id, travel=True).first()


def _pair(one: str, other: str) -> str:
    return " ".join(sorted((one, other)))


def _others(
    portrait: Portrait, decided: bool = False
) -> Iterator[tuple[Portrait, Analysis, bool | None]]:
    """The session's other pictures whose faces are known, with what the user said of who is on them."""
    session = _session(portrait)
    if session is None:
        return
    rows = Portrait.objects.filter(session=session, deleted_at=None).exclude(pk=portrait.pk)
    if decided:
        # Only those on which something was decided can say anything.
        rows = rows.filter(passes__kind=MARKS.name).distinct()
    for other in rows.order_by("-worked_at")[:_MOST]:
        analysis = analysing.of_edit(other.id, desk.edit_of(other))
        if analysis is not None:
            yield other, analysis, session.people.get(_pair(portrait.pk, other.pk))


def known(portrait: Portrait, healed: bool = True) -> list[Known]:
    """Faces of the other pictures of a portrait's session; none where marks don't travel in it."""
    own = analysing.of_edit(portrait.id, desk.edit_of(portrait))
    out: list[Known] = []
    for other, analysis, said in _others(portrait, decided=not healed):
        faces = known_faces(analysis, desk.edit_of(other), healed)
        if said is False:
            continue
        if said and faces and own is not None and own.faces:
            # Of several faces, the one most like this picture's largest.
            form = form_of(own.faces[0])
            likest = min(range(len(faces)), key=lambda n: likeness(form, faces[n].form))
            faces[likest] = replace(faces[likest], said=True)
        out += faces
    return out


def seen(portrait: Portrait) -> list[Seen]:
    """The marks of a portrait that are seen on the person's other pictures."""
    edit = desk.edit_of(portrait)
    analysis = analysing.of_edit(portrait.id, edit)
    others = known(portrait)
    if analysis is None or not others:
        return []
    return [s for s in seen_elsewhere(analysis, edit, others) if s.of]


def people(portrait: Portrait) -> list[Person]:
    """The session's other pictures, and whether somebody of this one is on them."""
    own = analysing.of_edit(portrait.id, desk.edit_of(portrait))
    out = []
    for other, analysis, said in _others(portrait):
        same = said
        if same is None:
            same = own is not None and any(
                alike(form_of(a), own.marks[i], form_of(b), analysis.marks[j])
                for i, a in enumerate(own.faces)
                for j, b in enumerate(analysis.faces)
            )
        out.append(Person(other.pk, other.name, same, said))
    return out


def say(portrait: Portrait, other_id: str, same: bool | None) -> None:
    """Say that another picture shows the same person or somebody else; None: as the program finds."""
    with transaction.atomic():
        session = _session(portrait)
        there = (
            session is not None
            and Portrait.objects.filter(session=session, pk=other_id, deleted_at=None)
            .exclude(pk=portrait.pk)
            .exists()
        )
        if session is None or not there:
            raise Problem(404, "not_found", "This picture isn't in the same session.")
        told = dict(session.people)
        if same is None:
            told.pop(_pair(portrait.pk, other_id), None)
        else:
            told[_pair(portrait.pk, other_id)] = same
        session.people = told
        session.save(update_fields=["people"])

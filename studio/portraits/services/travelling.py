"""Marks of a session: what was decided about a person's marks on its other pictures.

Worked out from the analyses at hand when it is asked for, and kept nowhere.
"""

from __future__ import annotations

from retouch.passes.marks import MARKS
from retouch.work.travelling import Known, Seen, known_faces, seen_elsewhere
from studio.portraits.models import Portrait, PortraitSession
from studio.portraits.services import analysing, desk

# The session's pictures that are looked at, those worked on last first.
_MOST = 60


def known(portrait: Portrait, healed: bool = True) -> list[Known]:
    """Faces of the other pictures of a portrait's session; none where marks don't travel in it."""
    # Asked for anew: it may have been taken away meanwhile.
    session = PortraitSession.objects.filter(pk=portrait.session_id, travel=True).first()
    if session is None:
        return []
    others = Portrait.objects.filter(session=session, deleted_at=None)
    others = others.exclude(pk=portrait.pk)
    if not healed:
        # Only those on which something was decided can say anything.
        others = others.filter(passes__kind=MARKS.name).distinct()
    out: list[Known] = []
    for other in others.order_by("-worked_at")[:_MOST]:
        edit = desk.edit_of(other)
        analysis = analysing.of_edit(other.id, edit)
        if analysis is not None:
            out += known_faces(analysis, edit, healed)
    return out


def seen(portrait: Portrait) -> list[Seen]:
    """The marks of a portrait that are seen on the person's other pictures."""
    edit = desk.edit_of(portrait)
    analysis = analysing.of_edit(portrait.id, edit)
    others = known(portrait)
    if analysis is None or not others:
        return []
    return [s for s in seen_elsewhere(analysis, edit, others) if s.of]

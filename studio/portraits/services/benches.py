"""A portrait as the core's operations work with it."""

from __future__ import annotations

from retouch.edit import Edit
from retouch.forms.form import from_data
from retouch.render import Renderer
from retouch.work import Bench, Other
from studio.errors import Problem
from studio.portraits.models import Portrait, Take
from studio.portraits.services import analysing, desk, finding


def bench_of(portrait: Portrait, renderer: Renderer, edit: Edit) -> Bench:
    """The bench of a portrait for an edit of it, with the analysis that fits the edit, if there."""

    def elsewhere(name: str) -> Other:
        if name.startswith("take:"):
            take = take_of(portrait, name.removeprefix("take:"))
            return Other(from_data(take.edit), analysing.of_edit(portrait.id, edit))
        other = finding.find(portrait.owner, name)
        theirs = desk.edit_of(other)
        return Other(theirs, analysing.of_edit(other.id, theirs))

    return Bench(renderer, analysing.of_edit(portrait.id, edit), elsewhere)


def take_of(portrait: Portrait, take_id: str) -> Take:
    """A take of a portrait."""
    found: Take | None = Take.objects.filter(portrait=portrait, pk=take_id).first()
    if found is None:
        raise Problem(404, "no_such_take", "This take is gone; somebody deleted it.")
    return found

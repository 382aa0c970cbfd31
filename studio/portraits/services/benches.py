"""A portrait as the core's operations work with it."""

from __future__ import annotations

from dataclasses import dataclass

from retouch.edit import Edit
from retouch.edit.mask import Face
from retouch.errors import EditError
from retouch.forms.form import from_data
from retouch.render import Renderer
from retouch.work import Bench, Other
from retouch.work.borrowing import Pins, pins_between
from retouch.work.operations.borrowing import sides
from studio.errors import Problem
from studio.portraits.models import Portrait, Take
from studio.portraits.services import analysing, desk, finding

# Another portrait's faces are waited for so long.
_PATIENCE_S = 20.0


def bench_of(portrait: Portrait, renderer: Renderer, edit: Edit) -> Bench:
    """The bench of a portrait for an edit of it, with the analysis that fits the edit, if there."""

    def elsewhere(name: str) -> Other:
        if name.startswith("take:"):
            take = take_of(portrait, name.removeprefix("take:"))
            return Other(from_data(take.edit), analysing.of_edit(portrait.id, edit))
        other = finding.find(portrait.owner, name)
        theirs = desk.edit_of(other)
        analysis = analysing.of_edit(other.id, theirs)
        if analysis is None:
            analysis = analysing.waited_for(other, theirs, _PATIENCE_S)
        return Other(
            theirs, analysis, other.name, other.sha256,
            lambda: desk.renderer_of(other, Edit()).pyramid,
        )  # fmt: skip

    return Bench(renderer, analysing.of_edit(portrait.id, edit), elsewhere)


@dataclass(frozen=True)
class LaidOver:
    """Another portrait over this one: its content and size, and pins (x, y, u, v) from this one to it."""

    name: str
    picture: str
    width: int
    height: int
    pins: Pins


def laid_over(portrait: Portrait, other_id: str, face: Face = None) -> LaidOver:
    """How another portrait's face lies over this one's; pictures as a whole where no face is known.

    Raises `Problem` where their heads are turned too far apart.
    """
    other = finding.find(portrait.owner, other_id)
    bench = bench_of(portrait, desk.renderer_of(portrait), desk.edit_of(portrait))
    there = bench.elsewhere(other_id)
    try:
        here_side, there_side = sides(bench, there, face, None)
    except EditError:
        # Without faces, the one picture lies wholly on the other.
        w, h, u, v = portrait.width, portrait.height, other.width, other.height
        pins: Pins = ((0.0, 0.0, 0.0, 0.0), (float(w), float(h), float(u), float(v)))
        if abs(w * v - h * u) > 0.01 * w * v:
            k = min(u / w, v / h)
            pins = ((0.0, 0.0, 0.0, 0.0), (float(w), float(h), w * k, h * k))
        return LaidOver(other.name, other.sha256, other.width, other.height, pins)
    pins = pins_between(here_side, there_side)
    return LaidOver(other.name, other.sha256, other.width, other.height, pins)


def take_of(portrait: Portrait, take_id: str) -> Take:
    """A take of a portrait."""
    found: Take | None = Take.objects.filter(portrait=portrait, pk=take_id).first()
    if found is None:
        raise Problem(404, "no_such_take", "This take is gone; somebody deleted it.")
    return found

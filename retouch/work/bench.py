"""What operations work with: the picture, its analysis, other edits; and what they give."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass, replace

from retouch.edit import Edit, Pass, Touch
from retouch.edit.mask import Face
from retouch.errors import EditError
from retouch.face import Analysis
from retouch.face.cover import FaceZones
from retouch.memory import Memory
from retouch.passes import registry
from retouch.passes.elsewhere import Others, nowhere
from retouch.picture import Pyramid
from retouch.render import Renderer


class Refused(EditError):
    """An operation that can't be done; ``code`` names why, for programs."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


@dataclass(frozen=True)
class Other:
    """Another edit that passes are brought from, with the analysis it was made on, if known.

    Of another portrait also its ``name``, its ``original``, and that by its content (``picture``).
    """

    edit: Edit
    analysis: Analysis | None = None
    name: str = ""
    picture: str = ""
    original: Callable[[], Pyramid] | None = None


def new_id() -> str:
    """An unguessable identifier of 16 characters."""
    return secrets.token_urlsafe(12)


def _no_other(name: str) -> Other:
    raise Refused("no_such_edit", f"There is no other edit {name!r} here.")


@dataclass(frozen=True)
class Bench:
    """A portrait with all that operations ask about it.

    Parameters
    ----------
    renderer : Renderer
        Of the portrait's original.
    analysis : Analysis, optional
        Of its faces, for the edit that is worked on; None: not known yet.
    elsewhere : callable
        Gives the edit of another portrait, or of a take (``take:NAME``), by its name.
    new_id : callable
        Makes identifiers of new passes and touches.
    """

    renderer: Renderer
    analysis: Analysis | None = None
    elsewhere: Callable[[str], Other] = _no_other
    new_id: Callable[[], str] = new_id

    @property
    def people(self) -> int:
        """How many faces are known."""
        return len(self.analysis.faces) if self.analysis is not None else 0

    def faced(self, face: Face, otherwise: str) -> tuple[Analysis, list[int]]:
        """The analysis, and the numbers of those who are asked for: one, or for None everyone.

        `Refused` with the words ``otherwise`` where no face is known.
        """
        if self.analysis is None or not self.analysis.faces:
            raise Refused("no_face", otherwise)
        one = self.person(face)
        return self.analysis, list(range(self.people)) if one is None else [one]

    def person(self, face: Face) -> int | None:
        """The number of a face, the largest first; None for everyone. `Refused` if it isn't here."""
        if face is None:
            return None
        number = self.analysis.who(face) if self.analysis is not None else None
        if number is None:
            raise Refused("no_such_face", "This face isn't known here.")
        return number


def bench_for(
    pyramid: Pyramid,
    analysis: Analysis | None,
    memory: Memory | None = None,
    others: Others = nowhere,
) -> Bench:
    """The bench of a picture and what is known of its faces; None: not known.

    ``others`` gives other originals that touches take from, by their content.
    """

    def zones(edit: Edit) -> FaceZones | None:
        return FaceZones(analysis, edit, pyramid) if analysis is not None else None

    return Bench(Renderer(pyramid, memory, zones=zones, others=others), analysis)


@dataclass(frozen=True)
class Result:
    """The new edit, a label for the history, and which touch or pass the hand now holds."""

    edit: Edit
    label: str
    touch_id: str | None = None
    pass_id: str | None = None


def find_pass(edit: Edit, pass_id: str) -> tuple[int, Pass]:
    """A pass and its place."""
    for n, one in enumerate(edit.passes):
        if one.id == pass_id:
            return n, one
    raise Refused("no_such_pass", "This pass is gone; somebody deleted it.")


def find_touch(edit: Edit, touch_id: str) -> tuple[int, int]:
    """The places of a pass and of its touch."""
    for n, one in enumerate(edit.passes):
        for m, touch in enumerate(one.touches):
            if touch.id == touch_id:
                return n, m
    raise Refused("no_such_touch", "This touch is gone; somebody deleted it.")


def with_pass(edit: Edit, n: int, one: Pass) -> Edit:
    """The edit with another pass at a place."""
    return replace(edit, passes=(*edit.passes[:n], one, *edit.passes[n + 1 :]))


def with_touches(edit: Edit, n: int, touches: tuple[Touch, ...]) -> Edit:
    """The edit with other touches in the pass at a place."""
    return with_pass(edit, n, replace(edit.passes[n], touches=touches))


def inserted(edit: Edit, at: int, one: Pass) -> Edit:
    """The edit with one more pass at a place."""
    return replace(edit, passes=(*edit.passes[:at], one, *edit.passes[at:]))


def free_name(edit: Edit, base: str) -> str:
    """A name, numbered if another pass has it, and no longer than a name may be."""
    taken = {p.name for p in edit.passes}
    base = base[:190]
    name, n = base, 2
    while name in taken:
        name, n = f"{base} {n}", n + 1
    return name


def place_for(edit: Edit, kind: registry.PassKind) -> int:
    """Where a new pass goes: after the last of its stage or of an earlier one, but below those that
    stay last.
    """
    if kind.last:
        return len(edit.passes)
    stage = registry.STAGES.index(kind.stage)
    place = 0
    for n, one in enumerate(edit.passes):
        own = registry.kind(one.kind)
        if not own.last and registry.STAGES.index(own.stage) <= stage:
            place = n + 1
    return place

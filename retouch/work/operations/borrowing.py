"""A part of a face borrowed from another portrait."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Elsewhere, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT, Ident, Path
from retouch.errors import EditError
from retouch.face import Analysis
from retouch.face.people import alike, form_of, likeness
from retouch.forms.form import completed_touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.work.bench import Bench, Other, Refused, Result, with_touches
from retouch.work.borrowing import (
    PAIRS,
    PART_TITLES,
    Array,
    Part,
    Side,
    Single,
    mirrored_brow,
    propose,
)
from retouch.work.operations.passes import AddPass


def sides(bench: Bench, other: Other, face: Face, other_face: Face) -> tuple[Side, Side]:
    """The two faces that belong together: those asked for, or the largest of each picture."""

    def one(analysis: Analysis | None, wanted: Face, where: str) -> int:
        if analysis is None:
            raise Refused("not_looked_at", f"The faces of {where} haven't been looked at yet.")
        number = 0 if wanted is None else analysis.who(wanted)
        if number is None or not analysis.faces:
            raise Refused("no_face", f"No face is known in {where}.")
        return number

    if other.original is None or not other.picture:
        raise Refused("no_picture", "There is no other picture to borrow from.")
    name = other.name or "the other picture"
    here, there = one(bench.analysis, face, "this picture"), one(other.analysis, other_face, name)
    assert bench.analysis is not None
    assert other.analysis is not None
    return (
        Side(bench.analysis.faces[here], bench.renderer.pyramid),
        Side(other.analysis.faces[there], other.original()),
    )


@dataclass(frozen=True)
class Borrow:
    """A part of a face taken from another portrait of the same user, laid in its place.

    ``portrait`` names it; ``part`` is what is taken; ``path`` the outline for the part "outline".
    ``face`` and ``other_face``: whose, and from whom; none: the largest face of each.
    """

    __pydantic_config__ = STRICT

    portrait: Ident
    part: Part
    face: Face = None
    other_face: Face = None
    path: Path | None = None
    op: Literal["borrow"] = "borrow"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The touches that borrow it, in a pass of that other portrait; `Refused` in words."""
        other = bench.elsewhere(self.portrait)
        here, there = sides(bench, other, self.face, self.other_face)
        if self.part == "face":
            _of_one_person(bench, other, here, there)
        kind = registry.kind("borrow")
        singles: tuple[Single, ...] = PAIRS.get(self.part) or (self.part,)  # type: ignore[assignment]
        made = []
        for single in singles:
            try:
                found = propose(here, there, single, self.path)
            except EditError as error:
                raise Refused("does_not_fit", str(error)) from None
            made.append(
                completed_touch(
                    Touch(
                        bench.new_id(), found.outline, {"feather_px": found.feather},
                        elsewhere=Elsewhere(other.picture, found.pins),
                    ),
                    kind,
                )
            )  # fmt: skip
        name = f"Borrowed from {other.name}" if other.name else "Borrowed"
        edit, n = _home(edit, bench, other.picture, name)
        one = edit.passes[n]
        edit = with_touches(edit, n, (*one.touches, *made))
        label = f"{PART_TITLES[self.part]} from {other.name or 'another picture'}"
        return Result(edit, label, made[-1].id, one.id)


def _of_one_person(bench: Bench, other: Other, here: Side, there: Side) -> None:
    """`Refused` where two faces are of different people: the whole of another face would hardly look natural."""
    assert bench.analysis is not None
    assert other.analysis is not None
    known = ((bench.analysis, here.face), (other.analysis, there.face))
    (one, also), (marks, others) = zip(
        *((form_of(f), a.marks[next(n for n, g in enumerate(a.faces) if g is f)]) for a, f in known),
        strict=True,
    )  # fmt: skip
    if not alike(one, marks, also, others):
        off = (likeness(one, also) + likeness(also, one)) / 2
        raise Refused(
            "another_person",
            f"These seem to be two people: the form of their faces differs by {off:.1f} mm. A whole face comes "
            "from the same person. Borrow a part, or draw an outline.",
        )


@dataclass(frozen=True)
class MirrorBrow:
    """The other brow, mirrored, laid over the person's brow on ``side``; ``face``: whose, none: the largest."""

    __pydantic_config__ = STRICT

    side: Literal["right", "left"]
    face: Face = None
    op: Literal["mirror_brow"] = "mirror_brow"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A touch that borrows it from the picture itself; `Refused` where no face is known."""
        analysis, people = bench.faced(
            self.face, "No face is known here, so there is no other brow to take."
        )
        person = people[0]
        here = Side(analysis.faces[person], bench.renderer.pyramid)

        def brows(rect: Rect, shape: tuple[int, int]) -> Array:
            return analysis.mask(("brows",), rect, shape, person)

        try:
            found = mirrored_brow(here, self.side == "right", brows)
        except EditError as error:
            raise Refused("does_not_fit", str(error)) from None
        touch = completed_touch(
            Touch(
                bench.new_id(), found.outline, {"feather_px": found.feather, "hairs": True},
                elsewhere=Elsewhere("", found.pins),
            ),
            registry.kind("borrow"),
        )  # fmt: skip
        edit, n = _home(edit, bench, "", "Brows mirrored")
        one = edit.passes[n]
        edit = with_touches(edit, n, (*one.touches, touch))
        return Result(edit, f"{self.side.capitalize()} brow mirrored", touch.id, one.id)


def _home(edit: Edit, bench: Bench, picture: str, name: str) -> tuple[Edit, int]:
    """The pass that borrows from a picture, or a new one of that name."""
    for n, one in enumerate(edit.passes):
        if one.kind == "borrow" and one.on and one.touches:
            known = one.touches[0].elsewhere
            if known is not None and known.picture == picture:
                return edit, n
    edit, n, _ = AddPass("borrow", name=name[:190], areas=()).added(edit, bench)
    return edit, n

"""A part of a face borrowed from another portrait."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Elsewhere, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT, Ident, Path
from retouch.errors import EditError
from retouch.face import Analysis
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import Bench, Other, Refused, Result, find_pass, with_touches
from retouch.work.borrowing import PAIRS, PART_TITLES, Part, Side, Single, propose
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
        edit, n = self._home(edit, bench, other)
        one = edit.passes[n]
        edit = with_touches(edit, n, (*one.touches, *made))
        label = f"{PART_TITLES[self.part]} from {other.name or 'another picture'}"
        return Result(edit, label, made[-1].id, one.id)

    def _home(self, edit: Edit, bench: Bench, other: Other) -> tuple[Edit, int]:
        """The pass that borrows from that picture, or a new one."""
        for n, one in enumerate(edit.passes):
            if one.kind == "borrow" and one.on and one.touches:
                known = one.touches[0].elsewhere
                if known is not None and known.picture == other.picture:
                    return edit, n
        name = f"Borrowed from {other.name}" if other.name else "Borrowed"
        added = AddPass("borrow", bench.new_id(), name[:190], areas=()).perform(edit, bench)
        return added.edit, find_pass(added.edit, added.pass_id or "")[0]

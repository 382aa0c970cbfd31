"""Operations on the masks of passes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit import Edit, Mask, Pass
from retouch.edit.mask import Area, MaskStroke
from retouch.edit.values import MOST_AREAS, MOST_PX, STRICT, Ident, Number, Pixels, Switch
from retouch.forms.form import completed
from retouch.work.bench import Bench, Refused, Result, find_pass, with_pass


def _masked(edit: Edit, pass_id: str, mask: Mask, label: str) -> Result:
    n, one = find_pass(edit, pass_id)
    changed = completed(replace(one, mask=mask), one.title)
    return Result(with_pass(edit, n, replace(one, mask=changed.mask)), f"{label} {one.title}")


@dataclass(frozen=True)
class PaintMask:
    """Paint on a pass's mask: ease what it did, or bring it back. ``whole_set``: on those of all passes of its
    set."""

    __pydantic_config__ = STRICT

    pass_id: Ident
    stroke: MaskStroke
    whole_set: Switch | None = None
    op: Literal["paint_mask"] = "paint_mask"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """One more stroke."""
        n, one = find_pass(edit, self.pass_id)
        label = "Bring back" if self.stroke.reveal else "Ease"
        if not self.whole_set:
            return Result(with_pass(edit, n, self._painted(one)), f"{label} {one.title}")
        if one.bound is None:
            raise Refused("not_bound", f"{one.title} belongs to no set.")
        own = one.bound.id
        passes = tuple(
            self._painted(p) if p.bound is not None and p.bound.id == own else p
            for p in edit.passes
        )
        return Result(replace(edit, passes=passes), f"{label} {one.bound.name}")

    def _painted(self, one: Pass) -> Pass:
        return replace(one, mask=replace(one.mask, strokes=(*one.mask.strokes, self.stroke)))


@dataclass(frozen=True)
class SetMask:
    """Change where a pass acts; what isn't given stays. ``label`` begins the history's words."""

    __pydantic_config__ = STRICT

    pass_id: Ident
    areas: Annotated[tuple[Area, ...], Field(max_length=MOST_AREAS)] | None = None
    invert: Switch | None = None
    grow_px: Annotated[Number, Field(ge=-MOST_PX, le=MOST_PX)] | None = None
    feather_px: Pixels | None = None
    clear_strokes: Switch | None = None
    label: Annotated[str, Field(max_length=60)] | None = None
    op: Literal["set_mask"] = "set_mask"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """Areas, inverting, growing and feather; strokes stay unless they are to go."""
        _, one = find_pass(edit, self.pass_id)
        given = {
            name: value
            for name in ("areas", "invert", "grow_px", "feather_px")
            if (value := getattr(self, name)) is not None
        }
        mask = replace(one.mask, **given)
        if self.clear_strokes:
            mask = replace(mask, strokes=())
        return _masked(edit, self.pass_id, mask, self.label or "Mask of")


@dataclass(frozen=True)
class CopyMask:
    """Give a pass the mask of another."""

    __pydantic_config__ = STRICT

    pass_id: Ident
    from_id: Ident
    op: Literal["copy_mask"] = "copy_mask"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The mask of another pass."""
        _, other = find_pass(edit, self.from_id)
        return _masked(edit, self.pass_id, other.mask, f"Mask of {other.title} for")

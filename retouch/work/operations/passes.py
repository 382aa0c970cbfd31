"""Operations on whole passes."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Annotated, Any, Literal

from pydantic import Field

from retouch.edit import Edit, Mask, Pass
from retouch.edit.mask import Area, Face
from retouch.edit.values import (
    MOST_AREAS,
    MOST_PASSES,
    STRICT,
    Blend,
    GivenValues,
    Ident,
    Name,
    Percent,
    Switch,
    Whole,
)
from retouch.errors import EditError
from retouch.forms.form import completed
from retouch.passes import registry
from retouch.passes.registry import STAGE_TITLES, Stage
from retouch.work.bench import (
    Bench,
    Refused,
    Result,
    find_pass,
    free_name,
    inserted,
    place_for,
    with_pass,
)
from retouch.work.fitting import check_meshed, fitted, refitted, usual_mask


@dataclass(frozen=True)
class AddPass:
    """A new pass, fitted to a person's face, or to the largest one for everyone."""

    __pydantic_config__ = STRICT

    kind: Name
    id: Ident | None = None
    name: Name | None = None
    settings: GivenValues | None = None
    areas: Annotated[tuple[Area, ...], Field(max_length=MOST_AREAS)] | None = None
    face: Face = None
    op: Literal["add_pass"] = "add_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass on top of its stage, with the mask that its kind begins with."""
        made, _, one = self.added(edit, bench)
        return Result(made, f"Add {one.name}", pass_id=one.id)

    def added(self, edit: Edit, bench: Bench) -> tuple[Edit, int, Pass]:
        """The edit with the pass, its place, and the pass itself."""
        kind = registry.kind(self.kind)
        if kind.meshed:
            check_meshed(bench, self.face)
        mask = (
            Mask(self.areas) if self.areas is not None else usual_mask(kind, bench, edit, self.face)
        )
        fit = fitted(kind, bench, self.face)
        begun = dict(kind.begins(fit.values)) if kind.begins is not None else {}
        one = completed(
            Pass(
                id=self.id or bench.new_id(),
                kind=kind.name,
                name=self.name or free_name(edit, kind.named()),
                settings={**begun, **(self.settings or {})},
                mask=mask,
                fit=fit,
            )
        )
        if any(p.id == one.id for p in edit.passes):
            raise EditError("There is a pass with this id already.")
        at = place_for(edit, kind)
        return inserted(edit, at, one), at, one


@dataclass(frozen=True)
class RemovePass:
    """Delete a pass with all its touches."""

    __pydantic_config__ = STRICT

    id: Ident
    op: Literal["remove_pass"] = "remove_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit without it."""
        n, one = find_pass(edit, self.id)
        rest = edit.passes[:n] + edit.passes[n + 1 :]
        return Result(replace(edit, passes=rest), f"Delete {one.title}")


@dataclass(frozen=True)
class ChangePass:
    """Change a pass's name, strength, blend mode or settings; what isn't given stays."""

    __pydantic_config__ = STRICT

    id: Ident
    name: Name | None = None
    strength: Percent | None = None
    enabled: Switch | None = None
    blend: Blend | None = None
    settings: GivenValues | None = None
    op: Literal["change_pass"] = "change_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass with what is given."""
        n, one = find_pass(edit, self.id)
        given: dict[str, Any] = {
            f.name: value
            for f in fields(self)
            if f.name not in ("op", "id") and (value := getattr(self, f.name)) is not None
        }
        if self.settings is not None:
            # Settings alone are checked here: touches and masks may be many.
            merged = {**one.settings, **self.settings}
            bare = completed(Pass(one.id, one.kind, settings=merged, fit=one.fit), one.title)
            given["settings"] = bare.settings
        return Result(with_pass(edit, n, replace(one, **given)), self._label(one))

    def _label(self, one: Pass) -> str:
        if self.name is not None:
            return f"Rename to {self.name}"
        if self.enabled is not None:
            return f"{one.title} {'on' if self.enabled else 'off'}"
        if self.strength is not None:
            return f"{one.title}: strength {self.strength:g} %"
        if self.settings is not None:
            titles = {s.name: s.title for s in registry.kind(one.kind).settings}
            changed = ", ".join(
                titles[k] for k, v in self.settings.items() if v != one.settings.get(k)
            )
            return f"{one.title}: {changed or 'settings'}"
        return f"{one.title}: blend"


@dataclass(frozen=True)
class MovePass:
    """Put a pass at another place in the order, 0 the lowest."""

    __pydantic_config__ = STRICT

    id: Ident
    index: Whole
    op: Literal["move_pass"] = "move_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the pass at that place."""
        n, one = find_pass(edit, self.id)
        rest = replace(edit, passes=edit.passes[:n] + edit.passes[n + 1 :])
        at = max(0, min(self.index, len(rest.passes)))
        return Result(inserted(rest, at, one), f"Move {one.title}")


@dataclass(frozen=True)
class DuplicatePass:
    """A copy of a pass on top of it."""

    __pydantic_config__ = STRICT

    id: Ident
    op: Literal["duplicate_pass"] = "duplicate_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the copy."""
        n, one = find_pass(edit, self.id)
        copy = copied(one, free_name(edit, f"{one.title} copy"), bench)
        return Result(inserted(edit, n + 1, copy), f"Duplicate {one.title}", pass_id=copy.id)


def copied(one: Pass, name: str, bench: Bench) -> Pass:
    """The pass with ids of its own, and of its touches."""
    touches = tuple(replace(t, id=bench.new_id()) for t in one.touches)
    return replace(one, id=bench.new_id(), name=name, touches=touches)


@dataclass(frozen=True)
class SwitchStage:
    """All passes of a stage off, or back to how each was."""

    __pydantic_config__ = STRICT

    stage: Stage
    on: Switch
    op: Literal["switch_stage"] = "switch_stage"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the stage's passes switched; guides stay."""

        def switched(one: Pass) -> Pass:
            kind = registry.kind(one.kind)
            if kind.stage != self.stage or kind.guide or one.stage_on == self.on:
                return one
            return replace(one, stage_on=self.on)

        passes = tuple(switched(p) for p in edit.passes)
        label = f"{STAGE_TITLES[self.stage]} {'on' if self.on else 'off'}"
        return Result(replace(edit, passes=passes), label)


@dataclass(frozen=True)
class BringPasses:
    """Copies of passes of another portrait of the same owner, fitted to the faces here."""

    __pydantic_config__ = STRICT

    portrait_id: Ident
    ids: Annotated[tuple[Ident, ...], Field(min_length=1, max_length=MOST_PASSES)]
    op: Literal["bring_passes"] = "bring_passes"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the copies, each on top of its stage."""
        other = bench.elsewhere(self.portrait_id)
        wanted = [p for p in other.edit.passes if p.id in self.ids]
        if len(wanted) != len(set(self.ids)):
            raise Refused("no_such_pass", "A pass to copy is gone; somebody deleted it.")
        last = None
        for one in wanted:
            kind = registry.kind(one.kind)
            if kind.single:
                # There can be one only: the brought one takes its place.
                rest = (p for p in edit.passes if p.kind != kind.name)
                edit = replace(edit, passes=tuple(rest))
            name = free_name(edit, one.name or kind.named())
            copy = refitted(copied(one, name, bench), kind, bench, other.analysis)
            edit = inserted(edit, place_for(edit, kind), copy)
            last = copy.id
        what = wanted[0].title if len(wanted) == 1 else f"{len(wanted)} passes"
        return Result(edit, f"Bring {what}", pass_id=last)


@dataclass(frozen=True)
class ReturnToTake:
    """The state of a take, as a step that can be undone."""

    __pydantic_config__ = STRICT

    take_id: Ident
    name: Name
    op: Literal["return_to_take"] = "return_to_take"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The take's edit."""
        there = bench.elsewhere(f"take:{self.take_id}").edit
        return Result(replace(there, analysis=edit.analysis), f"Return to {self.name}")

"""Passes bound into a set, which has a name, a switch and one strength for all of them; ready looks."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal

from pydantic import Field

from retouch.edit import Edit, Pass
from retouch.edit.mask import Area, Mask
from retouch.edit.model import Bound
from retouch.edit.routine import RoutineStep
from retouch.edit.values import MOST_PASSES, STRICT, GivenValues, Ident, Name, Percent, Switch
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, find_pass, with_pass
from retouch.work.looks import look
from retouch.work.operations.passes import AddPass

_MOST_STEPS = 40
_Ids = Annotated[tuple[Ident, ...], Field(min_length=1, max_length=MOST_PASSES)]


@dataclass(frozen=True)
class BindPasses:
    """Passes bound into one set; those that belong to one bring the whole of it along.

    ``name``: that of the set; none: that of a set among them, or "Set".
    """

    __pydantic_config__ = STRICT

    ids: _Ids
    name: Name | None = None
    op: Literal["bind_passes"] = "bind_passes"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the set; `Refused` for what has no strength (a frame)."""
        chosen = [find_pass(edit, one)[1] for one in self.ids]
        for one in chosen:
            if registry.kind(one.kind).single:
                raise Refused(
                    "no_strength", f"{one.title} has no strength, so no set can scale it."
                )
        known = [p.bound for p in chosen if p.bound is not None]
        base = known[0] if known else Bound(bench.new_id(), "Set")
        bound = replace(base, name=self.name) if self.name else base
        sets, ids = {b.id for b in known}, set(self.ids)
        passes = tuple(
            replace(p, bound=bound)
            if p.id in ids or (p.bound is not None and p.bound.id in sets)
            else p
            for p in edit.passes
        )
        if bound.area is not None:
            passes = tuple(_within(p, None, bound.area) if p.bound == bound else p for p in passes)
        count = sum(p.bound == bound for p in passes)
        return Result(replace(edit, passes=passes), f"{count} passes bound as {bound.name}")


def _joined(mask: Mask, area: Area) -> Area:
    """The area as it limits a mask: both have to let something through."""
    if mask.invert:
        # Nothing but what is outside of both is let through, turned round.
        return replace(area, way="add", invert=not area.invert)
    return replace(area, way="cross" if mask.areas else "add")


def _within(one: Pass, before: Area | None, after: Area | None) -> Pass:
    """A pass whose mask isn't limited by one area any more, but by another."""
    mask = one.mask
    if before is not None:
        ways = [replace(before, way="cross"), replace(before, way="add"), replace(before, way="add", invert=not before.invert)]  # fmt: skip
        at = next((n for n in reversed(range(len(mask.areas))) if mask.areas[n] in ways), None)
        if at is not None:
            mask = replace(mask, areas=(*mask.areas[:at], *mask.areas[at + 1 :]))
    if after is not None and not any(a in (after, _joined(mask, after)) for a in mask.areas):
        mask = replace(mask, areas=(*mask.areas, _joined(mask, after)))
    return replace(one, mask=mask)


@dataclass(frozen=True)
class ChangeSet:
    """A set's name, strength, switch or mask; what isn't given stays. ``loose``: its passes are let go, each keeps
    the strength that it has now. ``area`` limits all its passes to one; ``everywhere`` takes that away.
    """

    __pydantic_config__ = STRICT

    id: Ident
    name: Name | None = None
    strength: Percent | None = None
    on: Switch | None = None
    loose: Switch | None = None
    area: Area | None = None
    everywhere: Switch | None = None
    op: Literal["change_set"] = "change_set"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """All passes of the set with it; `Refused` if it is gone."""
        own = [p.bound for p in edit.passes if p.bound is not None and p.bound.id == self.id]
        if not own:
            raise Refused("no_such_set", "This set is gone; somebody let its passes go.")
        given: dict[str, Any] = {
            n: v for n in ("name", "strength", "on") if (v := getattr(self, n)) is not None
        }
        bound, before = replace(own[0], **given), own[0].area
        if self.area is not None or self.everywhere:
            bound = replace(bound, area=self.area)

        def changed(one: Pass) -> Pass:
            if one.bound is None or one.bound.id != self.id:
                return one
            if self.loose:
                return replace(
                    one, bound=None, strength=round(100 * one.share, 2),
                    enabled=one.enabled and one.bound.on,
                )  # fmt: skip
            return replace(_within(one, before, bound.area), bound=bound)

        return Result(replace(edit, passes=tuple(map(changed, edit.passes))), self._label(bound))

    def _label(self, bound: Bound) -> str:
        if self.loose:
            return f"{bound.name} let go"
        if self.area is not None or self.everywhere:
            return f"{bound.name}: {'everywhere' if self.area is None else 'limited'}"
        if self.name is not None:
            return f"Set renamed to {bound.name}"
        if self.on is not None:
            return f"{bound.name} {'on' if bound.on else 'off'}"
        return f"{bound.name}: strength {bound.strength:g} %"


@dataclass(frozen=True)
class UnbindPass:
    """A pass taken out of its set; it keeps the strength that it has now."""

    __pydantic_config__ = STRICT

    id: Ident
    op: Literal["unbind_pass"] = "unbind_pass"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the pass by itself."""
        n, one = find_pass(edit, self.id)
        if one.bound is None:
            raise Refused("not_bound", f"{one.title} belongs to no set.")
        free = replace(
            one,
            bound=None,
            strength=round(100 * one.share, 2),
            enabled=one.enabled and one.bound.on,
        )
        return Result(with_pass(edit, n, free), f"{one.title} out of {one.bound.name}")


@dataclass(frozen=True)
class LookStep:
    """A pass of a look of one's own."""

    __pydantic_config__ = STRICT

    kind: Name
    settings: GivenValues = field(default_factory=dict)
    strength: Percent = 100.0


@dataclass(frozen=True)
class ApplyLook:
    """A look as a set of ordinary passes, each on top of its stage: a ready one by its ``name``, or one of
    one's own by its ``steps``, called ``name``.
    """

    __pydantic_config__ = STRICT

    name: Name
    strength: Percent = 100.0
    steps: Annotated[tuple[LookStep, ...], Field(min_length=1, max_length=_MOST_STEPS)] | None = (
        None
    )
    op: Literal["apply_look"] = "apply_look"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the set; `Refused` where there is no look of that name."""
        one = look(self.name) if self.steps is None else None
        if one is None and self.steps is None:
            raise Refused("no_such_look", f"There is no look called {self.name!r}.")
        steps: tuple[LookStep | RoutineStep, ...] = (
            one.steps if one is not None else self.steps or ()
        )
        title = one.title if one is not None else self.name
        for step in steps:
            kind = registry.kind(step.kind)
            if kind.single or kind.holds_touches:
                raise Refused("no_strength", f"{kind.title} can't be a part of a look.")
        bound = Bound(bench.new_id(), title, self.strength)
        last = None
        for step in steps:
            edit, n, made = AddPass(step.kind, settings=step.settings).added(edit, bench)
            edit = with_pass(edit, n, replace(made, strength=step.strength, bound=bound))
            last = made.id
        return Result(edit, f"Look: {title}", pass_id=last)

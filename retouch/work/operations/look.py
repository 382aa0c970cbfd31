"""Operations of Look: picking and proposing what is neutral, and a first proposal for all of it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from retouch.edit import Edit, Pass
from retouch.edit.values import STRICT, Coordinate, GivenValues, Ident, Value
from retouch.forms.form import completed
from retouch.passes import registry
from retouch.work import neutral
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
from retouch.work.fitting import fitted
from retouch.work.proposing import proposed

_WHITE = "white_balance"


def with_settings(
    edit: Edit, bench: Bench, kind_name: str, settings: dict[str, Value], pass_id: str | None = None
) -> tuple[Edit, Pass]:
    """The edit with settings in a pass of a kind: the named one, the topmost, or a new one."""
    kind = registry.kind(kind_name)
    own = [p for p in edit.passes if p.kind == kind_name and (pass_id is None or p.id == pass_id)]
    if pass_id is not None and not own:
        find_pass(edit, pass_id)
        raise Refused("other_kind", f"This pass is no {kind.title.lower()}.")
    if own:
        one = replace(own[-1], settings={**own[-1].settings, **settings}, enabled=True)
        one = replace(one, settings=completed(one, one.title).settings)
        return with_pass(edit, find_pass(edit, one.id)[0], one), one
    fit = fitted(kind, bench)
    begun = dict(kind.begins(fit.values)) if kind.begins is not None else {}
    name = free_name(edit, kind.named())
    one = completed(Pass(bench.new_id(), kind.name, name, {**begun, **settings}, fit=fit))
    return inserted(edit, place_for(edit, kind), one), one


@dataclass(frozen=True)
class SetTones:
    """Ranges of tone: in the topmost tone pass, or in a new one where there is none.

    So that presses of a key that follow each other faster than answers come make one pass.
    """

    __pydantic_config__ = STRICT

    settings: GivenValues
    op: Literal["set_tones"] = "set_tones"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the settings; those of others stay."""
        new, one = with_settings(edit, bench, "tone", dict(self.settings))
        titles = {s.name: s.title for s in registry.kind("tone").settings}
        what = ", ".join(titles[n] for n in self.settings)
        return Result(new, f"{one.title}: {what or 'settings'}", pass_id=one.id)


@dataclass(frozen=True)
class PickNeutral:
    """A place of the original that is neutral: the white balance that makes it so."""

    __pydantic_config__ = STRICT

    x: Coordinate
    y: Coordinate
    pass_id: Ident | None = None
    op: Literal["pick_neutral"] = "pick_neutral"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with that temperature and tint; in a new pass where there is none."""
        base, one = with_settings(edit, bench, _WHITE, {}, self.pass_id)
        settings = neutral.at_place(bench, base, one, self.x, self.y)
        new, one = with_settings(base, bench, _WHITE, settings, one.id)
        return Result(new, f"{one.title}: neutral place", pass_id=one.id)


@dataclass(frozen=True)
class ProposeWhite:
    """The white balance that the whites of the eyes, or the picture's greys, ask for."""

    __pydantic_config__ = STRICT

    by: Literal["eyes", "greys"]
    pass_id: Ident | None = None
    op: Literal["propose_white"] = "propose_white"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with that temperature and tint; in a new pass where there is none."""
        base, one = with_settings(edit, bench, _WHITE, {}, self.pass_id)
        below = replace(base, passes=base.passes[: find_pass(base, one.id)[0]])
        if self.by == "eyes":
            colour = neutral.of_eyes(bench.renderer, below, bench.analysis)
        else:
            colour = neutral.of_greys(bench.renderer, below)
        new, one = with_settings(base, bench, _WHITE, neutral.settings_for(colour, one), one.id)
        return Result(new, f"{one.title}: by the {self.by}", pass_id=one.id)


@dataclass(frozen=True)
class ProposeLook:
    """Exposure, highlights, shadows and white balance set subtly, by the picture's own statistics."""

    __pydantic_config__ = STRICT

    op: Literal["propose_look"] = "propose_look"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with ordinary settings of ordinary passes; nobody's skin changes its class."""
        last = None
        for kind, settings in proposed(edit, bench).items():
            edit, one = with_settings(edit, bench, kind, settings)
            last = one.id
        if last is None:
            raise Refused(
                "good_already", "Light and colour are good as they are: nothing to propose."
            )
        return Result(edit, "Propose light and colour", pass_id=last)

"""Operations on what an edit has one of: its frame, and a raw file's development."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from retouch.edit import Edit, Pass
from retouch.edit.values import STRICT, GivenValues, Value
from retouch.forms.form import completed
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, find_pass, inserted, place_for, with_pass


def with_single(
    edit: Edit, bench: Bench, kind: registry.PassKind, settings: Mapping[str, Value]
) -> tuple[Edit, Pass, list[str]]:
    """The edit with settings in its one pass of a kind, switched on; what isn't given stays.

    Also the pass, and the titles of the settings that have changed.
    """
    one = next((p for p in edit.passes if p.kind == kind.name), None)
    new = one or Pass(bench.new_id(), kind.name, kind.named())
    new = replace(new, settings={**new.settings, **settings}, enabled=True, stage_on=True)
    new = replace(new, settings=completed(replace(new, touches=()), new.title).settings)
    before = one.settings if one is not None else completed(Pass("none", kind.name)).settings
    changed = [s.title for s in kind.settings if new.settings[s.name] != before.get(s.name)]
    if one is None:
        return inserted(edit, place_for(edit, kind), new), new, changed
    return with_pass(edit, find_pass(edit, one.id)[0], new), new, changed


@dataclass(frozen=True)
class SetFrame:
    """Frame the picture anew: what isn't given stays, and a frame is made where there is none."""

    __pydantic_config__ = STRICT

    settings: GivenValues
    op: Literal["set_frame"] = "set_frame"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the frame switched on."""
        new, one, changed = with_single(edit, bench, registry.kind("frame"), self.settings)
        what = changed[0].lower() if len(changed) == 1 else "crop" if changed else "as it was"
        return Result(new, f"{one.title}: {what}", pass_id=one.id)


@dataclass(frozen=True)
class SetDevelopment:
    """Develop the raw file anew: what isn't given stays."""

    __pydantic_config__ = STRICT

    settings: GivenValues
    op: Literal["set_development"] = "set_development"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the development switched on."""
        if bench.renderer.pyramid.picture.developed is None:
            raise Refused("no_raw", "This picture is no raw file: there is nothing to develop.")
        new, one, changed = with_single(edit, bench, registry.kind("develop"), self.settings)
        what = ", ".join(changed).lower() or "as it was"
        return Result(new, f"{one.title}: {what}", pass_id=one.id)

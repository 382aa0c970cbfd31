"""Operations on the frame."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from retouch.edit import Edit, Pass
from retouch.edit.values import STRICT, Value
from retouch.forms.form import completed
from retouch.passes import registry
from retouch.work.bench import Bench, Result, find_pass, inserted, place_for, with_pass

_KIND = "frame"


def frame_of(edit: Edit) -> Pass | None:
    """The pass that frames the picture, if there is one."""
    return next((p for p in edit.passes if registry.kind(p.kind).frame), None)


@dataclass(frozen=True)
class SetFrame:
    """Frame the picture anew: what isn't given stays, and a frame is made where there is none."""

    __pydantic_config__ = STRICT

    settings: Mapping[str, Value]
    op: Literal["set_frame"] = "set_frame"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the frame switched on."""
        kind = registry.kind(_KIND)
        one = frame_of(edit)
        new = one or Pass(bench.new_id(), kind.name, kind.named())
        settings = {**new.settings, **self.settings}
        new = replace(new, settings=settings, enabled=True, stage_on=True)
        new = replace(new, settings=completed(replace(new, touches=()), new.title).settings)
        titles = {s.name: s.title for s in kind.settings}
        before = one.settings if one is not None else completed(Pass("none", _KIND)).settings
        changed = [titles[n] for n, v in new.settings.items() if v != before.get(n)]
        what = changed[0].lower() if len(changed) == 1 else "crop" if changed else "as it was"
        label = f"{new.title}: {what}"
        if one is None:
            edit = inserted(edit, place_for(edit, kind), new)
        else:
            edit = with_pass(edit, find_pass(edit, one.id)[0], new)
        return Result(edit, label, pass_id=new.id)

"""Lint on clothing cleared: threads along their line, specks by a heal each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit import Edit, Pass, Touch
from retouch.edit.values import STRICT, Number
from retouch.face.cover import FaceZones
from retouch.face.lint import Lint, lint
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.progress import within
from retouch.work.bench import Bench, Refused, Result, find_pass, with_touches
from retouch.work.operations.passes import AddPass
from retouch.work.seeing import sees
from retouch.work.sources import sourced

# What crossed or lay beside something else is found once that is gone.
_ROUNDS = 3


@dataclass(frozen=True)
class ClearLint:
    """Threads, hairs and specks on everyone's clothing cleared, each a touch; on the picture as it stands.

    ``sensitivity`` 0..100: more finds what is fainter.
    """

    __pydantic_config__ = STRICT

    sensitivity: Annotated[Number, Field(ge=0, le=100)] = 50.0
    op: Literal["clear_lint"] = "clear_lint"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A pass for threads and one for specks, where there are any; `Refused` where nothing is found."""
        analysis, _ = bench.faced(None, "No clothing is known here. Heal what lies on it by hand.")
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        home, count = None, 0
        for k in range(_ROUNDS):
            with within(k / _ROUNDS, (k + 1) / _ROUNDS):
                found = lint(zones, self.sensitivity, sees(bench, edit))
            count += len(found)
            for kind, name, some in (
                ("lint", "Lint", [one for one in found if len(one.path) > 1]),
                ("heal", "Specks on cloth", [one for one in found if len(one.path) == 1]),
            ):
                if some:
                    edit, home = _added(edit, bench, kind, name, some)
        if home is None:
            raise Refused("nothing_here", "Nothing is found that lies on the clothing.")
        label = "Lint cleared" if count == 1 else f"Lint cleared: {count} places"
        return Result(edit, label, pass_id=home.id)


def _added(edit: Edit, bench: Bench, kind: str, name: str, found: list[Lint]) -> tuple[Edit, Pass]:
    """The edit with what was found in the pass of that name, or in a new one."""
    own = next((p for p in edit.passes if p.kind == kind and p.name == name and p.on), None)
    if own is None:
        edit, _, own = AddPass(kind, name=name, areas=()).added(edit, bench)
    n = find_pass(edit, own.id)[0]
    declared = registry.kind(kind)
    touches = []
    for one in found:
        values = {"radius_px": max(1.0, round(2 * one.radius) / 2)}
        touch = completed_touch(Touch(bench.new_id(), one.path, values), declared)
        touches.append(sourced(bench, edit, own, touch) if kind == "heal" else touch)
    return with_touches(edit, n, (*own.touches, *touches)), own

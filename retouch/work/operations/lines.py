"""Straight lines found and kept straight."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Touch
from retouch.edit.values import STRICT
from retouch.face.cover import FaceZones
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.shape.lines import lines_beside
from retouch.work.bench import Bench, Refused, Result, with_touches
from retouch.work.operations.passes import AddPass


@dataclass(frozen=True)
class GuardLines:
    """Long straight lines beside the person found, so that moves keep them straight.

    They take the place of those in the edit's pass of straight lines, if it has one.
    """

    __pydantic_config__ = STRICT

    op: Literal["guard_lines"] = "guard_lines"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A pass with a touch for each line; `Refused` where none are found."""
        zones = None
        if bench.analysis is not None:
            zones = FaceZones(bench.analysis, edit, bench.renderer.pyramid)
        found = lines_beside(bench.renderer.pyramid, zones)
        if not found:
            raise Refused("nothing_here", "No long straight lines are found beside the person.")
        kind = registry.kind("straight_lines")
        touches = tuple(
            completed_touch(Touch(bench.new_id(), ((a, b), (c, d))), kind) for a, b, c, d in found
        )
        n = next((n for n, p in enumerate(edit.passes) if p.kind == "straight_lines"), None)
        if n is None:
            edit, n, _ = AddPass("straight_lines", areas=()).added(edit, bench)
        label = f"{len(found)} straight line{'' if len(found) == 1 else 's'} kept"
        return Result(with_touches(edit, n, touches), label, pass_id=edit.passes[n].id)

"""Straight lines found and kept straight."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from retouch.colour.depth import to_integers
from retouch.edit import Edit, Touch
from retouch.edit.values import STRICT
from retouch.face.cover import FaceZones
from retouch.forms.form import completed_touch
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.shape.lines import find_lines, reduction
from retouch.work.bench import Bench, Refused, Result, find_pass, with_touches
from retouch.work.operations.passes import AddPass

# Where lines belong to the person and move with them.
_PERSON = ("skin", "hair", "clothing")


@dataclass(frozen=True)
class GuardLines:
    """Long straight lines beside the person found, so that moves keep them straight.

    They take the place of those in the edit's pass of straight lines, if it has one.
    """

    __pydantic_config__ = STRICT

    op: Literal["guard_lines"] = "guard_lines"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A pass with a touch for each line; `Refused` where none are found."""
        pyramid = bench.renderer.pyramid
        bounds = pyramid.picture.bounds
        scale = reduction(bounds.width, bounds.height)
        shape = (max(8, round(bounds.height * scale)), max(8, round(bounds.width * scale)))
        image = to_integers(np.clip(pyramid.sampled(bounds, shape), 0, 1), 8)
        person = None
        if bench.analysis is not None and bench.analysis.faces:
            zones = FaceZones(bench.analysis, edit, pyramid)
            whole = Rect(0, 0, bounds.width, bounds.height)
            covers = [zones.cover(z, None, whole, shape) for z in _PERSON]
            person = np.maximum.reduce(covers) > 0.5
        found = find_lines(np.asarray(image, np.uint8), person, shape[1] / bounds.width)
        if not found:
            raise Refused("nothing_here", "No long straight lines are found beside the person.")
        kind = registry.kind("straight_lines")
        touches = tuple(
            completed_touch(Touch(bench.new_id(), ((a, b), (c, d))), kind) for a, b, c, d in found
        )
        n = next((n for n, p in enumerate(edit.passes) if p.kind == "straight_lines"), None)
        if n is None:
            added = AddPass("straight_lines", bench.new_id(), areas=()).perform(edit, bench)
            edit, n = added.edit, find_pass(added.edit, added.pass_id or "")[0]
        label = f"{len(found)} straight line{'' if len(found) == 1 else 's'} kept"
        return Result(with_touches(edit, n, touches), label, pass_id=edit.passes[n].id)

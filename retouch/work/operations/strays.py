"""Stray hairs around brows taken away, one heal each."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT
from retouch.face.cover import FaceZones
from retouch.face.strays import strays
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_touches
from retouch.work.operations.passes import AddPass
from retouch.work.sources import sourced


@dataclass(frozen=True)
class ClearStrays:
    """Single hairs beside the brows healed, each a touch of its own; ``face``: whose, none: everyone's."""

    __pydantic_config__ = STRICT

    face: Face = None
    op: Literal["clear_strays"] = "clear_strays"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """Heals along the hairs, in a pass of their own; `Refused` where none are found."""
        analysis, people = bench.faced(
            self.face, "No face is known here. Heal along the hairs by hand."
        )
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        found = [stray for n in people for stray in strays(zones, n)]
        if not found:
            raise Refused("nothing_here", "No stray hairs are found around the brows.")
        name = "Stray hairs"
        edit, n, one = AddPass("heal", name=name, areas=()).added(edit, bench)
        made: list[Touch] = []
        for stray in found:
            values = {"radius_px": max(2.0, round(2 * stray.radius) / 2)}
            touch = completed_touch(
                Touch(bench.new_id(), stray.path, values), registry.kind("heal")
            )
            made.append(sourced(bench, edit, one, touch))
        label = "A stray hair cleared" if len(made) == 1 else f"{len(made)} stray hairs cleared"
        return Result(with_touches(edit, n, tuple(made)), label, made[-1].id, one.id)

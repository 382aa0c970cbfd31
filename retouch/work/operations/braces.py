"""Braces taken off teeth, one touch for each bracket and piece of wire."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import MOST_SPARED, STRICT
from retouch.face.braces import braces
from retouch.face.cover import FaceZones
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_touches
from retouch.work.operations.passes import AddPass


@dataclass(frozen=True)
class TakeOffBraces:
    """The teeth continued behind brackets and wires, each a touch of its own.

    ``face``: whose; none: everyone who wears braces.
    """

    __pydantic_config__ = STRICT

    face: Face = None
    op: Literal["take_off_braces"] = "take_off_braces"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A pass of touches; `Refused` where no braces are seen."""
        analysis, people = bench.faced(
            self.face, "No face is known here, so no braces can be found."
        )
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        found = [one for n in people if (one := braces(zones, n)) is not None]
        if not found:
            raise Refused(
                "no_braces",
                "No braces are found on these teeth. Fill along them by hand.",
            )
        kind = registry.kind("continued")
        edit, n, home = AddPass("continued", name="Braces", areas=()).added(edit, bench)
        touches = [
            completed_touch(
                Touch(
                    bench.new_id(), line, {},
                    spare=(*b.beside, *(p for p in pieces if p is not line))[:MOST_SPARED],
                ),
                kind,
            )
            for b in found
            for pieces in [(*b.brackets, *b.wires)]
            for line in pieces
        ]  # fmt: skip
        edit = with_touches(edit, n, tuple(touches))
        return Result(edit, "Braces off", touches[-1].id, home.id)

"""Gaps and partings in hair, covered with the hair beside them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import STRICT
from retouch.face.cover import FaceZones
from retouch.face.gaps import gaps
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, free_name, with_touches
from retouch.work.operations.passes import AddPass

# A parting that isn't seen at all looks like a cap.
_OPACITY = 90.0


@dataclass(frozen=True)
class FillGaps:
    """Partings and thin places of the hair covered; ``face``: none: everyone's.

    Each is a patch copied from beside it, across its long way, in a pass of their own whose strength says
    how much of it shows.
    """

    __pydantic_config__ = STRICT

    face: Face = None
    op: Literal["fill_gaps"] = "fill_gaps"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass; `Refused` where no gap is found."""
        analysis, people = bench.faced(self.face, "No face is known here, so no hair is either.")
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        found = [gap for n in people for gap in gaps(zones, n)]
        if not found:
            raise Refused(
                "nothing_here",
                "No gap or parting is found in this hair. Clone hair over it by hand.",
            )
        kind = registry.kind("patch")
        name = free_name(edit, "Gaps in hair")
        edit, n, one = AddPass("patch", name=name, areas=()).added(edit, bench)
        touches = tuple(
            completed_touch(
                Touch(
                    bench.new_id(), g.outline,
                    {"way": "copy", "feather_px": g.soft, "opacity": _OPACITY}, g.source,
                ),
                kind,
            )
            for g in found
        )  # fmt: skip
        count = len(found)
        label = f"Hair over {count} gap{'' if count == 1 else 's'}"
        return Result(with_touches(edit, n, touches), label, touches[-1].id, one.id)

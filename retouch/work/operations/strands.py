"""Loose strands found and thinned out, and the outline of the hair that they leave."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit import Edit, Touch
from retouch.edit.mask import Face
from retouch.edit.values import MOST_TOUCHES, STRICT, Ident, Number, Path
from retouch.face.cover import FaceZones
from retouch.face.loose import Loose, hair_outline, loose_strands
from retouch.forms.form import completed_touch
from retouch.passes import registry
from retouch.passes.hair_outline import FEATHER
from retouch.progress import within
from retouch.shape.mended import mended
from retouch.work.bench import Bench, Refused, Result, find_pass, with_touches
from retouch.work.operations.passes import AddPass
from retouch.work.seeing import sees
from retouch.work.thinning import spared_where_crossed, thinned

# Strands that crossed others are found once those are gone.
_ROUNDS = 3

Share = Annotated[Number, Field(ge=0, le=100)]


@dataclass(frozen=True)
class ClearLoose:
    """Loose strands found on the picture as it stands, each a touch; ``amount`` per cent of them cleared,
    the longest and most crossing first.

    ``face``: whose; none: everyone's.
    """

    __pydantic_config__ = STRICT

    face: Face = None
    amount: Share = 80.0
    op: Literal["clear_loose"] = "clear_loose"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The strands in a pass of their own, or in that there is; `Refused` where none are found."""
        analysis, people = bench.faced(
            self.face, "No face is known here. Draw along the strands by hand."
        )
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        if not any(hair_outline(zones, n) for n in people):
            raise Refused("nothing_here", "No hair is found here. Draw along the strands by hand.")
        lines = edit.touches_of("hair_outline")
        outline = [t.path for t in lines]
        # A feather that was set for the outline is that of the strands that leave it.
        values = {FEATHER: max(float(t.values[FEATHER]) for t in lines)} if lines else {}
        home = next((p for p in edit.passes if p.kind == "strands" and p.on), None)
        if home is None:
            edit, _, home = AddPass("strands", name="Loose strands", areas=()).added(edit, bench)
        n = find_pass(edit, home.id)[0]
        before = len(home.touches)
        for k in range(_ROUNDS):
            found = []
            for i, person in enumerate(people):
                done = k * len(people) + i, k * len(people) + i + 1
                with within(*(d / (_ROUNDS * len(people)) for d in done)):
                    found += loose_strands(zones, person, outline, sees(bench, edit))
            if not found:
                break
            touches = (*edit.passes[n].touches, *_touches(found, bench, values))
            edit = with_touches(edit, n, touches[:MOST_TOUCHES])
        count = len(edit.passes[n].touches) - before
        if not count:
            raise Refused("nothing_here", "No loose strands are found around this hair.")
        edit = with_touches(edit, n, thinned(edit.passes[n].touches, self.amount))
        label = "A loose strand found" if count == 1 else f"{count} loose strands found"
        return Result(edit, label, pass_id=home.id)


@dataclass(frozen=True)
class ThinStrands:
    """So many per cent of the strands of a pass cleared, the longest and most crossing first."""

    __pydantic_config__ = STRICT

    pass_id: Ident
    amount: Share
    op: Literal["thin_strands"] = "thin_strands"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass with other strands on; the rest stays in it, off."""
        n, one = find_pass(edit, self.pass_id)
        if one.kind != "strands":
            raise Refused("not_here", "This pass holds no strands.")
        edit = with_touches(edit, n, thinned(one.touches, self.amount))
        return Result(edit, f"Strands thinned by {self.amount:.0f} %", pass_id=one.id)


@dataclass(frozen=True)
class SwitchStrand:
    """A strand that is cleared kept, or one that is kept cleared."""

    __pydantic_config__ = STRICT

    touch_id: Ident
    op: Literal["switch_strand"] = "switch_strand"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The strand switched; those that cross it spare it, or no longer do."""
        for n, one in enumerate(edit.passes):
            if one.kind == "strands" and any(t.id == self.touch_id for t in one.touches):
                now = tuple(
                    replace(t, enabled=not t.enabled) if t.id == self.touch_id else t
                    for t in one.touches
                )
                own = next(t for t in now if t.id == self.touch_id)
                label = "Strand cleared" if own.enabled else "Strand kept"
                return Result(
                    with_touches(edit, n, spared_where_crossed(now)), label, own.id, one.id
                )
        raise Refused("no_such_touch", "This strand is gone; somebody deleted it.")


@dataclass(frozen=True)
class OutlineHair:
    """The outline of the hair proposed, in place of one that is there; ``face``: none: everyone's."""

    __pydantic_config__ = STRICT

    face: Face = None
    op: Literal["outline_hair"] = "outline_hair"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """A guide with a closed line for each part of the hair; `Refused` where none is found."""
        analysis, people = bench.faced(self.face, "No face is known here, so no hair is either.")
        zones = FaceZones(analysis, edit, bench.renderer.pyramid)
        lines = [line for n in people for line in hair_outline(zones, n)]
        if not lines:
            raise Refused("nothing_here", "No hair is found here.")
        n = next((n for n, p in enumerate(edit.passes) if p.kind == "hair_outline"), None)
        if n is None:
            edit, n, _ = AddPass("hair_outline", areas=()).added(edit, bench)
        kind = registry.kind("hair_outline")
        touches = tuple(completed_touch(Touch(bench.new_id(), line), kind) for line in lines)
        edit = with_touches(edit, n, touches)
        return Result(edit, "Hair outline proposed", pass_id=edit.passes[n].id)


@dataclass(frozen=True)
class MendOutline:
    """A piece of the hair's outline drawn anew: the nearest line goes along ``path`` there."""

    __pydantic_config__ = STRICT

    path: Path
    op: Literal["mend_outline"] = "mend_outline"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The outline mended; `Refused` where there is none."""
        if len(self.path) < 2:
            raise Refused("not_here", "Draw along where the outline belongs.")
        best = None
        for n, one in enumerate(edit.passes):
            if one.kind == "hair_outline":
                for m, touch in enumerate(one.touches):
                    line, away = mended(touch.path, self.path)
                    if best is None or away < best[0]:
                        best = away, n, m, line
        if best is None:
            raise Refused("nothing_here", "No outline of the hair is proposed yet.")
        _, n, m, line = best
        touches = edit.passes[n].touches
        own = replace(touches[m], path=line)
        edit = with_touches(edit, n, (*touches[:m], own, *touches[m + 1 :]))
        return Result(edit, "Hair outline mended", own.id, edit.passes[n].id)


def _touches(found: list[Loose], bench: Bench, values: Mapping[str, float]) -> list[Touch]:
    kind = registry.kind("strands")
    return [
        completed_touch(
            Touch(
                bench.new_id(), s.path, {"radius_px": max(1.0, round(2 * s.radius) / 2), **values}
            ),
            kind,
        )
        for s in found
    ]

"""A routine carried out: ordinary passes, each of which can be changed afterwards."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from retouch.edit import Edit
from retouch.edit.mask import Face, ZoneArea
from retouch.edit.values import STRICT, Name, Percent, Switch
from retouch.face.feature_colours import seen_in
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, find_pass, with_pass
from retouch.work.marks import SURE, to_clear
from retouch.work.operations.glasses import TakeOffGlasses
from retouch.work.operations.passes import AddPass
from retouch.work.operations.touches import AddTouches, NewTouch
from retouch.work.ready import BRIGHT, Step, routine


@dataclass(frozen=True)
class ApplyRoutine:
    """Spots healed and passes on skin made, fitted to the face, as one step.

    ``face``: one person of a group; none: everyone. ``only_face`` leaves neck, arms and hands alone;
    ``bright`` adds the passes of the routine Bright.
    ``spots_from``: spots proposed to be cleared are healed from so much confidence on, per cent; those
    that the user decided to clear always.
    """

    __pydantic_config__ = STRICT

    name: Name
    face: Face = None
    only_face: Switch | None = None
    bright: Switch | None = None
    spots_from: Percent = 100 * SURE
    op: Literal["apply_routine"] = "apply_routine"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The routine's passes, the spots healed first; on known faces only.

        In a group every person gets passes fitted to their own skin, or only the one asked for.
        """
        one = routine(self.name)
        if one is None:
            raise Refused("no_such_routine", f"There is no routine called {self.name!r}.")
        analysis = bench.analysis
        if analysis is None or not analysis.faces:
            raise Refused("no_face", "No face is known here, so a routine can't fit itself to it.")
        if one.glasses:
            return TakeOffGlasses(self.face).perform(edit, bench)
        asked = bench.person(self.face)
        spots = to_clear(analysis, edit, asked, self.spots_from / 100) if one.spots else []
        if spots:
            touches = tuple(
                NewTouch(((x, y),), values={"radius_px": round(2 * r) / 2}) for x, y, r in spots
            )
            edit = AddTouches("heal", touches).perform(edit, bench).edit
        people = range(bench.people) if asked is None else (asked,)
        more = routine(BRIGHT) if self.bright and one.name != BRIGHT else None
        last, left_out = None, []
        for person in people:
            for step in (*one.steps, *(more.steps if more else ())):
                kind = registry.kind(step.kind)
                if kind.by_side and not seen_in(analysis, person, kind.zones):
                    whose = f" of person {person + 1}" if len(people) > 1 else ""
                    left_out.append(kind.title + whose)
                    continue
                edit, last = self._added(edit, step, person, bench)
        if last is None and not spots:
            raise Refused("nothing_here", "Nothing that this routine sees to is seen in this face.")
        missing = f" ({', '.join(left_out)} not seen, left out)" if left_out else ""
        return Result(edit, f"{one.title} routine{missing}", pass_id=last)

    def _added(self, edit: Edit, step: Step, person: int, bench: Bench) -> tuple[Edit, str]:
        """One pass of the routine, for one person where there are several."""
        assert bench.analysis is not None
        several = bench.people > 1
        face = bench.analysis.faces[person].anchor if several else None
        done = AddPass(step.kind, settings=step.settings, face=face).perform(edit, bench)
        n, made = find_pass(done.edit, done.pass_id or "")
        if several:
            made = replace(made, name=f"{made.name}, person {person + 1}")
        if self.only_face:
            areas = tuple(
                replace(a, zone="face_skin") if isinstance(a, ZoneArea) and a.zone == "skin" else a
                for a in made.mask.areas
            )
            made = replace(made, mask=replace(made.mask, areas=areas))
        return with_pass(done.edit, n, replace(made, strength=step.strength)), made.id

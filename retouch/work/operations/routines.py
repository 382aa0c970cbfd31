"""A routine carried out: ordinary passes, each of which can be changed afterwards."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from retouch.edit import Edit, Pass
from retouch.edit.mask import Face, Mask, ZoneArea
from retouch.edit.model import Bound
from retouch.edit.routine import Routine, RoutineStep
from retouch.edit.values import MOST_PX, STRICT, Name, Percent, Switch
from retouch.face.feature_colours import seen_in
from retouch.forms.routines import checked
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_pass
from retouch.work.marks import to_clear
from retouch.work.operations.glasses import TakeOffGlasses
from retouch.work.operations.passes import AddPass
from retouch.work.operations.touches import AddTouches, NewTouch
from retouch.work.ready import BRIGHT, routine
from retouch.work.routines import missing, needs_zones, personal


@dataclass(frozen=True)
class ApplyRoutine:
    """Spots healed and passes made, fitted to the face, as one step: a ready routine by its ``name``, or ``own``.

    ``face``: one person of a group; none: everyone. ``only_face`` leaves neck, arms and hands alone;
    ``bright`` adds the passes of the routine Bright.
    ``spots_from``: spots proposed to be cleared are healed from so much confidence on, per cent, instead of as
    the routine says; those that the user decided to clear always.
    ``strength``: its passes become a set with this one strength; none: they stand by themselves.
    """

    __pydantic_config__ = STRICT

    name: Name = ""
    face: Face = None
    only_face: Switch | None = None
    bright: Switch | None = None
    spots_from: Percent | None = None
    strength: Percent | None = None
    own: Routine | None = None
    op: Literal["apply_routine"] = "apply_routine"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The routine's passes, the spots healed first.

        In a group every person gets passes fitted to their own skin, or only the one asked for. What isn't
        seen is left out and named; `Refused` where nothing is left.
        """
        one = self._routine()
        analysis = bench.analysis
        faces = len(analysis.faces) if analysis is not None else 0
        if not faces and (one.glasses or all(missing(s, analysis) for s in one.steps)):
            raise Refused("no_face", "No face is known here, so a routine can't fit itself to it.")
        if one.glasses:
            return TakeOffGlasses(self.face).perform(edit, bench)
        asked = bench.person(self.face)
        edit, spots = self._healed(one, edit, bench, asked)
        more = routine(BRIGHT) if self.bright and one.name != BRIGHT else None
        steps = (*one.steps, *(more.steps if more else ()))
        people: list[int | None] = list(range(faces)) if asked is None else [asked]
        # Nobody: what is for the picture as a whole can be done all the same.
        people = people or [None]
        made: list[str] = []
        left: list[str] = []
        for person in people:
            for step in steps:
                kind = registry.kind(step.kind)
                own = personal(kind)
                # What is for the picture is done once, what is for one person for the largest face.
                if person != people[0] and (not own or step.person == "largest"):
                    continue
                if own or needs_zones(step):
                    if person is None:
                        left.append(kind.title)
                        continue
                    if (
                        kind.by_side
                        and analysis is not None
                        and not seen_in(analysis, person, kind.zones)
                    ):
                        whose = f" of person {person + 1}" if len(people) > 1 else ""
                        left.append(kind.title + whose)
                        continue
                edit, last = self._added(edit, step, person if own else None, bench)
                made.append(last)
        if not made and not spots:
            raise Refused("nothing_here", "Nothing that this routine sees to is seen in this face.")
        if self.strength is not None and made:
            bound = Bound(bench.new_id(), one.title, self.strength)
            ids = set(made)
            edit = replace(
                edit,
                passes=tuple(replace(p, bound=bound) if p.id in ids else p for p in edit.passes),
            )
        without = f" ({', '.join(left)} not seen, left out)" if left else ""
        return Result(edit, f"{one.title} routine{without}", pass_id=made[-1] if made else None)

    def _routine(self) -> Routine:
        if self.own is not None:
            return replace(self.own, steps=tuple(checked(s) for s in self.own.steps))
        one = routine(self.name)
        if one is None:
            raise Refused("no_such_routine", f"There is no routine called {self.name!r}.")
        return one

    def _healed(
        self, one: Routine, edit: Edit, bench: Bench, asked: int | None
    ) -> tuple[Edit, bool]:
        """The edit with spots healed, and whether there were any."""
        if one.spots_from is None or bench.analysis is None or not bench.analysis.faces:
            return edit, False
        least = one.spots_from if self.spots_from is None else self.spots_from
        spots = to_clear(bench.analysis, edit, asked, least / 100)
        if not spots:
            return edit, False
        touches = tuple(
            NewTouch(((x, y),), values={"radius_px": round(2 * r) / 2}) for x, y, r in spots
        )
        return AddTouches("heal", touches).perform(edit, bench).edit, True

    def _added(
        self, edit: Edit, step: RoutineStep, person: int | None, bench: Bench
    ) -> tuple[Edit, str]:
        """One pass of the routine, for one person where there are several; None: for the picture."""
        several = bench.people > 1 and person is not None
        face = None
        if several and bench.analysis is not None and person is not None:
            face = bench.analysis.faces[person].anchor
        before = {p.name for p in edit.passes}
        edit, n, made = AddPass(step.kind, settings=step.settings, face=face).added(edit, bench)
        if step.mask is not None:
            made = replace(made, mask=_mask(step, made, face))
        if step.name and step.name not in before:
            made = replace(made, name=step.name)
        if several and person is not None:
            made = replace(made, name=f"{made.name}, person {person + 1}")
        if self.only_face:
            areas = tuple(
                replace(a, zone="face_skin") if isinstance(a, ZoneArea) and a.zone == "skin" else a
                for a in made.mask.areas
            )
            made = replace(made, mask=replace(made.mask, areas=areas))
        made = replace(made, strength=step.strength, blend=step.blend)
        return with_pass(edit, n, made), made.id


def _mask(step: RoutineStep, made: Pass, face: Face) -> Mask:
    """The mask of a step on this face; what the kind itself keeps from its mask (marks) stays."""
    assert step.mask is not None
    scale = made.fit.values.get("px_per_mm", 0.0)
    areas = tuple(replace(a, face=face) if isinstance(a, ZoneArea) else a for a in step.mask.areas)

    def px(mm: float) -> float:
        return max(-MOST_PX, min(mm * scale, MOST_PX))

    return replace(
        made.mask, areas=areas, invert=step.mask.invert, grow_px=px(step.mask.grow_mm),
        feather_px=px(step.mask.feather_mm),
    )  # fmt: skip

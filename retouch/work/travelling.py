"""What was decided about a person's marks on other pictures of a session, for this one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from retouch.edit import Edit
from retouch.face import Analysis
from retouch.face.judging import Mark
from retouch.face.people import Form, alike, form_of, matched
from retouch.passes.marks import MARKS
from retouch.work.bench import Bench
from retouch.work.marks import decided
from retouch.work.operations.touches import AddTouches, NewTouch


@dataclass(frozen=True)
class Known:
    """A face of another picture, with its marks and what was decided about each ("keep", "clear", or "").

    ``said``: the user says that its picture shows the same person; then its likest face does.
    """

    form: Form
    marks: tuple[Mark, ...]
    decisions: tuple[str, ...]
    said: bool = False

    def to_data(self) -> dict[str, Any]:
        """Plain data, for orders."""
        return {
            "points": np.round(self.form.points, 2).tolist(), "px_per_mm": self.form.px_per_mm,
            "marks": [{**m.__dict__} for m in self.marks], "decisions": list(self.decisions), "said": self.said,
        }  # fmt: skip


def known_of(data: dict[str, Any]) -> Known:
    """The same from plain data."""
    form = Form(np.asarray(data["points"], np.float32), float(data["px_per_mm"]))
    marks = tuple(Mark(**m) for m in data["marks"])
    return Known(form, marks, tuple(data["decisions"]), bool(data.get("said", False)))


def known_faces(analysis: Analysis, edit: Edit, healed: bool = True) -> list[Known]:
    """The faces of a picture with what was decided about their marks; ``healed`` ones count as to be cleared."""
    out = []
    told = decided(analysis, edit)
    for n, face in enumerate(analysis.faces):
        own = [d for d in told if d.face == n]
        said = tuple(
            "clear" if healed and d.cleared
            else d.decision if d.touch_id is not None and d.decision in ("keep", "clear")
            else ""
            for d in own
        )  # fmt: skip
        out.append(Known(form_of(face), tuple(d.mark for d in own), said))
    return out


@dataclass(frozen=True)
class Seen:
    """A mark of this picture on the person's others: its id, on how many of them it is seen, what was decided there.

    ``decision`` is what most of those that decided say; "" where nobody did, or this picture's user has.
    """

    id: str
    seen_on: int
    of: int
    decision: str


def seen_elsewhere(analysis: Analysis, edit: Edit, known: Sequence[Known]) -> list[Seen]:
    """Each mark of a picture, as the person's other pictures have it."""
    told = decided(analysis, edit)
    out = []
    for n, face in enumerate(analysis.faces):
        form = form_of(face)
        own = [d for d in told if d.face == n]
        marks = [d.mark for d in own]
        same = [k for k in known if k.said or alike(form, marks, k.form, k.marks)]
        counts, votes = Counter[int](), [Counter[str]() for _ in own]
        for other in same:
            for i, j, _ in matched(marks, form, other.marks, other.form):
                counts[i] += 1
                if other.decisions[j]:
                    votes[i][other.decisions[j]] += 1
        for i, d in enumerate(own):
            # Whoever would keep it is heard first: what is gone is hard to bring back.
            most = max(votes[i].items(), key=lambda v: (v[1], v[0] == "keep"), default=("", 0))[0]
            free = d.touch_id is None and not d.cleared
            out.append(Seen(d.id, counts[i], len(same), most if free else ""))
    return out


def with_decisions(edit: Edit, bench: Bench, known: Sequence[Known]) -> tuple[Edit, int]:
    """The edit with what was decided elsewhere decided here, too; and about how many marks."""
    if bench.analysis is None or not known:
        return edit, 0
    marks = {d.id: d for d in decided(bench.analysis, edit)}
    touches = [
        NewTouch(
            ((marks[s.id].mark.x, marks[s.id].mark.y),),
            values={"decision": s.decision, "radius_px": max(marks[s.id].mark.radius, 0.5)},
        )
        for s in seen_elsewhere(bench.analysis, edit, known)
        if s.decision
    ]
    if not touches:
        return edit, 0
    done = AddTouches(MARKS.name, tuple(touches)).perform(edit, bench)
    return done.edit, len(touches)

"""Proportions changed by taking hold of a part of a face."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit import Edit
from retouch.edit.mask import Face
from retouch.edit.values import STRICT, Name, Number
from retouch.errors import EditError
from retouch.passes import registry
from retouch.work.bench import Bench, Result, with_pass
from retouch.work.operations.passes import AddPass


@dataclass(frozen=True)
class PullProportions:
    """Numbers of a person's proportions changed ``by`` so much, within their range.

    They go to the person's pass of proportions that is on, or to a new one; ``face``: none: the largest.
    """

    __pydantic_config__ = STRICT

    by: Annotated[Mapping[Name, Number], Field(min_length=1, max_length=64)]
    face: Face = None
    op: Literal["pull_proportions"] = "pull_proportions"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with the numbers changed; `Refused` where no face is known."""
        kind = registry.kind("proportions")
        known = {s.name: s for s in kind.settings}
        unknown = [n for n in self.by if n not in known]
        if unknown:
            raise EditError(f"There is no proportion called {unknown[0]!r}.")
        edit, n = self._home(edit, bench)
        one = edit.passes[n]
        own = {name: float(one.settings[name]) for name in self.by}  # type: ignore[arg-type]
        changed = {
            name: round(min(max(own[name] + by, known[name].low), known[name].high), 2)
            for name, by in self.by.items()
        }
        edit = with_pass(edit, n, replace(one, settings={**one.settings, **changed}))
        words = ", ".join(known[name].title.lower() for name in self.by)
        return Result(edit, f"{one.title}: {words}", pass_id=one.id)

    def _home(self, edit: Edit, bench: Bench) -> tuple[Edit, int]:
        number = bench.person(self.face) or 0
        for n, one in enumerate(edit.passes):
            if one.kind == "proportions" and one.on and bench.analysis is not None:
                who = bench.analysis.who(one.fit.face) if one.fit.face is not None else 0
                if who == number:
                    return edit, n
        edit, n, _ = AddPass("proportions", face=self.face).added(edit, bench)
        return edit, n

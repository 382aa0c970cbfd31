"""What the natural check finds beyond its limit, eased by the pass that causes it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit import Edit, Pass
from retouch.edit.values import STRICT, Name
from retouch.natural.finding import Finding
from retouch.natural.shaped import MOVES
from retouch.passes import registry
from retouch.work.bench import Bench, Refused, Result, with_pass
from retouch.work.natural_check import excess, one_reading

# How finely a strength is looked for, per cent.
_STEPS = 5
# A pass that takes less of the excess than this part isn't what causes it.
_CAUSES = 0.1

Face = Annotated[int, Field(strict=True, ge=0, le=1000)]


@dataclass(frozen=True)
class EaseReading:
    """Take the pass that takes a reading beyond its limit back, by as much as is needed.

    ``reading``, ``face`` and ``zone`` name one of the natural check's. The pass is the topmost without which it
    lies within, or else the one without which the excess is least; that goes to strength 0 then, and it is said.
    """

    __pydantic_config__ = STRICT

    reading: Name
    face: Face | None = None
    zone: Name = ""
    op: Literal["ease_reading"] = "ease_reading"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The pass at another strength; `Refused` where nothing is beyond, or no pass causes it."""
        start = self._of(edit, bench)
        if start is None or not start.amber:
            raise Refused("within", "This reading lies within its limit now.")
        best: tuple[float, int] | None = None
        # From the top: what lies above a pass has to be worked out anew without it.
        for n in reversed(range(len(edit.passes))):
            one = edit.passes[n]
            moves = registry.kind(one.kind).shape
            if not one.acts or moves != (self.reading in MOVES) or registry.kind(one.kind).guide:
                continue
            without = self._of(with_pass(edit, n, replace(one, enabled=False)), bench)
            left = excess(without)
            if best is None or left < best[0]:
                best = (left, n)
            if left <= 0:
                break
        if best is None or best[0] > (1 - _CAUSES) * excess(start):
            raise Refused(
                "no_cause", "No single pass causes this. Ease several, or go back in the history."
            )
        n = best[1]
        one = edit.passes[n]
        strength = self._strength(edit, n, bench) if best[0] <= 0 else 0.0
        eased = with_pass(edit, n, replace(one, strength=strength))
        still = ", still beyond: another pass has a part in it" if best[0] > 0 else ""
        return Result(eased, f"{one.title} eased to {strength:g} %{still}", pass_id=one.id)

    def _strength(self, edit: Edit, n: int, bench: Bench) -> float:
        """The largest strength, in whole steps, at which the reading lies within its limit."""
        one: Pass = edit.passes[n]
        low, high = 0, int(one.strength // _STEPS)
        while low < high:
            middle = (low + high + 1) // 2
            tried = with_pass(edit, n, replace(one, strength=float(middle * _STEPS)))
            if excess(self._of(tried, bench)) <= 0:
                low = middle
            else:
                high = middle - 1
        return float(min(low * _STEPS, one.strength))

    def _of(self, edit: Edit, bench: Bench) -> Finding | None:
        """The reading of an edit."""
        analysis = bench.analysis
        if self.face is not None and (analysis is None or self.face >= len(analysis.faces)):
            raise Refused("no_face", "This face isn't known any more.")
        return one_reading(bench.renderer, edit, analysis, self.reading, self.face, self.zone)

"""Matching a picture to another one of its session, by ordinary passes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.edit import Edit
from retouch.edit.values import STRICT, Name
from retouch.work.bench import Bench, Refused, Result
from retouch.work.operations.look import with_settings
from retouch.work.series import apart, match_of, settings_for, skin_colour

# The passes see the picture, not the skin's median alone: what is left is gone after so many rounds.
_ROUNDS = 3
# Nearer than this (CIEDE2000) nothing is to be seen.
_THERE = 0.4


@dataclass(frozen=True)
class MatchSeries:
    """Exposure and white balance with which a person's skin has the colour that it has on another portrait."""

    __pydantic_config__ = STRICT

    portrait: Name
    op: Literal["match_series"] = "match_series"

    def perform(self, edit: Edit, bench: Bench) -> Result:
        """The edit with both set; `Refused` where nobody is on both pictures."""
        other = bench.elsewhere(self.portrait)
        match = match_of(edit, bench, other)
        before = now = apart(match.own, match.wanted)
        if before < _THERE:
            raise Refused(
                "there_already", f"The skin has that colour already (CIEDE2000 {before:.1f})."
            )
        own, best, last = match.own, edit, None
        for _ in range(_ROUNDS):
            based, white = with_settings(best, bench, "white_balance", {})
            based, light = with_settings(based, bench, "light", {})
            whites, lights = settings_for(own, match.wanted, white, light)
            tried, _ = with_settings(based, bench, "white_balance", whites, white.id)
            tried, light = with_settings(tried, bench, "light", lights, light.id)
            assert bench.analysis is not None
            found = skin_colour(bench.renderer, tried, bench.analysis, match.face)
            assert found is not None
            left = apart(found, match.wanted)
            if left >= now:
                break
            own, best, now, last = found, tried, left, light.id
            if left < _THERE:
                break
        if last is None:
            raise Refused("no_nearer", "Exposure and white balance bring the skin no nearer.")
        said = f"Matched to {other.name or 'the other'}: skin CIEDE2000 {before:.1f} to {now:.1f}"
        return Result(best, said, pass_id=last)

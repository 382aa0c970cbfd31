"""Routines that ship: files of the same form as a user's own, in ``routines/``.

Their amounts are subtle: each can just be seen beside the original, looked at on the demo portraits at 1:1.
Those on skin bring it nearer to the truth of the demo people in every band from spots to blotches
(docs/benchmarks.md); what is calm already hardly changes.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

from retouch.edit.routine import Routine
from retouch.forms.routines import routine_loads

# The routine that others may take along.
BRIGHT = "bright"
_FOLDER = Path(__file__).parent / "routines"
# In the order in which they are offered.
_NAMES = ("light", "everyday", "strong", BRIGHT, "no-glasses")


@cache
def ready_routines() -> tuple[Routine, ...]:
    """Those that ship, the lightest first."""
    return tuple(routine_loads((_FOLDER / f"{n}.json").read_text("utf-8"))[0] for n in _NAMES)


def routine(name: str) -> Routine | None:
    """The ready routine of that name."""
    return next((r for r in ready_routines() if r.name == name), None)

"""Routines that ship: passes with sizes in millimetres, zones and strengths that fit any face."""

from __future__ import annotations

from dataclasses import dataclass, field

from retouch.edit.values import Value


@dataclass(frozen=True)
class Step:
    """One pass of a routine: its kind, settings other than the defaults, and its strength."""

    kind: str
    settings: dict[str, Value] = field(default_factory=dict)
    strength: float = 100.0


@dataclass(frozen=True)
class Routine:
    """``spots``: marks that are proposed to be cleared are healed first.

    ``stage`` is where it is offered; ``glasses``: they are taken off.
    """

    name: str
    title: str
    meaning: str
    steps: tuple[Step, ...]
    spots: bool = True
    stage: str = "even"
    glasses: bool = False


# The routine that others may take along.
BRIGHT = "bright"


def _skin(part: float, middle: float, broad: float) -> tuple[Step, ...]:
    """The passes on skin with so much of their usual amounts; bands in per cent."""
    fine = -2.0 if part <= 1 else -4.0
    return (
        Step("skin_bands", {"fine": fine, "keep_texture": False, "middle": middle, "broad": broad}),
        Step("redness", {"amount": 50.0 * part, "tolerance": 5.0, "lift": 100.0}),
        Step("shine", {"amount": min(30.0 * part, 40.0), "threshold": 14.0}),
        Step("shadows", {"amount": 10.0 * part, "least": 2.5, "cast": min(85.0 * part, 100.0)}),
    )


# Subtle: each can just be seen beside the original (looked at on the demo portraits at 1:1).
_BRIGHT = (
    Step("eye_whites", {"lighter": 25.0, "yellow": 40.0, "red": 40.0, "veins": 40.0}),
    Step("irises", {"lighter": 30.0, "richer": 15.0, "depth": 25.0, "rim": 10.0}),
    Step("brows", {"defined": 15.0}),
    Step("lips", {"richer": 12.0, "even": 20.0, "dryness": 15.0}),
    Step("teeth", {"yellow": 50.0, "lighter": 30.0, "even": 25.0}),
)
# Amounts found on the demo portraits: nearer to their truth in every band from spots to blotches
# (docs/benchmarks.md); what is calm already hardly changes.
ROUTINES = (
    Routine("light", "Light", "Hardly to be seen: spots, and a breath of the rest.",
            _skin(0.5, -3.0, 0.0)),
    Routine("everyday", "Everyday", "Spots, bands, redness, shine, under the eyes: subtle.",
            _skin(1.0, -4.0, 0.0)),
    Routine("strong", "Strong", "The same and blemishes, for large unrest or a smooth look.",
            (Step("blemishes", {"amount": 25.0, "variety": 4.0}), *_skin(1.25, -7.0, -1.5))),
    Routine(BRIGHT, "Bright", "Eyes, lips and teeth, subtle: what isn't seen is left out.", _BRIGHT,
            spots=False, stage="features"),
    Routine("no-glasses", "Glasses off", "Frame, its shadow and reflections on the lenses removed.", (),
            spots=False, stage="features", glasses=True),
)  # fmt: skip


def routine(name: str) -> Routine | None:
    """The routine of that name."""
    return next((r for r in ROUTINES if r.name == name), None)

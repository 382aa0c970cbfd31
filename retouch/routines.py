"""Routines that ship: passes with sizes in millimetres, zones and strengths that fit any face."""

from __future__ import annotations

from dataclasses import dataclass, field

from retouch.edit.model import Value


@dataclass(frozen=True)
class Step:
    """One pass of a routine: its kind, settings other than the defaults, and its strength."""

    kind: str
    settings: dict[str, Value] = field(default_factory=dict)
    strength: float = 100.0


@dataclass(frozen=True)
class Routine:
    """``spots``: marks that are proposed to be cleared are healed first."""

    name: str
    title: str
    meaning: str
    steps: tuple[Step, ...]
    spots: bool = True


def _skin(strength: float) -> tuple[Step, ...]:
    return (
        Step("skin_bands", strength=strength),
        Step("redness", strength=strength),
        Step("shine", strength=strength),
        Step("shadows", strength=strength),
    )


ROUTINES = (
    Routine("light", "Light", "Hardly to be seen: spots, and a breath of the rest.", _skin(45.0)),
    Routine("everyday", "Everyday", "Spots, bands, redness, shine, under the eyes: subtle.",
            _skin(80.0)),
    Routine("strong", "Strong", "The same, for large unrest or a smooth look.",
            (Step("skin_bands", {"middle": -45.0, "broad": -35.0}),
             Step("redness", {"amount": 75.0}), Step("shine", {"amount": 65.0}),
             Step("shadows", {"amount": 60.0}))),
)  # fmt: skip


def routine(name: str) -> Routine | None:
    """The routine of that name."""
    return next((r for r in ROUTINES if r.name == name), None)

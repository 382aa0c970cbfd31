"""A routine: what was worked out on one portrait, as data that fits itself to other faces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from retouch.edit.mask import RangeArea, ZoneArea
from retouch.edit.values import MOST_AREAS, STRICT, Blend, Name, Number, Percent, Switch, Value
from retouch.plain import plain

FORMAT: Literal["mellow-glass-routine"] = "mellow-glass-routine"
VERSION: Literal[1] = 1
MOST_STEPS, MOST_DELIVERIES = 60, 8
# Masks grow and fade by no more than this (mm of the face).
_MOST_MM = 100.0


def _titled(name: str) -> str:
    made = plain(name)
    if not made:
        raise ValueError("a name has a letter that can be seen")
    return made


Title = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(_titled)]
Note = Annotated[str, Field(max_length=1000)]
PresetName = Annotated[str, Field(min_length=1, max_length=60)]
Spot = Annotated[ZoneArea | RangeArea, Field(discriminator="kind")]
Millimetres = Annotated[Number, Field(ge=-_MOST_MM, le=_MOST_MM)]


@dataclass(frozen=True)
class RoutineMask:
    """Where a step acts: areas that are found in any picture (zones, ranges of colour), combined as in masks."""

    __pydantic_config__ = STRICT

    areas: Annotated[tuple[Spot, ...], Field(max_length=MOST_AREAS)] = ()
    invert: Switch = False
    grow_mm: Millimetres = 0.0
    feather_mm: Annotated[Number, Field(ge=0, le=_MOST_MM)] = 0.0


@dataclass(frozen=True)
class RoutineStep:
    """One pass of a routine.

    Sizes among its ``settings`` are millimetres of the face; what the face gives (scale, colours of skin) is
    asked of each face anew. ``mask``: None stands for the one that the kind begins with. ``person``: for each
    one in a group, or for the largest face alone.
    """

    __pydantic_config__ = STRICT

    kind: Name
    settings: Annotated[Mapping[str, Value], Field(max_length=100)] = field(default_factory=dict)
    strength: Percent = 100.0
    blend: Blend = "normal"
    name: Name = ""
    mask: RoutineMask | None = None
    person: Literal["each", "largest"] = "each"


@dataclass(frozen=True)
class Routine:
    """Steps that are taken one after the other.

    ``spots_from``: marks that are proposed to be cleared are healed first, from so much confidence on
    (per cent); None: no mark is. ``glasses``: they are taken off. ``stage`` is where it is offered. ``revision``
    counts its changes. ``deliveries`` name the presets that its results are delivered by.
    """

    __pydantic_config__ = STRICT

    title: Title
    steps: Annotated[tuple[RoutineStep, ...], Field(max_length=MOST_STEPS)] = ()
    note: Note = ""
    spots_from: Percent | None = None
    stage: Literal["look", "even", "features", "shape", "finish"] = "even"
    glasses: Switch = False
    deliveries: Annotated[tuple[PresetName, ...], Field(max_length=MOST_DELIVERIES)] = ()
    name: Name = ""
    revision: Annotated[int, Field(strict=True, ge=1, le=1_000_000)] = 1
    format: Literal["mellow-glass-routine"] = FORMAT
    version: Literal[1] = VERSION

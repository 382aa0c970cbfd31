"""An edit: plain immutable data that says everything that was done to a portrait.

These classes are the one definition of that data: parsing and its checks, the published JSON Schema
(docs/formats/edit.schema.json), the API's types and the rows of the database follow from them.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from retouch.edit.mask import EVERYTHING, EVERYWHERE, Area, Face, Ground, Mask
from retouch.edit.values import (
    EMPTY,
    MOST_MESH,
    MOST_PASSES,
    MOST_PINS,
    MOST_SPARED,
    MOST_TOUCHES,
    STRICT,
    Blend,
    Content,
    Ident,
    Name,
    Number,
    Offset,
    Outline,
    Path,
    Percent,
    Pin,
    Point,
    Pressure,
    Switch,
    TouchValues,
    Values,
)

VERSION: Literal[2] = 2


@dataclass(frozen=True)
class Elsewhere:
    """Another original that a touch takes from, and how it lies over this one.

    Parameters
    ----------
    picture : str
        The other file by its content; "" for this original itself.
    pins : tuple of (x, y, u, v)
        Pixels (x, y) of this original lie on pixels (u, v) of the other: two or more, between and
        around which a smooth map goes (`retouch.borrowing.pins`).
    """

    __pydantic_config__ = STRICT

    picture: Content | Literal[""]
    pins: Annotated[tuple[Pin, ...], Field(min_length=2, max_length=MOST_PINS)]


@dataclass(frozen=True)
class Touch:
    """One thing done by hand.

    Parameters
    ----------
    id : str
        Unique within the edit.
    path : tuple of (x, y)
        One point for a dab, more for a stroke; pixels of the original, centres at +0.5.
    values : mapping
        What the kind of pass declares for its touches (``radius_px``, ``softness``, …).
        Not to be modified.
    source : (int, int), optional
        Offset in pixels from the place to its source. None: not chosen yet.
    spare : tuple of outlines
        Closed outlines that the touch takes nothing from: neither pixels nor, for a heal, tone.
    enabled : bool
        A touch that is off changes nothing and is kept.
    pressure : tuple of numbers
        How hard a pen was pressed at each place of the path, 0..1; empty: alike everywhere.
    elsewhere : Elsewhere, optional
        It takes from another original: places of its source are those of this picture laid over
        that one.
    """

    __pydantic_config__ = STRICT

    id: Ident
    path: Path
    values: TouchValues = field(default_factory=dict)
    source: Offset | None = None
    spare: Annotated[tuple[Outline, ...], Field(max_length=MOST_SPARED)] = ()
    enabled: Switch = True
    elsewhere: Elsewhere | None = None
    pressure: Pressure = ()


@dataclass(frozen=True)
class Fit:
    """What a face gave to a pass: kept with it, so that the edit alone says what is computed.

    ``face`` names the person by a place of their face; None: nobody in particular. ``values`` are
    what the kind of pass declares as fitted (scale, colour of skin and lips); not to be modified.
    ``points`` are those of the face's mesh, where the pass moves features, and ``depths`` how far each of
    them lies behind the picture's plane (pixels).
    """

    __pydantic_config__ = STRICT

    face: Face = None
    values: Annotated[Mapping[str, Number], EMPTY] = field(default_factory=dict)
    points: Annotated[tuple[Point, ...], Field(max_length=MOST_MESH)] = ()
    depths: Annotated[tuple[Number, ...], Field(max_length=MOST_MESH)] = ()

    @cached_property
    def mesh_key(self) -> str:
        """Fingerprint of the mesh, made once: there are hundreds of points."""
        return hashlib.blake2b(
            repr((self.points, self.depths)).encode(), digest_size=12
        ).hexdigest()


@dataclass(frozen=True)
class Bound:
    """The set that a pass belongs to: passes of the same ``id`` are one set, and hold the same of it.

    ``strength`` (per cent) scales that of each pass; a set that isn't ``on`` changes nothing. ``area`` is where the
    whole set acts: the masks of its passes have it, too.
    """

    __pydantic_config__ = STRICT

    id: Ident
    name: Name
    strength: Percent = 100.0
    on: Switch = True
    area: Area | None = None


@dataclass(frozen=True)
class PassHead:
    """A pass without its touches and the strokes of its mask: what histories and lists tell of it."""

    __pydantic_config__ = STRICT

    id: Ident
    kind: Name
    name: Name = ""
    settings: Values = field(default_factory=dict)
    mask: Ground = EVERYWHERE
    strength: Percent = 100.0
    blend: Blend = "normal"
    enabled: Switch = True
    stage_on: Switch = True
    fit: Annotated[Fit, EMPTY] = field(default_factory=Fit)
    bound: Bound | None = None


@dataclass(frozen=True)
class Pass(PassHead):
    """One correction: ``kind`` names an entry of the registry, ``strength`` is 0..100 per cent.

    It acts when it is ``enabled`` and neither its stage (``stage_on``) nor the set it is ``bound`` to is
    switched off. ``fit`` is what the face gave to it.
    """

    mask: Mask = EVERYTHING
    touches: Annotated[tuple[Touch, ...], Field(max_length=MOST_TOUCHES)] = ()

    @property
    def head(self) -> PassHead:
        """The pass without its touches and the strokes of its mask."""
        ground = {f.name: getattr(self.mask, f.name) for f in fields(Ground)}
        own = {f.name: getattr(self, f.name) for f in fields(PassHead)}
        return PassHead(**{**own, "mask": Ground(**ground)})

    @property
    def on(self) -> bool:
        """Whether it is switched on, itself and with its stage and its set."""
        return self.enabled and self.stage_on and (self.bound is None or self.bound.on)

    @property
    def share(self) -> float:
        """How much of it acts, 0..1: its own strength by that of its set."""
        own = self.strength / 100
        return own if self.bound is None else own * self.bound.strength / 100

    @property
    def acts(self) -> bool:
        """Whether it can change anything."""
        return self.on and self.share > 0

    @property
    def title(self) -> str:
        """What it is called."""
        return self.name or self.kind


@dataclass(frozen=True)
class Edit:
    """All passes of a portrait, the lowest first.

    ``analysis`` names, by its content, the analysis of the faces that the edit was made on; empty:
    none has been needed.
    """

    __pydantic_config__ = STRICT

    passes: Annotated[tuple[Pass, ...], Field(max_length=MOST_PASSES)] = ()
    version: Literal[2] = VERSION
    analysis: Annotated[str, Field(max_length=64)] = ""

    def touches_of(self, kind: str) -> list[Touch]:
        """All touches of a kind of pass that are switched on, themselves and with their passes."""
        return [t for p in self.passes if p.kind == kind and p.on for t in p.touches if t.enabled]

    @property
    def needs_faces(self) -> bool:
        """Whether what it computes hangs on the analysis of the faces."""
        return any(p.acts and p.mask.zones for p in self.passes)

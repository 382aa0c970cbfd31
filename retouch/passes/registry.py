"""The kinds of pass there are. A new kind is one module in this folder that calls `register`."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, Literal, TypeAlias

from retouch.edit.model import Pass
from retouch.edit.values import Value
from retouch.errors import EditError
from retouch.passes.readings import Reads
from retouch.passes.settings import Setting
from retouch.passes.ways import (
    Broad,
    Develop,
    Frame,
    Framed,
    Guide,
    Pixels,
    Shape,
    Touches,
    Values,
    Way,
    Whole,
)

Stage: TypeAlias = Literal["look", "clear", "even", "features", "shape", "finish", "deliver"]

STAGES: tuple[Stage, ...] = ("look", "clear", "even", "features", "shape", "finish", "deliver")
# What a pass makes of a place hangs on all of the picture; more pixels than any has.
EVERYWHERE = 1 << 24
STAGE_TITLES = {s: s.capitalize() for s in STAGES}


@dataclass(frozen=True)
class PassKind:
    """A kind of pass, with everything that is said about it anywhere.

    Attributes
    ----------
    way
        How it works (`retouch.passes.ways`).
    settings
        What is set by hand.
    fitted
        What the face gives to a pass of this kind: settings whose ``auto`` names it.
    usual_name : str
        What a pass is called that appears by itself; empty: the title.
    zone_name : str
        … and where it belongs to one zone: the zone's title stands for ``{zone}``.
    zones, besides : tuple of str
        Where a new pass acts if a face is known, and which of that it leaves out.
    clears : tuple of (zone, per cent)
        Zones that a new pass leaves alone, each so far; else it acts everywhere.
    spares_marks : bool
        A new pass leaves out marks that are to stay, too.
    finds : bool
        It acts only in places that it finds, which can be shown.
    begins : (fitted values) -> settings, optional
        What a new pass begins with besides its usual settings.
    reads : optional
        What its card tells in numbers (`retouch.passes.readings`).
    by_side : bool
        It may act on one side of a face alone, and is for one person.
    last : bool
        A new pass stands above all others, whatever their stage: those may change what it sees to.
    lacks : (values) -> str or None, optional
        What a pass would need of the face and doesn't have, in a sentence; None: nothing.
    upset_by : (pass above) -> str or None, optional
        What a pass above it does to its result, in a sentence; None: nothing.
    """

    name: str
    title: str
    meaning: str
    stage: Stage
    way: Way
    settings: tuple[Setting, ...] = ()
    fitted: tuple[Setting, ...] = ()
    usual_name: str = ""
    zone_name: str = "{zone}: {title}"
    zones: tuple[str, ...] = ()
    besides: tuple[str, ...] = ()
    clears: tuple[tuple[str, float], ...] = ()
    spares_marks: bool = False
    finds: bool = False
    begins: Callable[[Mapping[str, float]], Mapping[str, Value]] | None = None
    reads: Reads | None = None
    by_side: bool = False
    last: bool = False
    lacks: Callable[[Values], str | None] | None = None
    upset_by: Callable[[Pass], str | None] | None = None

    @property
    def touches(self) -> Touches | None:
        """The way of a kind whose touches change pixels; None for others."""
        return self.way if isinstance(self.way, Touches) else None

    @property
    def guide(self) -> bool:
        """Whether it changes no pixel."""
        return isinstance(self.way, Guide)

    @property
    def frame(self) -> bool:
        """Whether it frames the picture: it has no mask and no strength, and an edit has one."""
        return isinstance(self.way, Frame)

    @property
    def shape(self) -> bool:
        """Whether it moves parts of the picture."""
        return isinstance(self.way, Shape)

    @property
    def meshed(self) -> bool:
        """Whether it needs the points of a face's mesh."""
        return isinstance(self.way, Shape) and self.way.meshed

    @property
    def single(self) -> bool:
        """Whether an edit has one such pass at most, wherever it stands, without mask or strength."""
        return isinstance(self.way, Frame | Develop)

    @property
    def holds_touches(self) -> bool:
        """Whether its passes hold touches, of whatever use."""
        return isinstance(self.way, Touches | Guide) or bool(self.touch_settings)

    @property
    def touch_settings(self) -> tuple[Setting, ...]:
        """Declared values of each touch; none where there are no touches."""
        return self.way.settings if isinstance(self.way, Touches | Guide | Shape) else ()

    @property
    def least_points(self) -> int:
        """Points that a touch's path needs."""
        return self.way.least_points if isinstance(self.way, Touches | Guide | Shape) else 1

    def margin(self, values: Values) -> int:
        """Pixels of the original around a place that a pass is given with it."""
        return self.way.reach(values) if isinstance(self.way, Pixels) else 0

    def reach(self, values: Values) -> int:
        """Pixels of the original around a place that what a pass makes there hangs on."""
        return self.margin(values) if self.whole is None else EVERYWHERE

    @property
    def whole(self) -> Whole | None:
        """What its passes work out of the whole picture first; None: nothing."""
        return self.way.whole if isinstance(self.way, Pixels) else None

    def broad(self, values: Values) -> Broad | None:
        """How it sees what lies far around a place, if otherwise than the rest."""
        return self.way.broad(values) if isinstance(self.way, Pixels) else None

    @property
    def cut(self) -> bool:
        """Whether its mask is worked on by itself, and doesn't bound what it changes."""
        return isinstance(self.way, Pixels) and self.way.cut

    @property
    def framed(self) -> bool:
        """Whether it acts on the framed picture, after all others."""
        return isinstance(self.way, Framed)

    @cached_property
    def _usual_fit(self) -> dict[str, Any]:
        return {s.name: s.default for s in self.fitted}

    def values(self, one: Pass) -> Values:
        """All that a pass of this kind is computed with: by hand, and what the face gave."""
        if not self.fitted and not one.fit.values:
            return one.settings
        return {**self._usual_fit, **one.settings, **one.fit.values}

    def named(self, zone: str = "") -> str:
        """What a new pass is called, perhaps of one zone (its title)."""
        if zone:
            return self.zone_name.format(zone=zone, title=self.title.lower())
        return self.usual_name or self.title


_kinds: dict[str, PassKind] = {}


def register(kind: PassKind) -> PassKind:
    """Add a kind; its name must be new."""
    if kind.name in _kinds:
        raise ValueError(f"two kinds of pass are called {kind.name!r}")
    _kinds[kind.name] = kind
    return kind


@lru_cache(maxsize=1)
def _load() -> None:
    package = importlib.import_module("retouch.passes")
    for module in pkgutil.iter_modules(package.__path__):
        importlib.import_module(f"retouch.passes.{module.name}")


def all_kinds() -> list[PassKind]:
    """Every kind, in the order of the stages."""
    _load()
    return sorted(_kinds.values(), key=lambda k: (STAGES.index(k.stage), k.name))


def find(name: Any) -> PassKind | None:
    """The kind of that name, if there is one."""
    _load()
    return _kinds.get(name) if isinstance(name, str) else None


def kind(name: str) -> PassKind:
    """The kind of that name, or an `EditError`."""
    found = find(name)
    if found is None:
        raise EditError(f"There is no kind of pass called {name!r}.")
    return found

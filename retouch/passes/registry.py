"""The kinds of pass there are. A new kind is one module in this folder that calls `register`."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from retouch.colour.curve import looked_up
from retouch.edit.model import Touch
from retouch.errors import EditError
from retouch.geometry import EMPTY, Rect
from retouch.passes.settings import Setting

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Reader = Callable[[Rect], Array]
# Where no source may lie: for a rectangle within the picture, (h, w) uint8, other than 0.
Avoid = Callable[[Rect], NDArray[np.uint8]]
Values = Mapping[str, float | bool | str]
Stage = Literal["look", "clear", "even", "features", "shape", "finish", "deliver"]

STAGES: tuple[Stage, ...] = ("look", "clear", "even", "features", "shape", "finish", "deliver")


@dataclass(frozen=True)
class TouchKind:
    """How a kind of pass treats the touches it holds. Everything is computed at full size.

    Attributes
    ----------
    settings
        Declared values of each touch.
    writes : (touch, bounds) -> Rect
        The pixels the touch can change.
    reads : (touch, settings, bounds) -> list of Rect
        The pixels it looks at, all within ``bounds``.
    render : (read, touch, settings, bounds) -> ndarray (h, w, 3) float32
        The change over ``writes``, to be added.
    propose : (read, touch, settings, bounds, most, avoid) -> list of (dx, dy), optional
        Sources for the touch, best first; None where touches need no source. ``avoid`` may be
        None.
    least_points : int
        Points that a touch's path needs: 3 where it is an outline.
    slow : bool
        A touch can take seconds; what it changes is worth keeping on disk.
    """

    settings: tuple[Setting, ...]
    writes: Callable[[Touch, Rect], Rect]
    reads: Callable[[Touch, Values, Rect], list[Rect]]
    render: Callable[[Reader, Touch, Values, Rect], Array]
    propose: (
        Callable[[Reader, Touch, Values, Rect, int, Avoid | None], list[tuple[int, int]]] | None
    )
    least_points: int = 1
    slow: bool = False


@dataclass(frozen=True)
class Place:
    """Where an array of pixels lies: ``rect`` in pixels of its ``level``.

    ``inner`` is the part of it that is wanted; the rest is margin. None: all of it.
    """

    rect: Rect
    level: int
    inner: Rect | None = None

    @property
    def wanted(self) -> Rect:
        """What a pass has to give."""
        return self.inner or self.rect

    def own(self, image: Array) -> Array:
        """The wanted part of an array over ``rect``."""
        return np.ascontiguousarray(image[self.wanted.within(self.rect)])

    @property
    def scale(self) -> float:
        """Pixels of the level per pixel of the original."""
        return 1.0 / (1 << self.level)


def _nothing(read: Reader, touch: Touch, settings: Values, bounds: Rect) -> Array:
    return np.zeros((0, 0, 3), np.float32)


def guiding(settings: tuple[Setting, ...]) -> TouchKind:
    """Touches that change no pixel: they tell the program something about the picture."""
    return TouchKind(settings, lambda t, b: EMPTY, lambda t, s, b: [], _nothing, None)


@dataclass(frozen=True)
class PassKind:
    """A kind of pass.

    ``curve(settings, wide)`` is the table (`retouch.colour.curve`) of a pass that gives each value
    another wherever it lies, for pictures of ``wide`` profiles or others; None: it changes nothing. Such a pass has ``pixels`` made of it, too.

    ``pixels(image, settings, place)`` computes a pass without touches on float32 (h, w, 3) and
    gives the part ``place.wanted``, around which there are ``reach(settings)`` pixels of margin at
    full size on each side; the same pixel comes out the same whatever rectangle is asked for. A
    kind with touches has ``touches`` instead. A ``guide`` changes no pixel: it holds what the user said about the
    picture (zones, marks, faces), so that this is undone, stored and carried like all else. ``zones`` are
    where a new pass of the kind acts, if a face is known: without the zones ``besides``, and with
    ``spares_marks`` without the marks that are to stay.
    """

    name: str
    title: str
    meaning: str
    stage: Stage
    settings: tuple[Setting, ...] = ()
    touches: TouchKind | None = None
    pixels: Callable[[Array, Values, Place], Array] | None = None
    curve: Callable[[Values, bool], Array | None] | None = None
    reach: Callable[[Values], int] = lambda settings: 0
    guide: bool = False
    zones: tuple[str, ...] = ()
    besides: tuple[str, ...] = ()
    spares_marks: bool = False


def along(curve: Callable[[Values, bool], Array | None]) -> Callable[[Array, Values, Place], Array]:
    """The ``pixels`` of a pass that follows a curve."""

    def pixels(image: Array, settings: Values, place: Place) -> Array:
        table, own = curve(settings, False), place.own(image)
        return own if table is None else looked_up(own, table)

    return pixels


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


def kind(name: str) -> PassKind:
    """The kind of that name, or an `EditError`."""
    _load()
    if name not in _kinds:
        raise EditError(f"There is no kind of pass called {name!r}.")
    return _kinds[name]

"""The ways in which a kind of pass works: by touches, on pixels, along a curve, as a guide, as
moves, a frame, or a development."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from retouch.colour.arrays import Working
from retouch.edit.model import Pass, Touch
from retouch.geometry import Rect
from retouch.heal import Footprint
from retouch.memory import Sized
from retouch.passes.settings import Setting
from retouch.picture.raw import Development
from retouch.shape.composed import Move
from retouch.skin.smooth import Cells
from retouch.warp.frame import Wish

if TYPE_CHECKING:
    from retouch.face import Analysis
    from retouch.picture import Pyramid

Array = NDArray[np.float32]
Mask = NDArray[np.bool_]
Reader = Callable[[Rect], Working]
# Where no source may lie: for a rectangle within the picture, (h, w) uint8, other than 0.
Avoid = Callable[[Rect], NDArray[np.uint8]]
# Only what is seen on this level or a coarser one is made apart.
_LEAST_BROAD = 2
# Checked against what is declared before anything is computed with them.
Values = Mapping[str, Any]


@dataclass(frozen=True)
class Place:
    """Where an array of pixels lies: ``rect`` in pixels of its ``level``.

    ``inner`` is the part of it that is wanted; the rest is margin. None: all of it. ``cover`` (h, w) is
    the pass's mask over ``rect``, for a pass that is *cut*; None: it lets everything through. ``hairy``
    (h, w) is where hair and beard are there; None: not known. ``others`` gives other originals that the pass
    takes from; `EditError` says in words which isn't here. ``around`` is what a pass with a *broad* look is
    given on levels finer than that look's; None: what lies around is in the array itself. ``whole`` is what a
    pass works out of the whole picture (`Whole`); ``hand`` (h, w), which that is told, says what was painted on its
    mask: 1 where it is to let through, -1 where it isn't, 0 where nothing was; None: nothing at all.
    """

    rect: Rect
    level: int
    inner: Rect | None = None
    cover: NDArray[np.float32] | None = None
    hairy: NDArray[np.float32] | None = None
    others: Callable[[str], Pyramid] | None = None
    around: Cells | None = None
    whole: Any = None
    hand: NDArray[np.float32] | None = None

    @property
    def wanted(self) -> Rect:
        """What a pass has to give."""
        return self.inner or self.rect

    def own(self, image: Working) -> Array:
        """The wanted part of an array over ``rect``."""
        return np.ascontiguousarray(image[self.wanted.within(self.rect)])

    @property
    def scale(self) -> float:
        """Pixels of the level per pixel of the original."""
        return 1.0 / (1 << self.level)


@dataclass(frozen=True)
class Touches:
    """A kind of pass that holds touches which change pixels, each computed at full size.

    Attributes
    ----------
    settings
        Declared values of each touch.
    writes : (touch, bounds) -> Rect
        The pixels the touch can change.
    reads : (touch, values, bounds) -> list of Rect
        The pixels it looks at, all within ``bounds``; ``values`` are the pass's.
    render : (read, touch, values, bounds) -> ndarray (h, w, 3) float32
        The change over ``writes``, to be added to working values; what is read lies in 0..1.
    propose : (read, touch, values, bounds, most, avoid) -> list of (dx, dy), optional
        Sources for the touch, best first; None where touches need no source. ``avoid`` may be
        None.
    place : (touch) -> Footprint
        What the hand covered.
    least_points : int
        Points that a touch's path needs: 3 where it is an outline.
    slow : bool
        A touch can take seconds; what it changes is worth keeping on disk, and is computed before
        it is saved.
    copies : bool
        It shows its source, so one place can be seen twice.
    clears : bool
        Marks under a touch are gone.
    prepare : (analysis, touch, pyramid) -> Touch, optional
        A new touch with what the face tells about it.
    afresh : bool
        It is prepared again when it moves or grows: what was around the old place says nothing.
    order : (spots) -> list of int, optional
        In which order dabs (x, y, radius) made at once are best made.
    hint : (read, touch, bounds) -> str or None, optional
        A sentence about a touch that may not look as it is meant.
    """

    settings: tuple[Setting, ...]
    writes: Callable[[Touch, Rect], Rect]
    reads: Callable[[Touch, Values, Rect], list[Rect]]
    render: Callable[[Reader, Touch, Values, Rect], Array]
    place: Callable[[Touch], Footprint]
    propose: (
        Callable[[Reader, Touch, Values, Rect, int, Avoid | None], list[tuple[int, int]]] | None
    ) = None
    least_points: int = 1
    slow: bool = False
    copies: bool = False
    clears: bool = False
    prepare: Callable[[Analysis, Touch, Pyramid], Touch] | None = None
    afresh: bool = False
    order: Callable[[Sequence[tuple[float, float, float]]], list[int]] | None = None
    hint: Callable[[Reader, Touch, Rect], str | None] | None = None


@dataclass(frozen=True)
class Guide:
    """A kind of pass that changes no pixel: it holds what the user said about the picture.

    So that this is undone, stored and carried like all else. ``rezones``: zones of the face may be
    others after a touch.
    """

    settings: tuple[Setting, ...]
    least_points: int = 1
    rezones: bool = False


@dataclass(frozen=True)
class Broad:
    """How a pass sees what lies far around a place: the picture below it on ``level``.

    On finer levels its margins have ``near`` pixels of the original; the rest is ``Place.around``.
    """

    level: int
    near: int = 0


def broad_look(cell: int, near: int = 0) -> Broad | None:
    """The look of a pass that sees what is around in cells of so many pixels to a side, a power of two.

    None where cells are so small that a picture of them would be hardly less work.
    """
    level = cell.bit_length() - 1
    return Broad(level, near) if level >= _LEAST_BROAD else None


@dataclass(frozen=True)
class Whole:
    """What a pass works out of all of the picture below it, once, before it makes any part of its own.

    ``make(image, values, place)`` is given all of the picture on ``level(values, bounds)``, its mask, and where hair
    is if it is *cut*; what it gives tells its size (``nbytes``) and is kept.
    """

    level: Callable[[Values, Rect], int]
    make: Callable[[Working, Values, Place], Sized]


@dataclass(frozen=True)
class Pixels:
    """A kind of pass without touches.

    ``make(image, values, place)`` computes it on working values (h, w, 3), 0..1, and gives the part
    ``place.wanted``, around which there are ``reach(values)`` pixels of margin at full size on each
    side; the same pixel comes out the same whatever rectangle is asked for. One that is
    ``open_ended`` is given what lies beyond 0..1, too. One that is ``cut`` is given its mask
    (``place.cover``) and finds its own edge by it, told where hair is if its mask has zones
    (``place.hairy``): what it makes is laid over as it is. ``opacity`` tells
    what of the wanted part isn't see-through, (h, w) 0..1, of one that makes some of it so, which views show on
    white; None: nothing is. ``broad`` is how it sees what lies far around; None: as it sees the rest. ``whole`` is
    what it works out of the whole picture first (``place.whole``); None: nothing.
    """

    make: Callable[[Working, Values, Place], Working]
    reach: Callable[[Values], int] = lambda values: 0
    broad: Callable[[Values], Broad | None] = lambda values: None
    open_ended: bool = False
    cut: bool = False
    opacity: Callable[[Working, Values, Place], Array | None] | None = None
    whole: Whole | None = None


@dataclass(frozen=True)
class Shape:
    """A kind of pass that moves parts of the picture: fields of displacements, composed with the frame
    into the one map, after all pixel passes wherever the pass stands among them.

    Attributes
    ----------
    moves : (pass, values) -> list of Move
        What it moves, in order; its mask and strength say how much of that.
    settings
        Declared values of each touch; none where it has no touches.
    least_points : int
        Points that a touch's path needs.
    meshed : bool
        It needs the points of a face's mesh (``Fit.points``).
    prepare : (analysis, touch, pyramid) -> Touch, optional
        A touch, new or changed, with what the face tells about it.
    where : str
        What it moves, in a word; empty: told by where the largest shift lies.
    """

    moves: Callable[[Pass, Values], list[Move]]
    settings: tuple[Setting, ...] = ()
    least_points: int = 1
    meshed: bool = False
    prepare: Callable[[Analysis, Touch, Pyramid], Touch] | None = None
    where: str = ""


@dataclass(frozen=True)
class Curve:
    """A kind of pass that gives each value another wherever it lies.

    ``table(values, wide)`` is made for `retouch.colour.curve`, for pictures of ``wide`` profiles or
    others; None: it changes nothing.
    """

    table: Callable[[Values, bool], Array | None]


@dataclass(frozen=True)
class Frame:
    """A kind of pass that frames the picture: its geometry, which is resampled once after all
    pixel passes wherever the pass stands among them.

    ``wish(values)`` says how the picture is to be framed. An edit has one such pass at most.
    """

    wish: Callable[[Values], Wish]


@dataclass(frozen=True)
class Develop:
    """A kind of pass that says how a raw file is developed, below all other passes.

    ``how(values)`` is the development. An edit has one such pass at most; other pictures don't heed
    it.
    """

    how: Callable[[Values], Development]


@dataclass(frozen=True)
class FramePlace:
    """Where an array of pixels lies in the framed picture.

    ``x``, ``y`` is its corner in pixels of the framed picture, which is ``width`` x ``height`` large;
    ``scale`` is pixels of the array per pixel of it.
    """

    x: float
    y: float
    scale: float
    width: int
    height: int


@dataclass(frozen=True)
class Framed:
    """A kind of pass that acts on the framed picture, after all others: a vignette, a border.

    ``make(image, values, place)`` computes it on working values (h, w, 3) and gives as many; each
    pixel hangs on its own place and value alone. Its mask, strength and blend mode are as of other
    passes.
    """

    make: Callable[[Working, Values, FramePlace], Working]


Way = Touches | Guide | Pixels | Curve | Frame | Develop | Framed | Shape

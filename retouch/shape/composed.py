"""Moves one after the other, as one map that never folds."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from retouch.geometry import Rect
from retouch.warp.field import Field
from retouch.warp.steps import Points

# Areas shrink to this part at least, and grow by as much at most: the determinant of the map's Jacobian.
LEAST_AREA = 0.2
# How finely the part of a move that fits is looked for.
_HALVINGS = 8
# Maps that are kept.
_KEPT = 64

# How much of a move acts at places (n, 2) of the original, 0..1; None: all of it everywhere.
Cover = Callable[[Points], NDArray[np.float64]] | None


@dataclass(frozen=True)
class Made:
    """What became of a move: the part of it that was made, less than 1 where more would fold, and the
    largest shift in pixels.
    """

    name: str
    share: float
    most: float


@dataclass(frozen=True, eq=False)
class Composed:
    """Fields in the order in which they act, and what became of each move."""

    fields: tuple[Field, ...] = ()
    made: tuple[Made, ...] = ()
    key: str = ""

    def back(self, points: Points) -> Points:
        """Where places (n, 2) of what is shown lie in the original."""
        for field in reversed(self.fields):
            points = field.back(points)
        return points

    def forth(self, points: Points) -> Points:
        """Where places (n, 2) of the original are shown."""
        for field in self.fields:
            points = field.forth(points)
        return points


@dataclass(frozen=True)
class Move:
    """One thing that is moved: ``name`` is the touch's or the pass's, ``key`` what it hangs on.

    ``field`` makes its field on top of what was moved before; None: nothing moves. ``part`` makes that
    of a part of it, 0..1, where that isn't the same displacements made smaller. ``guard`` changes fields so
    that straight lines stay straight.
    """

    name: str
    key: str
    field: Callable[[Composed], Field | None]
    share: float = 1.0
    cover: Cover = None
    part: Callable[[Composed, float], Field | None] | None = None
    guard: Callable[[Field, Composed], Field] | None = None


_known: OrderedDict[str, Composed] = OrderedDict()
_lock = Lock()


def composed(moves: Sequence[Move]) -> Composed:
    """All moves, each on top of those before it."""
    out = Composed()
    for move in moves:
        key = hashlib.blake2b(
            f"{out.key}|{move.key}|{move.share}".encode(), digest_size=12
        ).hexdigest()
        with _lock:
            found = _known.get(key)
            if found is not None:
                _known.move_to_end(key)
        if found is None:
            found = _with(out, move, key)
            with _lock:
                _known[key] = found
                while len(_known) > _KEPT:
                    _known.popitem(last=False)
        out = found
    # A map that is known may have been made for another edit, whose passes had other names.
    made = tuple(replace(m, name=move.name) for m, move in zip(out.made, moves, strict=True))
    return out if made == out.made else replace(out, made=made)


def _with(below: Composed, move: Move, key: str) -> Composed:
    def of(share: float) -> Field | None:
        if share < 1 and move.part is not None:
            field = move.part(below, share)
        else:
            field = move.field(below)
            field = field.scaled(share) if field is not None and share < 1 else field
        if field is not None and move.guard is not None:
            field = move.guard(field, below)
        if field is not None and move.cover is not None:
            field = field.scaled(held(field, below, move.cover))
        return field.scaled(move.share) if field is not None and move.share != 1 else field

    share, field = fitting(below, of)
    if field is None or field.most == 0:
        return Composed(below.fields, (*below.made, Made(move.name, share, 0.0)), key)
    return Composed((*below.fields, field), (*below.made, Made(move.name, share, field.most)), key)


def held(
    field: Field, below: Composed, cover: Callable[[Points], NDArray[np.float64]]
) -> NDArray[np.float64]:
    """How much of each node's displacement acts: nothing next to what is held, so that what lies
    between nodes is held, too."""
    places = field.places
    rows, columns = places.shape[:2]
    own = cover(below.back(places.reshape(-1, 2))).reshape(rows, columns)
    wide = np.pad(own, 1, mode="edge")
    around = [wide[i : i + rows, j : j + columns] for i in range(3) for j in range(3)]
    return np.minimum.reduce(around)


def areas(below: Composed, field: Field) -> NDArray[np.float64]:
    """The determinant of the whole map's Jacobian at the cells of a field that is put on top."""
    places = field.places
    at = below.back((places + field.shifts).reshape(-1, 2)).reshape(places.shape)
    across, down = np.diff(at, axis=1), np.diff(at, axis=0)
    out = []
    # Each corner of a cell has a triangle of its own; all of them have to keep their side.
    for x in (across[:-1], across[1:]):
        for y in (down[:, :-1], down[:, 1:]):
            out.append(x[..., 0] * y[..., 1] - x[..., 1] * y[..., 0])
    return np.stack(out) / field.step**2


def fitting(below: Composed, of: Callable[[float], Field | None]) -> tuple[float, Field | None]:
    """The largest part of a move, 0..1, with which the map on top of others doesn't fold, and its field."""

    def fits(field: Field | None) -> bool:
        if field is None or field.most == 0:
            return True
        found = areas(below, field)
        return bool(found.min() > LEAST_AREA and found.max() < 1 / LEAST_AREA)

    whole = of(1.0)
    if whole is None or fits(whole):
        return 1.0, whole
    # Counted in steps. The same displacements made smaller tell nearly where the limit lies and cost little:
    # what a part of the move makes itself is asked for around there alone.
    steps = 1 << _HALVINGS
    low, high = _limit(0, steps, lambda n: fits(whole.scaled(n / steps)))
    found: dict[int, Field | None] = {0: None}

    def fitting_part(n: int) -> bool:
        found[n] = of(n / steps)
        return fits(found[n])

    reach = 1
    while low > 0 and not fitting_part(low):
        low, high, reach = max(low - reach, 0), low, 2 * reach
    while high < steps and high not in found and fitting_part(high):
        low, high, reach = high, min(high + reach, steps), 2 * reach
    low, _ = _limit(low, high, fitting_part)
    return low / steps, found[low]


def _limit(low: int, high: int, fits: Callable[[int], bool]) -> tuple[int, int]:
    """The last number from ``low`` on that fits and the first that doesn't; ``low`` fits, ``high`` doesn't."""
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low, high


def lattice(rect: Rect, step: float) -> tuple[float, float, int, int]:
    """A field's first node, rows and columns, to cover a rectangle with a border of its own."""
    x, y = (np.floor(v / step) * step - step for v in (rect.x0, rect.y0))
    columns, rows = (
        int(np.ceil((b - a) / step)) + 3 for a, b in ((x, rect.x1), (y, rect.y1))
    )  # fmt: skip
    return float(x), float(y), rows, columns


def nodes_of(rect: Rect, step: float) -> tuple[float, float, Points]:
    """The first node, and the places (rows, columns, 2) of a lattice over a rectangle."""
    x, y, rows, columns = lattice(rect, step)
    xs, ys = x + step * np.arange(columns), y + step * np.arange(rows)
    return x, y, np.stack(np.meshgrid(xs, ys), -1)


def from_places(x: float, y: float, step: float, sources: Points) -> Field:
    """A field by where each node (rows, columns, 2) comes from; its border is held."""
    rows, columns = sources.shape[:2]
    xs, ys = x + step * np.arange(columns), y + step * np.arange(rows)
    shifts = sources - np.stack(np.meshgrid(xs, ys), -1)
    shifts[[0, -1]] = 0
    shifts[:, [0, -1]] = 0
    return Field(x, y, step, np.ascontiguousarray(shifts, np.float64))

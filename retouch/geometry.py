"""Integer rectangles in pixels of the original (x right, y down, half open)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Rect:
    """The pixels with ``x0 <= x < x1`` and ``y0 <= y < y1``."""

    x0: int
    y0: int
    x1: int
    y1: int

    @property
    def width(self) -> int:
        return max(0, self.x1 - self.x0)

    @property
    def height(self) -> int:
        return max(0, self.y1 - self.y0)

    @property
    def empty(self) -> bool:
        return self.x1 <= self.x0 or self.y1 <= self.y0

    def clip(self, other: Rect) -> Rect:
        return Rect(
            max(self.x0, other.x0),
            max(self.y0, other.y0),
            min(self.x1, other.x1),
            min(self.y1, other.y1),
        )

    def nearest(self, other: Rect) -> Rect:
        """The pixels of another rectangle that lie in this one, or nearest to it: one at least each way."""
        x0 = min(max(self.x0, other.x0), other.x1 - 1)
        y0 = min(max(self.y0, other.y0), other.y1 - 1)
        x1, y1 = min(self.x1, other.x1), min(self.y1, other.y1)
        return Rect(x0, y0, max(x1, x0 + 1), max(y1, y0 + 1))

    def meets(self, other: Rect) -> bool:
        return (
            self.x0 < other.x1
            and other.x0 < self.x1
            and self.y0 < other.y1
            and other.y0 < self.y1
            and not self.empty
            and not other.empty
        )

    def union(self, other: Rect) -> Rect:
        if self.empty:
            return other
        if other.empty:
            return self
        return Rect(
            min(self.x0, other.x0),
            min(self.y0, other.y0),
            max(self.x1, other.x1),
            max(self.y1, other.y1),
        )

    def grow(self, by: int) -> Rect:
        return Rect(self.x0 - by, self.y0 - by, self.x1 + by, self.y1 + by)

    def shift(self, dx: int, dy: int) -> Rect:
        return Rect(self.x0 + dx, self.y0 + dy, self.x1 + dx, self.y1 + dy)

    def align(self, step: int) -> Rect:
        """The smallest rectangle around this one whose corners are multiples of ``step``."""
        return Rect(
            self.x0 // step * step,
            self.y0 // step * step,
            -(-self.x1 // step) * step,
            -(-self.y1 // step) * step,
        )

    def without(self, part: Rect) -> list[Rect]:
        """What is left of this rectangle beside a part of it, in at most four that don't meet."""
        found = (
            Rect(self.x0, self.y0, self.x1, part.y0), Rect(self.x0, part.y1, self.x1, self.y1),
            Rect(self.x0, part.y0, part.x0, part.y1), Rect(part.x1, part.y0, self.x1, part.y1),
        )  # fmt: skip
        return [r for r in found if not r.empty]

    def reduced(self, level: int) -> Rect:
        """This rectangle, aligned, in pixels of pyramid level ``level`` (each level halves)."""
        a = self.align(1 << level)
        return Rect(a.x0 >> level, a.y0 >> level, a.x1 >> level, a.y1 >> level)

    def within(self, outer: Rect) -> tuple[slice, slice]:
        """Where this rectangle lies in the array of another, rows first."""
        return (
            slice(self.y0 - outer.y0, self.y1 - outer.y0),
            slice(self.x0 - outer.x0, self.x1 - outer.x0),
        )

    def as_tuple(self) -> tuple[int, int, int, int]:
        return self.x0, self.y0, self.x1, self.y1


EMPTY = Rect(0, 0, 0, 0)


def union_all(rects: Iterable[Rect]) -> Rect:
    out = EMPTY
    for rect in rects:
        out = out.union(rect)
    return out

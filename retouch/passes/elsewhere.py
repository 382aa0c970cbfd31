"""Touches that take from another original: how what they read reaches it."""

from __future__ import annotations

from collections.abc import Callable

from retouch.borrowing.pins import laid, taken
from retouch.colour.arrays import Working
from retouch.edit.model import Edit, Touch
from retouch.errors import EditError
from retouch.geometry import Rect
from retouch.passes import registry
from retouch.passes.settings import counts
from retouch.passes.ways import Reader
from retouch.picture import Pyramid

# The picture of a content; `EditError` says in words where it isn't here.
Others = Callable[[str], Pyramid]


def nowhere(picture: str) -> Pyramid:
    """Where no other pictures are known."""
    raise EditError(f"This edit takes from another picture ({picture[:12]}…) that isn't here.")


class Both:
    """What a touch reads: this picture, and ``other``, the one that it takes from, laid over it."""

    def __init__(self, read: Reader, other: Reader) -> None:
        self._read = read
        self.other = other

    def __call__(self, rect: Rect) -> Working:
        return self._read(rect)


def pictures_of(edit: Edit) -> frozenset[str]:
    """The contents of other originals that what acts in an edit takes from."""
    found: set[str] = set()
    for one in edit.passes:
        if not one.acts:
            continue
        found |= {t.elsewhere.picture for t in one.touches if t.enabled and t.elsewhere is not None}
        declared = registry.kind(one.kind).settings
        found |= {str(one.settings.get(s.name, "")) for s in declared if s.type == "picture" and counts(s, one.settings)}  # fmt: skip
    return frozenset(found - {""})


def reader_of(read: Reader, touch: Touch, others: Others) -> Reader:
    """What a touch reads with: a reader of this picture, and of another one if it takes from that."""
    elsewhere = touch.elsewhere
    if elsewhere is None:
        return read
    map_ = laid(elsewhere.pins)
    return Both(read, lambda rect: taken(others(elsewhere.picture), map_, rect))


def other_of(read: Reader) -> Reader:
    """The reader of the other picture that belongs to a touch's own one."""
    if not isinstance(read, Both):
        raise EditError("A touch that takes from another picture was read without it.")
    return read.other

"""How the edit of a raw file wants it developed."""

from __future__ import annotations

from retouch.edit.model import Edit
from retouch.passes import registry
from retouch.passes.ways import Develop
from retouch.picture.raw import USUAL, Development


def development_of(edit: Edit) -> Development:
    """The development that an edit asks for; the usual one where it says nothing."""
    for one in reversed(edit.passes):
        way = registry.kind(one.kind).way
        if isinstance(way, Develop) and one.on:
            return way.how(one.settings)
    return USUAL

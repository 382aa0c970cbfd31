"""Areas of masks, with how they join said last."""

from __future__ import annotations

from dataclasses import replace
from typing import TypeVar

from retouch.edit.mask import GradientArea, OutlineArea, RangeArea, ZoneArea

A = TypeVar("A", ZoneArea, RangeArea, OutlineArea, GradientArea)


def area(shape: A, way: str = "add", invert: bool = False) -> A:
    """The area joined in a way."""
    return replace(shape, way=way, invert=invert)

"""What a window wants to see."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from retouch.bands import Sizes

_USUAL = Sizes(8.0)

Show = Literal[
    "result", "original", "without", "take", "step", "mask", "tint", "effect", "band", "boosted",
    "change", "clipped", "proof", "gamut",
]  # fmt: skip


@dataclass(frozen=True)
class ViewRequest:
    """What to show: ``x``, ``y`` corner in pixels of the framed picture, ``scale`` screen pixels per
    pixel of it (at most 1), ``width`` x ``height`` screen pixels.

    ``show``: the ``result`` or the ``original``; the result ``without`` a pass, or of a ``take``
    or ``step`` of the history; a pass's ``mask`` in white, as a ``tint`` over the result, or its
    ``effect`` alone; a ``band`` of detail; ``boosted`` colour; the ``change`` so far; what is ``clipped``; the result as a
    ``proof`` of a printer's profile, or what lies outside of its ``gamut``. ``of`` names the pass, take, step or
    band, or how it is printed (`viewing.printed_by`); the sizes are those of bands. ``unframed``: the whole picture, not
    its frame.
    """

    x: float
    y: float
    scale: float
    width: int
    height: int
    show: Show = "result"
    of: str = ""
    moving: bool = False
    sizes: Sizes = _USUAL
    unframed: bool = False

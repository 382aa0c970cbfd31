"""Heal: texture from a source, tone and light from the surroundings."""

from retouch.heal.copying import Array, clone
from retouch.heal.footprint import Footprint
from retouch.heal.heal import examine, heal, propose, read_rects, write_rect
from retouch.heal.outline import Outline, crosses_edge, outline
from retouch.heal.source import Candidate, search_rect
from retouch.heal.study import Study
from retouch.heal.tone import ring_rect

__all__ = [
    "Array",
    "Candidate",
    "Footprint",
    "Outline",
    "Study",
    "clone",
    "crosses_edge",
    "examine",
    "heal",
    "outline",
    "propose",
    "read_rects",
    "ring_rect",
    "search_rect",
    "write_rect",
]

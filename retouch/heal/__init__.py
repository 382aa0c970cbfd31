"""Heal: texture from a source, tone and light from the surroundings."""

from retouch.heal.footprint import Footprint
from retouch.heal.heal import examine, heal, propose, read_rects, write_rect
from retouch.heal.source import Candidate

__all__ = ["Candidate", "Footprint", "examine", "heal", "propose", "read_rects", "write_rect"]

"""Finding what serves a need that is said in plain words."""

from retouch.needs.search import Way, ways_for

__all__ = ["Way", "ways_for"]

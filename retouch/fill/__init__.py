"""Fill: a place replaced by what should be behind it."""

from retouch.fill.synthesis import fill

__all__ = ["fill"]

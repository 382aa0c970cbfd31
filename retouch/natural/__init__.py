"""Measuring how natural a result still is."""

from retouch.natural.texture import Reading, readings

__all__ = ["Reading", "readings"]

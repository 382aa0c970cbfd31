"""Edits: the data, and their JSON form."""

from retouch.edit.model import Edit, Mask, Pass, Touch

__all__ = ["Edit", "Mask", "Pass", "Touch"]

"""Edits: the data, and their JSON form."""

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Pass, Touch

__all__ = ["Edit", "Mask", "Pass", "Touch"]

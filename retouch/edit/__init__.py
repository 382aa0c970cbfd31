"""Edits: the data, defined once (`retouch.forms` reads and writes them)."""

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Fit, Pass, Touch

__all__ = ["Edit", "Fit", "Mask", "Pass", "Touch"]

"""Edits: the data, defined once (`retouch.forms` reads and writes them)."""

from retouch.edit.mask import Mask
from retouch.edit.model import Edit, Elsewhere, Fit, Pass, Touch

__all__ = ["Edit", "Elsewhere", "Fit", "Mask", "Pass", "Touch"]

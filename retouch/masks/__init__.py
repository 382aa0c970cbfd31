"""Masks of passes as arrays: zones, ranges, outlines and gradients combined, then painted on."""

from retouch.masks.draw import Masks, extent
from retouch.masks.ground import Zones

__all__ = ["Masks", "Zones", "extent"]

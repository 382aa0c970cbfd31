"""What the analysis of a face tells touches: what to keep from, and what to begin with."""

from retouch.guidance.avoiding import avoidance
from retouch.guidance.holding import hold_features
from retouch.guidance.preparing import OtherSide, keep_to_zone, prepare

__all__ = ["OtherSide", "avoidance", "hold_features", "keep_to_zone", "prepare"]

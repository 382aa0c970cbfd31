"""What the analysis of a face tells touches: what to keep from, what to begin with, what to clear."""

from retouch.guidance.avoiding import avoidance
from retouch.guidance.marks import Decided, decided, to_clear, to_keep
from retouch.guidance.masks import usual_mask
from retouch.guidance.preparing import keep_to_zone, prepare

__all__ = [
    "Decided",
    "avoidance",
    "decided",
    "keep_to_zone",
    "prepare",
    "to_clear",
    "to_keep",
    "usual_mask",
]

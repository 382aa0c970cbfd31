"""Where each pixel of the framed picture comes from: one map, one resampling."""

from retouch.warp.frame import Framing, framed
from retouch.warp.steps import Projective, Step
from retouch.warp.warp import Warp

__all__ = ["Framing", "Projective", "Step", "Warp", "framed"]
